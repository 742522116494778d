"""The command line: serve, demo, solve, chance, ceilings, design, export, import, backup, restore, pack, schema."""

import json
import signal
import sqlite3
import sys
from collections.abc import Iterator
from contextlib import contextmanager
from pathlib import Path
from typing import Annotated, NoReturn

import typer
from pydantic import ValidationError
from sqlalchemy.exc import DatabaseError

from iron_gulp import __version__
from iron_gulp.core.account import chance_report, solve_report
from iron_gulp.core.model import Build, Rates, problems_of
from iron_gulp.core.plan import Locks, Search, front_told
from iron_gulp.core.study import DRAWS, SEED, envelope
from iron_gulp.formats import build_file, envelope_csv
from iron_gulp.formats.build_file import BuildFileError
from iron_gulp.services.workshop import NewerDatabase, NotFound, Workshop
from iron_gulp.settings import Settings
from iron_gulp.shelf import load_shelf
from iron_gulp.storage.attachments import folder_beside
from iron_gulp.storage.backup import Damaged, InUse, alone, copy_files, keep_copy, latest_copy, put_back, write_copy
from iron_gulp.storage.log import log_to
from iron_gulp.storage.pack import pack as write_pack

app = typer.Typer(help="Iron Gulp: fuel-system sizing.", no_args_is_help=True, pretty_exceptions_enable=False)
DataDir = Annotated[Path | None, typer.Option("--data", help="Folder of the database.")]
BAD_INPUT = 2


def _tell_version(asked: bool) -> None:
    if asked:
        typer.echo(__version__)
        raise typer.Exit


@app.callback()
def main(
    version: Annotated[
        bool, typer.Option("--version", callback=_tell_version, is_eager=True, help="Say which version this is.")
    ] = False,
) -> None:
    """Iron Gulp: fuel-system sizing."""


def _settings(data: Path | None) -> Settings:
    return Settings() if data is None else Settings(data=data)


def _refuse(lines: list[str]) -> NoReturn:
    for line in lines:
        typer.echo(line, err=True)
    raise typer.Exit(BAD_INPUT)


def _workshop(settings: Settings) -> Workshop:
    try:
        return Workshop(settings.database)
    except NewerDatabase as error:
        _refuse([str(error)])
    except Damaged as error:
        copy = latest_copy(settings.database)
        offer = (
            "there is no backup of it"
            if copy is None
            else f"the last whole backup is put back by: iron-gulp restore {copy}"
        )
        _refuse([f"the database is damaged: {error}", offer])
    except OSError as error:
        _refuse([f"{settings.data}: {error.strerror}"])
    except DatabaseError as error:
        _refuse([f"{settings.database}: {error.orig}; nothing was changed"])


@contextmanager
def _alone(settings: Settings) -> Iterator[None]:
    """The folder held for one server."""
    try:
        with alone(settings.data):
            yield
    except InUse as error:
        _refuse([str(error)])


def _read(file: Path) -> Build:
    try:
        return build_file.read(file.read_bytes())
    except OSError as error:
        _refuse([f"{file}: {error.strerror}"])
    except BuildFileError as error:
        _refuse([f"{file}: {problem.path or 'file'}: {problem.message}" for problem in error.problems])


def _serve(settings: Settings) -> None:
    import uvicorn

    from iron_gulp.web.app import create_app
    from iron_gulp.web.door import Door

    door = Door.of(settings.host, tuple(settings.names))
    workshop = _workshop(settings)
    log = log_to(settings.data)
    # The web server raises the signal that ended it once more: so that what follows here still happens.
    signal.signal(signal.SIGTERM, lambda *_: sys.exit(0))
    log.info("version %s serves on %s:%s", __version__, settings.host, settings.port)
    typer.echo(f"Iron Gulp is at http://{settings.host}:{settings.port}/ (Ctrl+C stops it)")
    if door.code:
        typer.echo(f"Other machines reach it: they are asked for the access code {door.code}")
    try:
        uvicorn.run(create_app(workshop, door), host=settings.host, port=settings.port, log_config=None)
    finally:
        log.info("stopped")
        workshop.close()


@app.command()
def serve(data: DataDir = None, host: str | None = None, port: int | None = None) -> None:
    """Serve the application."""
    settings = _settings(data)
    with _alone(settings):
        _serve(settings.model_copy(update={k: v for k, v in {"host": host, "port": port}.items() if v is not None}))


@app.command()
def demo(data: DataDir = None, host: str | None = None, port: int | None = None) -> None:
    """Put the demo builds into an empty garage and serve."""
    settings = _settings(data)
    with _alone(settings):
        workshop = _workshop(settings)
        loaded = workshop.load_demo()
        workshop.close()
        typer.echo(f"{loaded} demo builds loaded" if loaded else "The garage already holds builds; nothing was added")
        _serve(settings.model_copy(update={k: v for k, v in {"host": host, "port": port}.items() if v is not None}))


@app.command()
def solve(
    file: Path,
    option: Annotated[str | None, typer.Option(help="Option id; the first when left out.")] = None,
    target: Annotated[
        str | None, typer.Option("--target", "--duty", help="Target id; the first when left out (formerly --duty).")
    ] = None,
) -> None:
    """Print the complete solution of a target of a build file as JSON."""
    build = _read(file)
    try:
        typer.echo(json.dumps(solve_report(build, option, target), indent=2, ensure_ascii=False))
    except KeyError as error:
        _refuse([str(error.args[0])])


