"""Opening the database: pragmas, migrations, sessions."""

from collections.abc import Iterator
from contextlib import contextmanager
from pathlib import Path
from typing import Any

from alembic import command
from alembic.migration import MigrationContext
from sqlalchemy import URL, Connection, Engine, create_engine, event
from sqlalchemy.orm import Session

from .backup import keep_backup
from .health import NewerDatabase
from .restoring import must_stand
from .schema import config, head, known

WAIT_MS = 15_000


def _pragmas(connection: Any, _record: Any) -> None:
    cursor = connection.cursor()
    # First of all: another start may just be making the file.
    cursor.execute(f"PRAGMA busy_timeout={WAIT_MS}")
    cursor.execute("PRAGMA journal_mode=WAL")
    # FULL: a commit that was answered survives a power cut, not only a killed process.
    cursor.execute("PRAGMA synchronous=FULL")
    cursor.execute("PRAGMA foreign_keys=ON")
    cursor.close()


class Database:
    """An open database; `writing` and `reading` give sessions, writing takes the lock at once."""

    def __init__(self, engine: Engine):
        self.engine = engine

    def close(self) -> None:
        """Write everything into the one file and let it go."""
        with self.engine.connect() as connection:
            connection.exec_driver_sql("PRAGMA wal_checkpoint(TRUNCATE)")
        self.engine.dispose()

    @contextmanager
    def writing(self) -> Iterator[Session]:
        """A transaction that holds the write lock from its start and commits on leaving."""
        with Session(self.engine, expire_on_commit=False) as session:
            session.connection().exec_driver_sql("BEGIN IMMEDIATE")
            yield session
            session.commit()

    @contextmanager
    def changing(self) -> Iterator[Connection]:
        """The same on the bare connection, for what every edit does: mapping its rows would cost as much again."""
        with self.engine.connect() as connection:
            connection.exec_driver_sql("BEGIN IMMEDIATE")
            yield connection
            connection.commit()

    @contextmanager
    def reading(self) -> Iterator[Session]:
        with Session(self.engine, expire_on_commit=False) as session:
            yield session


def engine_of(path: Path) -> Engine:
    """An engine on a database file, whatever its path is called."""
    engine = create_engine(URL.create("sqlite", database=str(path.absolute())))
    event.listen(engine, "connect", _pragmas)
    return engine


def open_database(path: Path) -> Database:
    """Open (creating and migrating as needed) the database file at `path`; a backup is kept before a migration.

    Raises Unfit, Displaced, UnderWay, OSError, sqlite3.Error.
    """
    path.parent.mkdir(parents=True, exist_ok=True)
    if must_stand(path) not in (None, head()):
        keep_backup(path, "before-migration")
    engine = engine_of(path)
    migrate(engine)
    return Database(engine)


def migrate(engine: Engine, revision: str = "head") -> None:
    """Bring the schema to a migration: all steps in one transaction, which holds the write lock from its start.

    Killed or failing at any statement it leaves the database as it was; of several starts at once one migrates and the
    others find it done. Raises NewerDatabase.
    """
    with engine.begin() as connection:
        connection.exec_driver_sql("BEGIN IMMEDIATE")
        stored = MigrationContext.configure(connection).get_current_revision()
        if stored is not None and stored not in known():
            raise NewerDatabase(
                f"the database {engine.url.database} was written by a newer version of Iron Gulp (its revision is "
                f"{stored}); install that version, nothing was changed"
            )
        if revision == "head" and stored == head():
            return
        told = config()
        told.attributes["connection"] = connection
        command.upgrade(told, revision)
