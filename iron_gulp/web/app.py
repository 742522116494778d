"""The web application."""

import gc
from pathlib import Path

from fastapi import FastAPI
from fastapi.staticfiles import StaticFiles

from iron_gulp.services.workshop import Workshop

from .benches import changes, pieces
from .benches.ask import router as ask
from .benches.ceilings import router as ceilings
from .benches.chance import router as chance
from .benches.compare import router as compare
from .benches.cures import router as cures
from .benches.design import router as design
from .benches.draw import router as draw
from .benches.evidence import router as evidence
from .benches.fuel import router as fuel
from .benches.injectors import router as injectors
from .benches.regulator import router as regulator
from .benches.road import router as road
from .benches.stage import router as stage
from .benches.values import router as values
from .bounds import Bounds
from .door import Door
from .garage import asking, files, finding
from .garage import router as garage
from .parts import preferences
from .rates import router as rates
from .shelf import router as shelf
from .trouble import in_words

HERE = Path(__file__).parent


def create_app(workshop: Workshop, door: Door | None = None) -> FastAPI:
    """The application on a workshop, behind a door (loopback alone unless given)."""
    door = door or Door()
    app = FastAPI(title="Iron Gulp", docs_url=None, redoc_url=None, openapi_url=None)
    app.state.workshop = workshop
    calm_collector()
    app.mount("/static", StaticFiles(directory=HERE / "static"), name="static")
    for rooms in (
        ask,
        ceilings,
        chance,
        shelf,
        garage,
        asking,
        files,
        finding,
        preferences,
        changes,
        compare,
        cures,
        design,
        draw,
        evidence,
        fuel,
        injectors,
        regulator,
        road,
        rates,
        stage,
        values,
        pieces,
    ):
        app.include_router(rooms.router)

    app.middleware("http")(door.guard)

    in_words(app)
    app.add_middleware(Bounds)
    return app


def calm_collector() -> None:
    """Let the garbage collector pass over what stays for good, and look seldom.

    A judgement makes some hundred thousand short-lived objects, none of them in cycles; looking through everything the
    application has loaded after every few thousand of them took a quarter of an edit's time.
    """
    gc.collect()
    gc.freeze()
    gc.set_threshold(50_000, 20, 20)
