"""What every command starts from: settings, the garage, a build file read. What goes wrong ends in words and exit 2."""

import shlex
import sqlite3
from collections.abc import Iterator
from contextlib import contextmanager
from pathlib import Path
from typing import Annotated, Any, NoReturn

import typer
from pydantic import ValidationError
from sqlalchemy.exc import DBAPIError
from typer.core import TyperGroup

from iron_gulp import __version__
from iron_gulp.core.model import Build, problems_of
from iron_gulp.formats import build_file
from iron_gulp.formats.build_file import BuildFileError
from iron_gulp.services.workshop import NotFound, Workshop
from iron_gulp.settings import Settings
from iron_gulp.storage.backup import NoPlace
from iron_gulp.storage.health import Damaged, Unfit
from iron_gulp.storage.hold import InUse, alone
from iron_gulp.storage.restoring import JOURNAL, Displaced, Itself, UnderWay, settle, way_back
from iron_gulp.storage.whole import sweep

BAD_INPUT = 2
DataDir = Annotated[Path | None, typer.Option("--data", help="Folder of the database.")]


TROUBLE = (Unfit, NoPlace, Itself, Displaced, UnderWay, InUse, NotFound, OSError, DBAPIError, sqlite3.Error)


class InWords(TyperGroup):
    """A group whose commands end in a sentence where files, disks or databases fail them."""

    def invoke(self, ctx: Any) -> Any:
        """Run a command; what it could not do is said, with exit code 2."""
        try:
            return super().invoke(ctx)
        except BrokenPipeError:
            raise  # whoever reads has gone: the terminal's own affair
        except TROUBLE as error:
            refuse([worded(error)])


def worded(error: BaseException) -> str:
    """What went wrong with files, disk or database, as a sentence."""
    if isinstance(error, OSError):
        return f"{error.filename}: {error.strerror}" if error.filename else str(error.strerror or error)
    if isinstance(error, DBAPIError | sqlite3.Error):
        told = error.orig if isinstance(error, DBAPIError) else error
        return f"the database cannot be used: {told}"
    return str(error)


@contextmanager
def or_say(what: str) -> Iterator[None]:
    """What did not happen is said before why it did not."""
    try:
        yield
    except TROUBLE as error:
        refuse([f"{what}: {worded(error)}"])


app = typer.Typer(
    help="Iron Gulp: fuel-system sizing.", no_args_is_help=True, pretty_exceptions_enable=False, cls=InWords
)


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


def refuse(lines: list[str]) -> NoReturn:
    """End with exit code 2, saying why."""
    for line in lines:
        typer.echo(line, err=True)
    raise typer.Exit(BAD_INPUT)


def settings_of(data: Path | None, **told: Any) -> Settings:
    """Settings of the environment and of the command line; what is out of range is refused in words."""
    given = {"data": data, **told}
    try:
        return Settings(**{name: value for name, value in given.items() if value is not None})
    except ValidationError as error:
        refuse([f"{one.path or 'setting'}: {one.message}" for one in problems_of(error)])


def workshop_of(settings: Settings, create: bool = True) -> Workshop:
    """The garage of a data folder, made where it may be and is not there yet."""
    if not create and not settings.database.exists() and not (settings.data / JOURNAL).exists():
        refuse([f"{settings.database}: there is no database yet"])
    try:
        if (settings.data / JOURNAL).exists():
            with alone(settings.data):
                say(settle(settings.database))
        return Workshop(settings.database)
    except Damaged as error:
        refuse([f"the database is damaged: {error}", way_back(settings.database)])


def say(lines: list[str]) -> None:
    """Tell what was found or done, beside what a command prints."""
    for line in lines:
        typer.echo(line, err=True)


@contextmanager
def held(settings: Settings) -> Iterator[list[str]]:
    """The folder held for one server, with what a kill left of a restore ended and halves swept; gives what to say."""
    with alone(settings.data):
        told = settle(settings.database)
        sweep(settings.data)
        say(told)
        yield told


def read_build(file: Path) -> Build:
    """A build of a file, which is read no further than a build file may be long."""
    if file.is_dir():
        refuse([f"{file} is a folder; name a build file"])
    with file.open("rb") as opened:
        content = opened.read(build_file.LARGEST_BYTES + 1)
    try:
        return build_file.read(content)
    except BuildFileError as error:
        refuse([f"{file}: {problem.path or 'file'}: {problem.message}" for problem in error.problems])


def read_small(file: Path) -> bytes:
    """What stands in a file of answers, which is read no further than a build file may be long."""
    if file.is_dir():
        refuse([f"{file} is a folder; name a file of answers"])
    with file.open("rb") as opened:
        content = opened.read(build_file.LARGEST_BYTES + 1)
    if len(content) > build_file.LARGEST_BYTES:
        refuse([f"{file}: the file is larger than {build_file.LARGEST_BYTES // 1_000_000} MB"])
    return content


def quoted(path: Path) -> str:
    """A path as it is typed in a shell."""
    return shlex.quote(str(path))
