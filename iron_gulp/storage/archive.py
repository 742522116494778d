"""A whole garage as one file: a ZIP archive of its database, its kept files and a manifest with the SHA-256 of each.

Open to anybody: `manifest.json` says which program and schema it comes from and lists every entry with size and hash,
`garage.sqlite3` is the database, `files/` holds kept files under the hash of their content. Reading and writing go
through a small buffer, whatever the size.
"""

import hashlib
import json
import os
import re
import sqlite3
import zipfile
import zlib
from collections.abc import Iterator
from contextlib import closing, contextmanager
from datetime import UTC, datetime
from pathlib import Path
from typing import IO, BinaryIO, Literal

from pydantic import BaseModel, Field, ValidationError

from iron_gulp import __version__

from .health import Damaged, Foreign, NewerDatabase, garage_in, read_only
from .whole import sync_folder

FORMAT: Literal["iron-gulp-backup"] = "iron-gulp-backup"
VERSION = 1
MANIFEST, DATABASE = "manifest.json", "garage.sqlite3"
ENTRY = re.compile(r"files/([0-9a-f]{2})/\1[0-9a-f]{62}(?:\.thumb)?\.[a-z]{3}")
LARGEST_MANIFEST = 64_000_000
BUFFER = 1 << 20


class Entry(BaseModel):
    """One file of the archive."""

    sha256: str = Field(pattern=r"^[0-9a-f]{64}$")
    bytes: int = Field(ge=0)


class Manifest(BaseModel):
    """What the archive holds and where it comes from."""

    format: Literal["iron-gulp-backup"] = FORMAT
    version: int = Field(VERSION, ge=1)
    program: str
    made: datetime
    schema_revision: str
    entries: dict[str, Entry]

    @property
    def files(self) -> int:
        """Kept files, small pictures not counted."""
        return sum(name != DATABASE and ".thumb." not in name for name in self.entries)


def pour(source: IO[bytes], target: IO[bytes] | None, most: int | None = None) -> Entry:
    """Copy through a small buffer; gives hash and size. Stops one byte past `most`."""
    digest, size = hashlib.sha256(), 0
    while block := source.read(BUFFER if most is None else min(BUFFER, most + 1 - size)):
        digest.update(block)
        size += len(block)
        if target is not None:
            target.write(block)
        if most is not None and size > most:
            break
    return Entry(sha256=digest.hexdigest(), bytes=size)


def snapshot(database: Path, copy: Path) -> str:
    """A whole copy of a database in use by SQLite's own online backup, checked; gives its schema revision.

    Raises Unfit, sqlite3.Error, OSError.
    """
    garage_in(database)
    with read_only(database) as one, closing(sqlite3.connect(copy)) as other:
        one.backup(other)
        other.execute("PRAGMA journal_mode=DELETE")
    return garage_in(copy)


def kept_files(folder: Path) -> Iterator[tuple[str, Path]]:
    """Every kept file of a store as (name in the archive, path); halves and strangers are passed over."""
    for one in sorted(folder.glob("*/*")):
        name = f"files/{one.parent.name}/{one.name}"
        if ENTRY.fullmatch(name) and one.is_file():
            yield name, one


def write(out: BinaryIO, snapshot_of: Path, schema: str, files: Path) -> None:
    """Write the archive of a database at rest and the store of its files. Raises OSError."""
    entries: dict[str, Entry] = {}
    with zipfile.ZipFile(out, "w", zipfile.ZIP_DEFLATED, compresslevel=1) as archive:
        for name, path in ((DATABASE, snapshot_of), *kept_files(files)):
            told = zipfile.ZipInfo.from_file(path, name, strict_timestamps=False)
            told.compress_type = zipfile.ZIP_STORED if name.endswith(".jpg") else zipfile.ZIP_DEFLATED
            with path.open("rb") as source, archive.open(told, "w", force_zip64=True) as target:
                entries[name] = pour(source, target)
        manifest = Manifest(program=__version__, made=datetime.now(UTC), schema_revision=schema, entries=entries)
        archive.writestr(MANIFEST, manifest.model_dump_json(indent=1))


