"""Who is let in: the host asked for, the site a change comes from, the code off loopback; headers on every answer."""

import asyncio
import ipaddress
import secrets
from collections.abc import Awaitable, Callable
from dataclasses import dataclass
from urllib.parse import urlsplit

from fastapi import Request, Response
from fastapi.responses import RedirectResponse

from .parts.rendering import error_page, page

Next = Callable[[Request], Awaitable[Response]]
COOKIE = "iron_gulp_code"
PATIENCE_S = 0.5  # a wrong code is answered slowly
LOOPBACK = ("127.0.0.1", "localhost", "[::1]", "testserver")
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


@dataclass(frozen=True)
class Door:
    """What is served: host names answered to (None: any, where a code guards), and the code asked for ("" for none)."""

    hosts: tuple[str, ...] | None = LOOPBACK
    code: str = ""

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
        response = await self._answer(request, call_next)
        for name, value in HEADERS.items():
            response.headers[name] = value
        if not request.url.path.startswith("/static/"):
            response.headers["Cache-Control"] = "no-store"
        return response

    async def _answer(self, request: Request, call_next: Next) -> Response:
        if not self._known(request.headers.get("host", "")):
            return error_page(request, 421, "This server does not answer to that name.")
        if request.method not in ("GET", "HEAD", "OPTIONS") and not _same_site(request):
            return error_page(request, 403, "This change was asked for by another site and was refused.")
        if self.code and not request.url.path.startswith("/static/"):
            if request.url.path == "/enter":
                return await self._enter(request)
            if not secrets.compare_digest(request.cookies.get(COOKIE, "").encode(), self.code.encode()):
                return page(request, "enter.html", 401, wrong=False)
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
            await asyncio.sleep(PATIENCE_S)
            return page(request, "enter.html", 401, wrong=True)
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
