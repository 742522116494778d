"""Builds on disk: SQLite in WAL mode, every save a revision, migrations from revision one."""

from .database import Database, open_database
from .health import NewerDatabase
from .parts import PartRepository
from .repository import BuildRepository, Conflict, NotFound, Stored, Summary, Unreadable
from .settings import SettingRepository

__all__ = [
    "BuildRepository",
    "Conflict",
    "Database",
    "NewerDatabase",
    "NotFound",
    "PartRepository",
    "SettingRepository",
    "Stored",
    "Summary",
    "Unreadable",
    "open_database",
]
