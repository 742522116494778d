"""The web application."""

import gc
from pathlib import Path

from fastapi import FastAPI, Request, Response
from fastapi.exceptions import RequestValidationError
from fastapi.staticfiles import StaticFiles
from sqlalchemy.exc import OperationalError
from starlette.exceptions import HTTPException

from iron_gulp.services.workshop import NotFound, Workshop

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
from .door import Door
from .garage import asking, files, finding
from .garage import router as garage
from .parts import preferences
from .parts.rendering import error_page
from .rates import router as rates
from .shelf import router as shelf

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

    @app.exception_handler(NotFound)
    async def not_found(request: Request, _error: NotFound) -> Response:
        return error_page(request, 404, "This build is not in the garage.")

    @app.exception_handler(OperationalError)
    async def storage(request: Request, error: OperationalError) -> Response:
        return error_page(request, 507 if "full" in str(error.orig) else 503, _trouble(str(error.orig)))

    @app.exception_handler(HTTPException)
    async def refused(request: Request, error: HTTPException) -> Response:
        message = "There is no such page." if error.status_code == 404 else str(error.detail)
        return error_page(request, error.status_code, message)

    @app.exception_handler(RequestValidationError)
    async def malformed(request: Request, _error: RequestValidationError) -> Response:
        return error_page(request, 404 if request.method == "GET" else 400, "This request cannot be read.")

    return app


def _trouble(told: str) -> str:
    """What a database that cannot be written means, in plain words."""
    reasons = {
        "full": "the disk is full. Make room and try again",
        "readonly": "the database cannot be written: the file or its folder is read-only",
        "locked": "another program holds the database. Close it and try again",
        "unable to open": "the database file cannot be opened: it was moved, or its folder is gone",
    }
    reason = next((words for key, words in reasons.items() if key in told), f"the database says: {told}")
    return f"Nothing was saved and nothing is lost: {reason}."


def calm_collector() -> None:
    """Let the garbage collector pass over what stays for good, and look seldom.

    A judgement makes some hundred thousand short-lived objects, none of them in cycles; looking through everything the
    application has loaded after every few thousand of them took a quarter of an edit's time.
    """
    gc.collect()
    gc.freeze()
    gc.set_threshold(50_000, 20, 20)
