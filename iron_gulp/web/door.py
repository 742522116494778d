"""Who is let in: the host asked for, the site a change comes from, the code off loopback; headers on every answer."""

import asyncio
import ipaddress
import logging
import secrets
from collections.abc import Awaitable, Callable
from dataclasses import dataclass, field
from urllib.parse import urlsplit

from fastapi import Request, Response
from fastapi.responses import RedirectResponse

from .parts.rendering import error_page, page

Next = Callable[[Request], Awaitable[Response]]
COOKIE = "iron_gulp_code"
PATIENCE_S, MOST_WAITING = 0.5, 20  # a wrong code is answered slowly
LOOPBACK = ("127.0.0.1", "localhost", "[::1]")
log = logging.getLogger("iron_gulp.door")
HEADERS = {
    "Content-Security-Policy": (
        "default-src 'self'; style-src 'self' 'unsafe-inline'; img-src 'self' data:; "
        "object-src 'none'; base-uri 'self'; form-action 'self'; frame-ancestors 'none'"
    ),
    "X-Content-Type-Options": "nosniff",
    "X-Frame-Options": "DENY",
    "Referrer-Policy": "same-origin",
    "Cross-Origin-Opener-Policy": "same-origin",
    "Cross-Origin-Resource-Policy": "same-origin",
    "Permissions-Policy": "camera=(), microphone=(), geolocation=()",
}


def on_loopback(host: str) -> bool:
    """Whether only this machine reaches a host name or address."""
    try:
        return ipaddress.ip_address(host.strip("[]")).is_loopback
    except ValueError:
        return host == "localhost"


def new_code() -> str:
    """An access code to be read from a screen and typed on another: twelve letters and digits, none alike."""
    return "-".join("".join(secrets.choice("abcdefghjkmnpqrstuvwxyz23456789") for _ in range(4)) for _ in range(3))


def dress(request: Request, response: Response) -> Response:
    """An answer with the headers that every answer has."""
    for name, value in HEADERS.items():
        response.headers[name] = value
    if not request.url.path.startswith("/static/"):
        response.headers["Cache-Control"] = "no-store"
    return response


class Turnstile:
    """Wrong codes are answered one after another and logged; who has the right one never waits here."""

    def __init__(self) -> None:
        self._waiting, self._turn = 0, asyncio.Lock()

    async def wrong(self, request: Request) -> Response:
        """The answer to a wrong code, late; at once where many wait already."""
        sender = request.client.host if request.client else "somebody"
        log.warning("a wrong access code from %s", sender)
        late = self._waiting < MOST_WAITING
        if late:
            self._waiting += 1
            try:
                async with self._turn:
                    await asyncio.sleep(PATIENCE_S)
            finally:
                self._waiting -= 1
        answer = page(request, "enter.html", 401 if late else 429, wrong=True)
        answer.delete_cookie(COOKIE)  # one of an earlier start is not shown, and not waited for, again
        return answer


@dataclass(frozen=True)
class Door:
    """What is served: host names answered to (None: any, where a code guards), and the code asked for ("" for none)."""

    hosts: tuple[str, ...] | None = LOOPBACK
    code: str = ""
    turnstile: Turnstile = field(default_factory=Turnstile)

    @classmethod
    def of(cls, host: str, names: tuple[str, ...] = ()) -> "Door":
        """The door of a server on an address; off loopback it asks for a code and answers to its names."""
        if on_loopback(host):
            return cls((*LOOPBACK, host, *names))
        everywhere = host in ("0.0.0.0", "::")
        return cls(
            (host, *LOOPBACK, *names) if not everywhere else (None if not names else (*LOOPBACK, *names)), new_code()
        )

    async def guard(self, request: Request, call_next: Next) -> Response:
        """Let a request in or refuse it in words."""
        return dress(request, await self._answer(request, call_next))

    async def _answer(self, request: Request, call_next: Next) -> Response:
        if not self._known(request.headers.get("host", "")):
            return error_page(request, 421, "This server does not answer to that name.")
        if request.method not in ("GET", "HEAD", "OPTIONS") and not _same_site(request):
            return error_page(request, 403, "This change was asked for by another site and was refused.")
        if self.code and not request.url.path.startswith("/static/"):
            if request.url.path == "/enter":
                return await self._enter(request)
            shown = request.cookies.get(COOKIE, "")
            if not secrets.compare_digest(shown.encode("utf-8", "replace"), self.code.encode()):
                # A code of an earlier start is a wrong one too: or guesses would go unseen in a cookie.
                return await self.turnstile.wrong(request) if shown else page(request, "enter.html", 401, wrong=False)
        return await call_next(request)

    def _known(self, host: str) -> bool:
        if self.hosts is None:
            return True
        name = host if host.endswith("]") else host.rsplit(":", 1)[0]
        return name.lower() in self.hosts

    async def _enter(self, request: Request) -> Response:
        if request.method != "POST":
            return page(request, "enter.html", 401, wrong=False)
        body = (await request.body())[:400].decode("utf-8", "replace")
        typed = body.removeprefix("code=").strip().lower().replace("+", "").replace("%20", "")
        if not secrets.compare_digest(typed.encode(), self.code.encode()):
            return await self.turnstile.wrong(request)
        answer = RedirectResponse("/", 303)
        answer.set_cookie(COOKIE, self.code, httponly=True, samesite="strict", max_age=60 * 60 * 24 * 90)
        return answer


def _same_site(request: Request) -> bool:
    """Whether a change comes from a page of this server, or from no browser at all."""
    fetched_from, origin = request.headers.get("sec-fetch-site"), request.headers.get("origin")
    if origin is not None:
        try:
            parts = urlsplit(origin)
        except ValueError:
            return False
        if parts.scheme not in ("http", "https") or parts.netloc.lower() != request.headers.get("host", "").lower():
            return False
    if fetched_from is not None:
        return fetched_from in ("same-origin", "none")
    browser = "mozilla" in request.headers.get("user-agent", "").lower()
    return origin is not None or not browser
