"""Opening the database: pragmas, migrations, sessions."""

from collections.abc import Iterator
from contextlib import contextmanager
from functools import cache
from pathlib import Path
from typing import Any

from alembic import command
from alembic.config import Config
from alembic.migration import MigrationContext
from alembic.script import ScriptDirectory
from sqlalchemy import Engine, create_engine, event
from sqlalchemy.orm import Session

from .backup import check, keep_copy

MIGRATIONS = Path(__file__).parent / "migrations"
WAIT_MS = 15_000


class NewerDatabase(RuntimeError):
    """The database was written by a newer version of the application."""


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
    def reading(self) -> Iterator[Session]:
        with Session(self.engine, expire_on_commit=False) as session:
            yield session


def open_database(path: Path) -> Database:
    """Open (creating and migrating as needed) the database file at `path`; a copy is kept before a migration.

    Raises Damaged, NewerDatabase.
    """
    path.parent.mkdir(parents=True, exist_ok=True)
    if path.exists() and path.stat().st_size:
        check(path)
        if _outdated(path):
            keep_copy(path, "before-migration")
    engine = create_engine(f"sqlite:///{path}")
    event.listen(engine, "connect", _pragmas)
    migrate(engine)
    return Database(engine)


def _outdated(path: Path) -> bool:
    """Whether a database waits for a migration."""
    engine = create_engine(f"sqlite:///file:{path}?mode=ro&uri=true")
    try:
        with engine.connect() as connection:
            stored = MigrationContext.configure(connection).get_current_revision()
    finally:
        engine.dispose()
    return stored in _known() and stored != _head()


def _config() -> Config:
    config = Config()
    config.set_main_option("script_location", str(MIGRATIONS))
    return config


@cache
def _known() -> frozenset[str]:
    """The revisions of the schema this version knows; they come with the application."""
    return frozenset(script.revision for script in ScriptDirectory.from_config(_config()).walk_revisions())


@cache
def _head() -> str | None:
    return ScriptDirectory.from_config(_config()).get_current_head()


def migrate(engine: Engine, revision: str = "head") -> None:
    """Bring the schema to a migration: all steps in one transaction, which holds the write lock from its start.

    Killed or failing at any statement it leaves the database as it was; of several starts at once one migrates and the
    others find it done. Raises NewerDatabase.
    """
    config = _config()
    with engine.begin() as connection:
        connection.exec_driver_sql("BEGIN IMMEDIATE")
        stored = MigrationContext.configure(connection).get_current_revision()
        if stored is not None and stored not in _known():
            raise NewerDatabase(
                f"the database {engine.url.database} was written by a newer version of Iron Gulp (its revision is "
                f"{stored}); install that version, nothing was changed"
            )
        if revision == "head" and stored == _head():
            return
        config.attributes["connection"] = connection
        command.upgrade(config, revision)
