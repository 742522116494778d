"""The web application."""

import gc
from collections.abc import Awaitable, Callable
from pathlib import Path
from urllib.parse import urlsplit

from fastapi import FastAPI, Request, Response
from fastapi.exceptions import RequestValidationError
from fastapi.staticfiles import StaticFiles
from starlette.exceptions import HTTPException

from iron_gulp.services.workshop import NotFound, Workshop

from .benches import changes, pieces
from .benches.draw import router as draw
from .benches.fuel import router as fuel
from .benches.regulator import router as regulator
from .benches.stage import router as stage
from .garage import files
from .garage import router as garage
from .parts import preferences
from .parts.rendering import error_page
from .shelf import router as shelf

HERE = Path(__file__).parent
POLICY = (
    "default-src 'self'; style-src 'self' 'unsafe-inline'; img-src 'self' data:; "
    "object-src 'none'; base-uri 'self'; form-action 'self'; frame-ancestors 'none'"
)
Next = Callable[[Request], Awaitable[Response]]


def create_app(workshop: Workshop) -> FastAPI:
    """The application on a workshop."""
    app = FastAPI(title="Iron Gulp", docs_url=None, redoc_url=None, openapi_url=None)
    app.state.workshop = workshop
    calm_collector()
    app.mount("/static", StaticFiles(directory=HERE / "static"), name="static")
    for rooms in (shelf, garage, files, preferences, changes, draw, fuel, regulator, stage, pieces):
        app.include_router(rooms.router)

    @app.middleware("http")
    async def guard(request: Request, call_next: Next) -> Response:
        """Refuse changes asked for by other sites, and say what pages may load."""
        if request.method not in ("GET", "HEAD") and not _same_site(request):
            return error_page(request, 403, "This change was asked for by another site and was refused.")
        response = await call_next(request)
        response.headers["Content-Security-Policy"] = POLICY
        response.headers["X-Content-Type-Options"] = "nosniff"
        response.headers["Referrer-Policy"] = "same-origin"
        if not request.url.path.startswith("/static/"):
            response.headers["Cache-Control"] = "no-store"
        return response

    @app.exception_handler(NotFound)
    async def not_found(request: Request, _error: NotFound) -> Response:
        return error_page(request, 404, "This build is not in the garage.")

    @app.exception_handler(HTTPException)
    async def refused(request: Request, error: HTTPException) -> Response:
        message = "There is no such page." if error.status_code == 404 else str(error.detail)
        return error_page(request, error.status_code, message)

    @app.exception_handler(RequestValidationError)
    async def malformed(request: Request, _error: RequestValidationError) -> Response:
        return error_page(request, 404 if request.method == "GET" else 400, "This request cannot be read.")

    return app


def calm_collector() -> None:
    """Let the garbage collector pass over what stays for good, and look seldom.

    A judgement makes some hundred thousand short-lived objects, none of them in cycles; looking through everything the
    application has loaded after every few thousand of them took a quarter of an edit's time.
    """
    gc.collect()
    gc.freeze()
    gc.set_threshold(50_000, 20, 20)


def _same_site(request: Request) -> bool:
    fetched_from = request.headers.get("sec-fetch-site")
    if fetched_from is not None:
        return fetched_from in ("same-origin", "none")
    origin = request.headers.get("origin")
    return origin is None or urlsplit(origin).netloc == request.headers.get("host")
