"""Opening the database: pragmas, migrations, sessions."""

from collections.abc import Iterator
from contextlib import contextmanager
from pathlib import Path
from typing import Any

from alembic import command
from alembic.config import Config
from sqlalchemy import Engine, create_engine, event
from sqlalchemy.orm import Session

MIGRATIONS = Path(__file__).parent / "migrations"


def _pragmas(connection: Any, _record: Any) -> None:
    cursor = connection.cursor()
    cursor.execute("PRAGMA journal_mode=WAL")
    # FULL: a commit that was answered survives a power cut, not only a killed process.
    cursor.execute("PRAGMA synchronous=FULL")
    cursor.execute("PRAGMA foreign_keys=ON")
    cursor.execute("PRAGMA busy_timeout=5000")
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
    """Open (creating and migrating as needed) the database file at `path`."""
    path.parent.mkdir(parents=True, exist_ok=True)
    engine = create_engine(f"sqlite:///{path}")
    event.listen(engine, "connect", _pragmas)
    migrate(engine)
    return Database(engine)


def migrate(engine: Engine, revision: str = "head") -> None:
    """Bring the schema to a migration."""
    config = Config()
    config.set_main_option("script_location", str(MIGRATIONS))
    with engine.begin() as connection:
        config.attributes["connection"] = connection
        command.upgrade(config, revision)
