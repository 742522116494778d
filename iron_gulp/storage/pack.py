"""What a maintainer needs to look into a fault, in one file: versions, the database's state, the log.

No build goes in, and the names that builds, clients, options and targets bear are struck out of the log.
"""

import json
import platform
import sqlite3
import sys
import zipfile
from collections.abc import Iterator
from importlib.metadata import distributions
from pathlib import Path
from typing import Any, BinaryIO

from iron_gulp import __version__

from .differences import texts
from .health import Damaged, check, read_only
from .log import logs_in
from .whole import made_whole

STRUCK = "[name]"
SHORTEST = 3  # shorter words tell nobody, and striking them out would leave no log


def pack(data: Path, database: Path, file: Path) -> list[str]:
    """Write the file; gives the names of what went in. Raises OSError."""
    about: dict[str, object] = {
        "version": __version__,
        "python": sys.version,
        "system": platform.platform(),
        "sqlite": sqlite3.sqlite_version,
        "packages": {one.metadata["Name"]: one.version for one in distributions()},
        "database": _state(database) if database.exists() else None,
    }
    names = _names(database) if database.exists() else []
    went_in: list[str] = []

    def make(out: BinaryIO) -> None:
        with zipfile.ZipFile(out, "w", zipfile.ZIP_DEFLATED) as archive:
            archive.writestr("about.json", json.dumps(about, indent=2, sort_keys=True))
            for log in logs_in(data):
                text = log.read_text(encoding="utf-8", errors="replace")
                for name in names:
                    text = text.replace(name, STRUCK)
                archive.writestr(log.name, text)
            went_in.extend(archive.namelist())

    made_whole(file, make)
    return went_in


def _state(database: Path) -> dict[str, object]:
    """Size, health, schema and rows of a database, without what stands in them."""
    told: dict[str, object] = {"bytes": database.stat().st_size, "whole": True}
    try:
        check(database)
        with read_only(database) as connection:
            tables = [row[0] for row in connection.execute("SELECT name FROM sqlite_master WHERE type = 'table'")]
            told["rows"] = {one: connection.execute(f'SELECT count(*) FROM "{one}"').fetchone()[0] for one in tables}
            if "alembic_version" in tables:
                told["schema"] = connection.execute("SELECT version_num FROM alembic_version").fetchone()[0]
    except (Damaged, sqlite3.Error) as error:
        told |= {"whole": False, "found": str(error).replace(str(database), database.name)}
    return told


def _names(database: Path) -> list[str]:
    """What must not leave the shop, the longest first."""
    found: set[str] = set()
    try:
        with read_only(database) as connection:
            found |= {row[0] for row in connection.execute("SELECT name FROM build")}
            for body in texts(connection):
                found |= set(_said(json.loads(body)))
    except (sqlite3.Error, ValueError):
        return sorted(found, key=len, reverse=True)  # a damaged database: what could be read
    return sorted((one for one in found if len(one) >= SHORTEST), key=len, reverse=True)


def _said(build: Any) -> Iterator[str]:
    """A build's own words: its name and client, the car's description, notes, the names of options and targets."""
    for key in ("name", "client", "notes"):
        yield str(build.get(key, ""))
    yield from (value for key, value in build.get("car", {}).items() if key in ("description", "name", "client", "notes"))
    for one in (*build.get("options", ()), *build.get("targets", ())):
        yield str(one.get("name", ""))
