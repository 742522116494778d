"""Copies of the database: whole, checked after writing, made by SQLite's own online backup while others write."""

import fcntl
import sqlite3
from collections.abc import Iterator
from contextlib import closing, contextmanager
from datetime import UTC, datetime
from pathlib import Path

from .attachments import folder_beside, write_whole

KEPT = 5


class Damaged(RuntimeError):
    """A database file that is not whole, or no database."""


def check(path: Path) -> None:
    """Look a database through. Raises Damaged with what SQLite finds."""
    try:
        with closing(sqlite3.connect(f"file:{path}?mode=ro", uri=True)) as connection:
            found = [row[0] for row in connection.execute("PRAGMA quick_check(3)")]
    except sqlite3.DatabaseError as error:
        raise Damaged(f"{path}: {error}") from None
    if found != ["ok"]:
        raise Damaged(f"{path}: {'; '.join(found)}")


def write_copy(source: Path, copy: Path) -> None:
    """A whole copy of a database in use; it is checked, and stands under its name only when it is good.

    Raises Damaged, OSError, sqlite3.OperationalError (a full disk).
    """
    half = copy.with_name(copy.name + ".part")
    try:
        with closing(sqlite3.connect(f"file:{source}?mode=ro", uri=True)) as one, closing(sqlite3.connect(half)) as other:
            one.backup(other)
            other.execute("PRAGMA journal_mode=DELETE")
        check(half)
        half.replace(copy)
    finally:
        half.unlink(missing_ok=True)


def folder_of(database: Path) -> Path:
    """Where copies of a database are kept."""
    return database.parent / "backups"


def copy_files(source: Path, target: Path) -> int:
    """Copy kept files that are not there yet, each whole or not at all; gives how many. Raises OSError.

    A file stands under the hash of its content and is never changed, so what is there already is the same.
    """
    count = 0
    for one in sorted(source.glob("*/*")):
        there = target / one.parent.name / one.name
        if one.suffix == ".part" or (there.is_file() and there.stat().st_size == one.stat().st_size):
            continue
        there.parent.mkdir(parents=True, exist_ok=True)
        write_whole(there, one.read_bytes())
        count += 1
    return count


def keep_copy(database: Path, why: str) -> Path:
    """A dated copy beside the database; of those made for the same reason the last few are kept.

    Kept files are copied once for all of them, into a folder that only grows.
    """
    folder = folder_of(database)
    folder.mkdir(parents=True, exist_ok=True)
    copy = folder / f"{why}-{datetime.now(UTC).strftime('%Y%m%d-%H%M%S-%f')}.sqlite3"
    write_copy(database, copy)
    copy_files(folder_beside(database), folder_beside(copy))
    for old in sorted(folder.glob(f"{why}-*.sqlite3"))[:-KEPT]:
        old.unlink(missing_ok=True)
    return copy


def latest_copy(database: Path) -> Path | None:
    """The last copy kept that is whole."""
    for copy in sorted(folder_of(database).glob("*.sqlite3"), key=lambda one: one.stat().st_mtime, reverse=True):
        try:
            check(copy)
        except Damaged:
            continue
        return copy
    return None


def put_back(database: Path, copy: Path) -> Path | None:
    """Make a copy the database again; what stood there is moved aside, and its new name returned.

    Kept files that stand beside the copy are put back where they are missing. Raises Damaged.
    """
    check(copy)
    aside: Path | None = None
    if database.exists():
        aside = database.with_name(f"{database.name}.before-{datetime.now(UTC).strftime('%Y%m%d-%H%M%S-%f')}")
        database.replace(aside)
    for rest in ("-wal", "-shm"):
        database.with_name(database.name + rest).unlink(missing_ok=True)
    database.parent.mkdir(parents=True, exist_ok=True)
    copy_files(folder_beside(copy), folder_beside(database))
    write_copy(copy, database)
    return aside


class InUse(RuntimeError):
    """Another server works on this folder."""


@contextmanager
def alone(folder: Path) -> Iterator[None]:
    """Hold a folder for one server; the hold ends with the process, whatever ends it. Raises InUse."""
    folder.mkdir(parents=True, exist_ok=True)
    with (folder / "in-use.lock").open("a") as lock:
        try:
            fcntl.flock(lock, fcntl.LOCK_EX | fcntl.LOCK_NB)
        except BlockingIOError:
            raise InUse(
                f"{folder} is in use by another Iron Gulp server; stop that one, or choose another folder"
            ) from None
        yield
