"""What a database file is: a whole garage of this version or an older one, blank, or none of these. It stays as it is."""

import sqlite3
from collections.abc import Iterator
from contextlib import closing, contextmanager
from pathlib import Path

from .schema import OURS, known

HEADER = b"SQLite format 3\x00"


class Unfit(RuntimeError):
    """A file that cannot serve as the garage; the message says why."""


class Damaged(Unfit):
    """A database file that is not whole, or no database."""


class Foreign(Unfit):
    """A database of something else."""


class NewerDatabase(Unfit):
    """The database was written by a newer version of the application."""


class Blank(Unfit):
    """A file with nothing in it."""


def connected(path: Path, mode: str = "ro") -> sqlite3.Connection:
    """A connection to an existing database whatever its path is called. Raises sqlite3.OperationalError."""
    return sqlite3.connect(f"{path.absolute().as_uri()}?mode={mode}", uri=True)


@contextmanager
def read_only(path: Path) -> Iterator[sqlite3.Connection]:
    """A connection that changes nothing; what a killed writer left half is rolled back first, which takes a writer.

    Raises sqlite3.Error.
    """
    try:
        _touched(path, "ro")
    except sqlite3.OperationalError:
        if not path.with_name(path.name + "-journal").exists():
            raise
        _touched(path, "rw")
    with closing(connected(path)) as connection:
        yield connection


def _touched(path: Path, mode: str) -> None:
    """Open a database once, so that what cannot be read, or must be rolled back first, is seen."""
    with closing(connected(path, mode)) as connection:
        connection.execute("PRAGMA schema_version").fetchone()


def check(path: Path) -> None:
    """Look a database through. Raises Damaged with what SQLite finds, OperationalError where it cannot be read."""
    if not path.is_file():
        raise Damaged(f"{path}: there is no such file")
    try:
        _no_end_missing(path)
        with read_only(path) as connection:
            found = [row[0] for row in connection.execute("PRAGMA integrity_check(3)")]
    except sqlite3.OperationalError as error:
        raise sqlite3.OperationalError(f"{path}: {error}") from None
    except sqlite3.DatabaseError as error:
        raise Damaged(f"{path}: {error}") from None
    if found != ["ok"]:
        raise Damaged(f"{path}: {'; '.join(found)}")


def _no_end_missing(path: Path) -> None:
    """SQLite reads what is missing from a last page as zeros: a file that was cut off can pass its own check."""
    wal = path.with_name(path.name + "-wal")
    if wal.exists() and wal.stat().st_size:
        return  # the file alone is not the whole database
    with path.open("rb") as file:
        start = file.read(100)
    if len(start) < 100 or not start.startswith(HEADER):
        return  # nothing yet, or no database: others say so
    page = int.from_bytes(start[16:18], "big")
    page = 65536 if page == 1 else page
    pages = int.from_bytes(start[28:32], "big")
    size = path.stat().st_size
    if start[24:28] == start[92:96] and size < page * pages:
        raise Damaged(f"{path}: its end is missing, {size} of {page * pages} bytes are there")


def schema_of(path: Path) -> str | None:
    """The revision of a garage's schema; None for a file that holds nothing yet.

    Raises Damaged, Foreign, NewerDatabase, sqlite3.OperationalError.
    """
    if not path.exists() or not path.stat().st_size:
        return None
    check(path)
    with read_only(path) as connection:
        tables = {row[0] for row in connection.execute("SELECT name FROM sqlite_master WHERE type = 'table'")}
        tables = {name for name in tables if not name.startswith("sqlite_")}
        if not tables:
            return None
        if "alembic_version" not in tables:
            raise Foreign(f"{path} is a database of something else; nothing in it was changed")
        stored = [str(row[0]) for row in connection.execute("SELECT * FROM alembic_version")]
        if not stored and tables == {"alembic_version"}:
            return None
        garage = all(
            columns <= {row[1] for row in connection.execute(f"PRAGMA table_info({table})")}
            for table, columns in OURS.items()
        )
    if not garage:
        raise Foreign(f"{path} is a database of something else; nothing in it was changed")
    if len(stored) != 1 or stored[0] not in known():
        told = ", ".join(stored) or "none"
        raise NewerDatabase(
            f"the database {path} was written by a newer version of Iron Gulp (its revision is {told}); install that "
            "version, nothing was changed"
        )
    return stored[0]


def garage_in(path: Path) -> str:
    """The schema revision of a file that must hold a garage.

    Raises Blank, Damaged, Foreign, NewerDatabase, sqlite3.OperationalError.
    """
    found = schema_of(path)
    if found is None:
        raise Blank(f"{path} is empty: there is no garage in it")
    return found
