"""Serving: the application on an address, with the demo builds where they are asked for."""

import logging
import os
import signal
import socket
import sys

import typer

from iron_gulp import __version__
from iron_gulp.settings import Settings
from iron_gulp.storage.log import log_to

from .shared import DataDir, app, held, refuse, settings_of, workshop_of


def _bound(settings: Settings) -> socket.socket:
    """The address, taken before it is told to anybody."""
    try:
        family = socket.getaddrinfo(settings.host, settings.port, type=socket.SOCK_STREAM)[0][0]
        opened = socket.socket(family, socket.SOCK_STREAM)
        opened.setsockopt(socket.SOL_SOCKET, socket.SO_REUSEADDR, 1)
        opened.bind((settings.host, settings.port))
    except OSError as error:
        refuse(
            [
                f"{settings.host}:{settings.port} cannot be served on: {error.strerror or error}; "
                "choose another with --port or --host"
            ]
        )
    return opened


def _serve(settings: Settings, told: list[str], with_demo: bool) -> None:
    import uvicorn

    from iron_gulp.web.app import create_app
    from iron_gulp.web.door import Door

    address = _bound(settings)
    door = Door.of(settings.host, tuple(settings.names))
    workshop = workshop_of(settings)
    if with_demo:
        loaded = workshop.load_demo()
        typer.echo(f"{loaded} demo builds loaded" if loaded else "The garage already holds builds; nothing was added")
    log = log_to(settings.data)
    for line in told:
        log.warning(line)
    port = address.getsockname()[1]
    # The web server raises the signal that ended it once more: so that what follows here still happens.
    signal.signal(signal.SIGTERM, lambda *_: sys.exit(0))
    log.info("version %s serves on %s:%s", __version__, settings.host, port)
    server = uvicorn.Server(uvicorn.Config(create_app(workshop, door), log_config=None, timeout_graceful_shutdown=1))
    address.listen(2048)
    shown = f"[{settings.host}]" if ":" in settings.host else settings.host
    typer.echo(f"Iron Gulp is at http://{shown}:{port}/ (Ctrl+C stops it)")
    if door.code:
        typer.echo(f"Other machines reach it: they are asked for the access code {door.code}")
    sys.stdout.flush()
    try:
        server.run(sockets=[address])
    except (SystemExit, KeyboardInterrupt):
        pass  # the signal that ended it, once more
    finally:
        workshop.close()
        log.info("stopped")
    sys.stdout.flush()
    logging.shutdown()
    os._exit(0)  # a request that still computes is not waited for: what was answered is on disk


@app.command()
def serve(data: DataDir = None, host: str | None = None, port: int | None = None) -> None:
    """Serve the application."""
    settings = settings_of(data, host=host, port=port)
    with held(settings) as told:
        _serve(settings, told, with_demo=False)


@app.command()
def demo(data: DataDir = None, host: str | None = None, port: int | None = None) -> None:
    """Put the demo builds into an empty garage and serve."""
    settings = settings_of(data, host=host, port=port)
    with held(settings) as told:
        _serve(settings, told, with_demo=True)
