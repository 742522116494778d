"""Bodies of requests are taken in before anything reads them: no larger than their address bears, and no slower.

What is larger is refused by what it says of itself, or once it has sent too much; a body that trickles in is refused
after a while. Both come before the access code is looked at, hold no thread, and keep little in memory.
"""

import asyncio
import re
import time
from tempfile import SpooledTemporaryFile
from typing import IO

from fastapi import Request, Response
from starlette.types import ASGIApp, Message, Receive, Scope, Send

from iron_gulp.formats import build_file, controller_table
from iron_gulp.storage.attachments import LARGEST_BYTES

from .door import dress
from .parts.rendering import error_page

FORM = 256_000
AROUND = 16_000  # what a form adds around a file
TABLES = re.compile(r"/builds/[^/]+/values/table|/shelf/[^/]+/import")
TABLES = re.compile(r"/builds/[^/]+/values/table|/shelf/[^/]+/import")
LIMITS: tuple[tuple[re.Pattern[str], int, str], ...] = (
    (re.compile(r"/enter"), 4_000, "4 kB"),
    (re.compile(r"/builds/import"), build_file.LARGEST_BYTES + AROUND, "4 MB for a build file"),
    (re.compile(r"/builds/[^/]+/evidence/files"), LARGEST_BYTES + AROUND, "25 MB for a file"),
    (TABLES, controller_table.LARGEST_BYTES + AROUND, "2 MB for a table"),
)
PATIENCE_S, SLOWEST_BYTES_S = 15.0, 10_000
IN_MEMORY, PIECE = 512_000, 64_000


def limit_of(path: str) -> tuple[int, str]:
    """The largest body that an address takes, in bytes and in words."""
    return next(((most, words) for known, most, words in LIMITS if known.fullmatch(path)), (FORM, "256 kB"))


class Bounds:
    """The application within bounds."""

    def __init__(self, app: ASGIApp):
        self._app = app

    async def __call__(self, scope: Scope, receive: Receive, send: Send) -> None:
        """Answer a request, or refuse its body."""
        headers = dict(scope.get("headers", ())) if scope["type"] == "http" else {}
        if not headers.keys() & {b"content-length", b"transfer-encoding"}:
            await self._app(scope, receive, send)
            return
        most, words = limit_of(scope["path"])
        try:
            declared = int(headers.get(b"content-length", b"0"))
        except ValueError:
            declared = 0
        if declared > most:
            await self._refuse(scope, receive, send, 413, _large(words))
            return
        with SpooledTemporaryFile(max_size=IN_MEMORY) as body:
            refusal = await _taken_in(receive, body, most, words)
            if refusal is None:
                body.seek(0)
                await self._app(scope, _replayed(body, receive), send)
            elif refusal[0]:
                await self._refuse(scope, receive, send, *refusal)

    @staticmethod
    async def _refuse(scope: Scope, receive: Receive, send: Send, status: int, message: str) -> None:
        request = Request(dict(scope))
        answer: Response = dress(request, error_page(request, status, message))
        if status == 408:
            answer.headers["Connection"] = "close"
        await answer(scope, receive, send)


def _large(words: str) -> str:
    return f"This is too large: at most {words} can be taken here. Nothing was changed."


async def _taken_in(receive: Receive, body: IO[bytes], most: int, words: str) -> tuple[int, str] | None:
    """Take a body in; why it is refused, None where it is whole, status 0 where whoever sent it has gone."""
    size, begun = 0, time.monotonic()
    while True:
        left = max(PATIENCE_S, size / SLOWEST_BYTES_S) - (time.monotonic() - begun)
        try:
            message = await asyncio.wait_for(receive(), max(left, 0.0))
        except TimeoutError:
            return 408, "This came in too slowly and was given up. Nothing was changed; try again."
        if message["type"] != "http.request":
            return 0, ""
        piece = message.get("body", b"")
        size += len(piece)
        if size > most:
            return 413, _large(words)
        body.write(piece)
        if not message.get("more_body", False):
            return None


def _replayed(body: IO[bytes], receive: Receive) -> Receive:
    """The body once more, for whoever reads it; then whatever else happens to the request."""
    ended = False

    async def next_piece() -> Message:
        nonlocal ended
        if ended:
            return await receive()
        piece = body.read(PIECE)
        ended = len(piece) < PIECE
        return {"type": "http.request", "body": piece, "more_body": not ended}

    return next_piece