@contextmanager
def _opened(path: Path) -> Iterator[zipfile.ZipFile]:
    """The archive, whatever may be wrong with it told as damage. Raises Damaged, OSError."""
    try:
        with zipfile.ZipFile(path) as archive:
            yield archive
    except (zipfile.BadZipFile, zlib.error, EOFError, NotImplementedError, RecursionError, OverflowError) as error:
        raise Damaged(f"{path} is damaged or cut off: {error}") from None
    except RuntimeError as error:
        if type(error) is not RuntimeError:
            raise
        raise Damaged(f"{path} cannot be read: {error}") from None  # an encrypted entry, for one


def manifest_of(path: Path) -> Manifest:
    """What an archive says of itself, held against what it lists. Raises Damaged, Foreign, NewerDatabase, OSError."""
    with _opened(path) as archive:
        return _manifest(path, archive)


def _manifest(path: Path, archive: zipfile.ZipFile) -> Manifest:
    listed = archive.infolist()
    names = {one.filename: one for one in listed}
    if MANIFEST not in names or names[MANIFEST].file_size > LARGEST_MANIFEST:
        raise Foreign(f"{path} is no backup of Iron Gulp")
    try:
        told = json.loads(archive.read(MANIFEST))
    except ValueError:
        raise Damaged(f"{path} is damaged: its manifest cannot be read") from None
    if not isinstance(told, dict) or told.get("format") != FORMAT:
        raise Foreign(f"{path} is no backup of Iron Gulp")
    if isinstance(told.get("version"), int) and told["version"] > VERSION:
        raise NewerDatabase(f"{path} was written by a newer version of Iron Gulp; install that version")
    try:
        found = Manifest.model_validate(told)
    except ValidationError:
        raise Damaged(f"{path} is damaged: its manifest is not whole") from None
    strange = [
        name for name in (*found.entries, *names) if name not in (DATABASE, MANIFEST) and not ENTRY.fullmatch(name)
    ]
    if strange:
        raise Foreign(f"{path} is refused: it holds {strange[0][:80]!r}, which has no place in a garage")
    if len(listed) != len(names) or DATABASE not in found.entries or set(found.entries) | {MANIFEST} != set(names):
        raise Damaged(f"{path} is damaged: it does not hold what its manifest lists")
    if any(names[name].file_size != entry.bytes for name, entry in found.entries.items()):
        raise Damaged(f"{path} is damaged: sizes are not what its manifest lists")
    return found


def verify(path: Path, beside: Path) -> Manifest:
    """Read an archive through: every hash, and its database opened at `beside`, which is removed again.

    Raises Unfit, OSError, sqlite3.Error.
    """
    try:
        with _opened(path) as archive:
            found = _manifest(path, archive)
            for name, entry in found.entries.items():
                if name == DATABASE:
                    with beside.open("wb") as target:
                        _check_entry(path, archive, name, entry, target)
                else:
                    _check_entry(path, archive, name, entry, None)
        _same_schema(path, found, garage_in(beside))
    finally:
        beside.unlink(missing_ok=True)
    return found


def unpack(path: Path, database: Path, files: Path) -> Manifest:
    """Unpack an archive into a database file and a store of files, neither of them there yet, everything checked and on
    disk at the end. Raises Unfit, OSError, sqlite3.Error."""
    with _opened(path) as archive:
        found = _manifest(path, archive)
        files.mkdir()
        for name, entry in found.entries.items():
            to = database if name == DATABASE else files.parent / name
            to.parent.mkdir(exist_ok=True)
            with to.open("xb") as target:
                _check_entry(path, archive, name, entry, target)
                target.flush()
                os.fsync(target.fileno())
    for folder in (*files.iterdir(), files, database.parent):
        sync_folder(folder)
    _same_schema(path, found, garage_in(database))
    return found


def _check_entry(path: Path, archive: zipfile.ZipFile, name: str, entry: Entry, target: BinaryIO | None) -> None:
    with archive.open(name) as source:
        if pour(source, target, entry.bytes) != entry:
            raise Damaged(f"{path} is damaged: {name} is not what its manifest says")


def _same_schema(path: Path, manifest: Manifest, schema: str) -> None:
    if schema != manifest.schema_revision:
        raise Damaged(f"{path} is damaged: its database is not of the schema its manifest says")