@app.command()
def chance(
    file: Path,
    option: Annotated[str | None, typer.Option(help="Option id; the first when left out.")] = None,
    draws: Annotated[int, typer.Option(min=1, max=20_000, help="Cars drawn.")] = DRAWS,
    seed: Annotated[int, typer.Option(min=0, help="The same seed draws the same cars.")] = SEED,
) -> None:
    """Print the chance that an option of a build file carries its targets, and quantiles of every load, as JSON."""
    build = _read(file)
    try:
        typer.echo(json.dumps(chance_report(build, option, draws, seed), indent=2, ensure_ascii=False))
    except KeyError as error:
        _refuse([str(error.args[0])])


@app.command()
def ceilings(
    file: Path,
    option: Annotated[str | None, typer.Option(help="Option id; the first when left out.")] = None,
    target: Annotated[str | None, typer.Option(help="Target id; the first when left out.")] = None,
) -> None:
    """Print the power at which each component runs out on every blend, as CSV."""
    build = _read(file)
    try:
        found = envelope(build, build.option(option), build.target(target))
    except KeyError as error:
        _refuse([str(error.args[0])])
    typer.echo(envelope_csv.write(found), nl=False)


@app.command()
def export(build_id: int, file: Path, data: DataDir = None) -> None:
    """Write a build of the garage to a build file."""
    try:
        _, text = _workshop(_settings(data)).documents.export(build_id)
        file.write_text(text, encoding="utf-8")
    except NotFound as error:
        _refuse([str(error)])
    except OSError as error:
        _refuse([f"{file}: {error.strerror}"])


@app.command()
def design(
    file: Path,
    option: Annotated[str | None, typer.Option()] = None,
    keep: Annotated[list[str] | None, typer.Option()] = None,
    returns: Annotated[str, typer.Option()] = "either",
    most_pumps: Annotated[int, typer.Option()] = 3,
    budget: Annotated[float | None, typer.Option()] = None,
    base_pressure: Annotated[str, typer.Option(help="may change, or as it is")] = "may change",
    booster: Annotated[str, typer.Option(help="none, or where it helps; a helper pump in line as well")] = "none",
    headroom: Annotated[float | None, typer.Option(help="per cent")] = None,
    workers: Annotated[int, typer.Option(min=1, max=64)] = 1,
) -> None:
    """Search the shelf for complete systems that nothing beats in cost, headroom and complexity; prints them as JSON."""
    build = _read(file)
    try:
        chosen = build.option(option)
        told = {"keep": tuple(keep or ()), "returns": returns, "most_pumps": most_pumps, "budget": budget}
        told |= {"base_pressure": base_pressure, "booster": booster, "headroom_pct": headroom}
        locks = Locks.model_validate(told)
    except KeyError as error:
        _refuse([str(error.args[0])])
    except ValidationError as error:
        _refuse([f"{one.path}: {one.message}" for one in problems_of(error)])
    before = next((one for one in build.options if one.id == build.fitted_today), None)
    search = Search(build, chosen, load_shelf().catalogue, Rates(), locks, before)
    for found in search.run(workers=workers):
        typer.echo(f"{found.tried} systems judged, {len(found.front)} designs", err=True)
    typer.echo(json.dumps(front_told(search.found), indent=2, ensure_ascii=False))


@app.command("import")
def import_(file: Path, data: DataDir = None) -> None:
    """Read a build file into the garage; prints the new build's id."""
    build = _read(file)
    typer.echo(_workshop(_settings(data)).garage.import_build(build_file.write(build)))


@app.command()
def backup(file: Annotated[Path | None, typer.Argument()] = None, data: DataDir = None) -> None:
    """Write a checked copy of the database, to FILE or among its backups; the server may run meanwhile."""
    settings = _settings(data)
    if not settings.database.exists():
        _refuse([f"{settings.database}: there is no database yet"])
    try:
        if file is None:
            file = keep_copy(settings.database, "by-hand")
        else:
            write_copy(settings.database, file)
            copy_files(folder_beside(settings.database), folder_beside(file))
    except (Damaged, OSError, sqlite3.Error) as error:
        _refuse([f"no backup was written: {error}"])
    typer.echo(f"{file} is a whole copy")


@app.command()
def restore(file: Path, data: DataDir = None) -> None:
    """Make a backup the database again; what stood there is moved aside, not removed."""
    settings = _settings(data)
    with _alone(settings):
        try:
            aside = put_back(settings.database, file)
        except (Damaged, OSError, sqlite3.Error) as error:
            _refuse([f"nothing was restored: {error}"])
    typer.echo(f"{settings.database} is what {file} was" + (f"; what stood there is now {aside}" if aside else ""))


@app.command()
def pack(file: Annotated[Path, typer.Argument()] = Path("iron-gulp-pack.zip"), data: DataDir = None) -> None:
    """Pack what a maintainer needs into FILE: versions, the database's state, the log; no build, no client's name."""
    settings = _settings(data)
    try:
        told = write_pack(settings.data, settings.database, file)
    except OSError as error:
        _refuse([f"nothing was packed: {error}"])
    typer.echo(f"{file} holds {', '.join(told)}")


@app.command()
def schema() -> None:
    """Print the JSON Schema of the build file."""
    typer.echo(json.dumps(build_file.schema(), indent=2, ensure_ascii=False))


if __name__ == "__main__":
    app()
