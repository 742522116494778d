"""Backups: the whole garage in one file, opened and checked before it stands under its name, made while others write."""

import re
from collections.abc import Iterator
from datetime import UTC, datetime
from pathlib import Path
from typing import BinaryIO

from . import archive
from .attachments import folder_beside
from .health import HEADER, Unfit, garage_in
from .whole import half_of, made_whole

KEPT = 5
ENDING = ".irongulp.zip"
# Backups of earlier versions are copies of the database, with their files in a folder beside them.
NAMED = re.compile(r"(?P<why>[a-z][a-z-]*)-(?P<stamp>\d{8}-\d{6}-\d{6})(?:\.irongulp\.zip|\.sqlite3)")


class NoPlace(RuntimeError):
    """A backup cannot be written there; the message says why."""


def folder_of(database: Path) -> Path:
    """Where backups of a database are kept."""
    return database.parent / "backups"


def stamp() -> str:
    """This moment as part of a name that sorts by age."""
    return datetime.now(UTC).strftime("%Y%m%d-%H%M%S-%f")


def same_file(one: Path, other: Path) -> bool:
    """Whether two paths are one file, by whatever name or link."""
    return one.exists() and other.exists() and one.samefile(other)


def write_backup(database: Path, file: Path) -> archive.Manifest:
    """Write the whole garage into one file, checked by opening it; it stands under its name only when it is good.

    An earlier backup of that name is replaced; anything else that stands there is refused.
    Raises NoPlace, Unfit, OSError, sqlite3.Error (a full disk, a locked database).
    """
    _has_place(database, file)
    taken, looked = half_of(file), half_of(file)
    found: list[archive.Manifest] = []

    def make(out: BinaryIO) -> None:
        schema = archive.snapshot(database, taken)
        archive.write(out, taken, schema, folder_beside(database))
        out.flush()
        found.append(archive.verify(Path(out.name), looked))

    try:
        made_whole(file, make)
    finally:
        for one in (taken, looked):
            one.unlink(missing_ok=True)
    return found[0]


def _has_place(database: Path, file: Path) -> None:
    """Raises NoPlace where a backup would take the place of something, or has none."""
    if file.is_dir():
        raise NoPlace(f"{file} is a folder; name a file in it")
    if not file.parent.is_dir():
        raise NoPlace(f"the folder {file.parent} is not there")
    live = [database.with_name(database.name + rest) for rest in ("", "-wal", "-shm", "-journal")]
    if any(same_file(file, one) or file.absolute() == one.absolute() for one in live):
        raise NoPlace(f"{file} is the garage itself; name another file")
    if file.exists() and not _is_backup(file):
        raise NoPlace(f"{file} is there already and is no backup of Iron Gulp; it was left as it is")


def _is_backup(file: Path) -> bool:
    """Whether a file is an earlier backup, of either kind, that a new one may take the place of."""
    if not file.is_file():
        return False
    try:
        with file.open("rb") as opened:
            if opened.read(len(HEADER)) == HEADER:
                garage_in(file)
            else:
                archive.manifest_of(file)
    except Unfit:
        return False
    return True


def keep_backup(database: Path, why: str) -> Path:
    """A dated backup in the folder beside the database. Of those made for the same reason the last five are kept, and
    the last of every month. Raises NoPlace, Unfit, OSError, sqlite3.Error."""
    folder = folder_of(database)
    folder.mkdir(parents=True, exist_ok=True)
    file = folder / f"{why}-{stamp()}{ENDING}"
    write_backup(database, file)
    for old in _past_keeping(folder, why):
        old.unlink(missing_ok=True)
    return file


def _past_keeping(folder: Path, why: str) -> Iterator[Path]:
    """What is neither among the last five made for a reason nor the last of its month."""
    dated = sorted((found["stamp"], one) for one in folder.iterdir() if (found := _named(one)) and found["why"] == why)
    last_of_month = {moment[:6]: one for moment, one in dated}
    yield from (one for moment, one in dated[:-KEPT] if last_of_month[moment[:6]] != one)


def _named(one: Path) -> re.Match[str] | None:
    return NAMED.fullmatch(one.name)


def backups_of(database: Path) -> list[Path]:
    """Backups kept beside a database, the newest first, looked into or not."""
    found = (one for one in folder_of(database).glob("*") if one.name.endswith((ENDING, ".sqlite3")) and one.is_file())
    return sorted(found, key=lambda one: one.stat().st_mtime, reverse=True)
