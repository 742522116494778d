"""What goes wrong, in words and with the right status: never a bare page, never a trace."""

import errno
import logging
import sqlite3

from fastapi import FastAPI, Request, Response
from fastapi.exceptions import RequestValidationError
from sqlalchemy.exc import DBAPIError
from starlette.exceptions import HTTPException

from iron_gulp.services.workshop import Busy, NoPlace, NotFound, Unfit, Unreadable

from .parts.rendering import error_page, page, workshop_of

log = logging.getLogger("iron_gulp.web")
DAMAGED = "the database is damaged. Stop the server; its next start says how the last whole backup is put back"
REASONS = {
    "full": "the disk is full. Make room and try again",
    "readonly": "the database cannot be written: the file or its folder is read-only",
    "locked": "another program holds the database. Close it and try again",
    "unable to open": "the database file cannot be opened: it was moved, or its folder is gone",
    "malformed": DAMAGED,
    "not a database": DAMAGED,
}
FULL = (errno.ENOSPC, errno.EDQUOT)


def told(found: str) -> str:
    """What a database that cannot be read or written means, in plain words."""
    reason = next((words for key, words in REASONS.items() if key in found), f"the database says: {found}")
    return f"Nothing was saved and nothing is lost: {reason}."


def in_words(app: FastAPI) -> None:
    """Answer every kind of trouble in words."""

    @app.exception_handler(NotFound)
    async def not_found(request: Request, _error: NotFound) -> Response:
        return error_page(request, 404, "This build is not in the garage.")

    @app.exception_handler(Busy)
    async def busy(request: Request, error: Busy) -> Response:
        return error_page(request, 503, f"{str(error)[:1].upper()}{str(error)[1:]}.")

    @app.exception_handler(Unreadable)
    def unreadable(request: Request, error: Unreadable) -> Response:
        build_id = int(request.path_params.get("build_id", 0))
        whole = workshop_of(request).judging.last_readable(build_id) if build_id else None
        log.error("build %s: %s", build_id, error)
        return page(request, "unreadable.html", 409, message=str(error), build_id=build_id, whole=whole)

    @app.exception_handler(DBAPIError)
    @app.exception_handler(sqlite3.Error)
    async def database(request: Request, error: DBAPIError | sqlite3.Error) -> Response:
        found = str(error.orig if isinstance(error, DBAPIError) else error)
        log.error("database: %s", found)
        return error_page(request, 507 if "full" in found else 503, told(found))

    @app.exception_handler(Unfit)
    @app.exception_handler(NoPlace)
    async def unfit(request: Request, error: Unfit | NoPlace) -> Response:
        log.error("%s", error)
        return error_page(request, 503, f"Nothing was done: {error}.")

    @app.exception_handler(OSError)
    async def files(request: Request, error: OSError) -> Response:
        log.error("files: %s", error)
        if error.errno in FULL:
            return error_page(request, 507, told("full"))
        why = error.strerror or "a file cannot be used"
        return error_page(request, 503, f"Nothing was saved and nothing is lost: {why}.")

    @app.exception_handler(HTTPException)
    async def refused(request: Request, error: HTTPException) -> Response:
        message = "There is no such page." if error.status_code == 404 else str(error.detail)
        return error_page(request, error.status_code, message)

    @app.exception_handler(RequestValidationError)
    async def malformed(request: Request, _error: RequestValidationError) -> Response:
        return error_page(request, 404 if request.method == "GET" else 400, "This request cannot be read.")

    @app.exception_handler(Exception)
    async def fault(request: Request, _error: Exception) -> Response:
        return error_page(
            request,
            500,
            "A fault of Iron Gulp itself: nothing was saved. The log in the data folder tells more; "
            "`iron-gulp pack` packs it for a maintainer.",
        )
