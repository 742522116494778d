"""Restoring: a backup becomes the garage by renames under a journal; a kill at any point leaves the old or the new.

Everything is unpacked and checked beside the data first. Then the journal is written, and from that moment the new garage
is the one: whoever starts next finishes the renames. Before that moment nothing has been touched.
"""

import json
import os
import shlex
import shutil
import sqlite3
from collections.abc import Iterator
from contextlib import closing
from dataclasses import dataclass
from pathlib import Path
from tempfile import TemporaryDirectory

from pydantic import BaseModel, Field, ValidationError

from . import archive
from .attachments import folder_beside
from .backup import backups_of, same_file, stamp
from .differences import texts
from .health import HEADER, Blank, Damaged, Foreign, Unfit, connected, garage_in, read_only, schema_of
from .log import logs_in
from .whole import sync_folder, write_whole

JOURNAL = "restore-under-way.json"
INCOMING, ASIDE = "restore-incoming", "garage-before-"
RESTS = ("-wal", "-shm", "-journal")
FORMER_ASIDE = ".before-"  # how earlier versions moved a database aside


class Itself(RuntimeError):
    """A garage cannot be restored from itself."""


class Displaced(RuntimeError):
    """No garage stands where one stood; the message says so and offers the way back."""


class UnderWay(RuntimeError):
    """A restore was begun here and has not ended; who holds the folder ends it by `settle`."""


class _Journal(BaseModel):
    """What is being done: plain names in the data folder, and where the backup lay."""

    database: str = Field(pattern=r"^[^/\\]+$")
    aside: str = Field(pattern=r"^garage-before-[0-9-]+$")
    copy_of: str


@dataclass(frozen=True)
class Restored:
    """What a restore did: where the former garage is kept whole (None where none stood), names of files missing."""

    aside: Path | None
    missing: tuple[str, ...]


def restore(database: Path, copy: Path) -> Restored:
    """Make a backup the garage; what stood there is kept whole in a folder of its own. The data folder must be held.

    A kill or failure at any point leaves the old garage, or the new one once all of it is on disk. Raises Itself, Unfit,
    OSError, sqlite3.Error, and nothing has been changed then; UnderWay where the last renames failed.
    """
    if any(same_file(copy, database.with_name(database.name + rest)) for rest in ("", *RESTS)):
        raise Itself(f"{copy} is the garage itself")
    settle(database)
    database.parent.mkdir(parents=True, exist_ok=True)
    incoming, journal_at = database.parent / INCOMING, database.parent / JOURNAL
    try:
        _bring_in(copy, incoming, folder_beside(database))
        missing = _missing(incoming)
        _rest(database)
        journal = _Journal(database=database.name, aside=f"{ASIDE}{stamp()}", copy_of=str(copy.absolute()))
        write_whole(journal_at, journal.model_dump_json().encode())
    except BaseException:
        journal_at.unlink(missing_ok=True)
        shutil.rmtree(incoming, ignore_errors=True)
        raise
    try:
        aside = _finish(database, journal)
    except OSError as error:
        raise UnderWay(
            f"the new garage is whole, but could not be put in place: {error}; the next start does it"
        ) from None
    return Restored(aside, missing)


def settle(database: Path) -> list[str]:
    """End what a kill left of a restore; gives what to say of it. The data folder must be held.

    Raises UnderWay where its journal cannot be read, OSError.
    """
    incoming, journal_at = database.parent / INCOMING, database.parent / JOURNAL
    if journal_at.exists():
        try:
            journal = _Journal.model_validate_json(journal_at.read_bytes())
        except ValidationError:
            raise UnderWay(
                f"{journal_at} cannot be read; {incoming} or {ASIDE}… in {database.parent} hold the garage"
            ) from None
        aside = _finish(database, journal)
        kept = f"; what stood there before is kept in {aside}" if aside else ""
        return [f"A restore was broken off and has been finished: the garage is what {journal.copy_of} was{kept}."]
    if incoming.exists():
        shutil.rmtree(incoming)
        return ["A restore was broken off before anything was changed: the garage is as it was."]
    return []


def _finish(database: Path, journal: _Journal) -> Path | None:
    """The renames, each of them done once however often this is begun; gives where the former garage is kept."""
    folder = database.parent
    aside, incoming, files = folder / journal.aside, folder / INCOMING, folder_beside(database)
    fresh, fresh_files = incoming / archive.DATABASE, incoming / "files"
    aside.mkdir(exist_ok=True)
    if fresh.exists():
        for rest in (*RESTS, ""):
            _move(database.with_name(database.name + rest), aside)
        sync_folder(folder)
        fresh.rename(database)
    if fresh_files.exists():
        _move(files, aside)
        fresh_files.rename(files)
    if not database.exists():  # the new one is gone, whoever took it: the old one comes back
        for one in list(aside.iterdir()):
            one.rename(folder / one.name)
    sync_folder(aside)
    sync_folder(folder)
    kept = any(aside.iterdir())
    if not kept:
        aside.rmdir()
    shutil.rmtree(incoming, ignore_errors=True)
    (folder / JOURNAL).unlink()
    sync_folder(folder)
    return aside if kept else None


def _move(one: Path, folder: Path) -> None:
    """Move something into a folder, if it is there; nothing that lies there already is replaced."""
    if not one.exists():
        return
    to = folder / one.name
    while to.exists():
        to = to.with_name(to.name + ".later")
    one.rename(to)


def _rest(database: Path) -> None:
    """Bring what a crashed server left in the log of writes into the one file; a damaged one is kept with its log."""
    wal = database.with_name(database.name + "-wal")
    if not database.exists() or not wal.exists():
        return
    try:
        with closing(connected(database, "rw")) as connection:
            connection.execute("PRAGMA wal_checkpoint(TRUNCATE)").fetchall()
    except sqlite3.DatabaseError:
        return  # it moves aside together with its log, so nothing of it is lost


def _bring_in(copy: Path, incoming: Path, live: Path) -> None:
    """Unpack and check a backup of either kind beside the data; what is wrong is said of the backup."""
    try:
        _bring(copy, incoming, live)
    except Unfit as error:
        raise type(error)(str(error).replace(str(incoming / archive.DATABASE), str(copy))) from None


def _bring(copy: Path, incoming: Path, live: Path) -> None:
    if not copy.exists():
        raise Damaged(f"{copy}: there is no such file")
    if not copy.is_file():
        raise Foreign(f"{copy} is no file: name a backup")
    if not copy.stat().st_size:
        raise Blank(f"{copy} is empty: there is no garage in it")
    shutil.rmtree(incoming, ignore_errors=True)
    incoming.mkdir()
    with copy.open("rb") as opened:
        start = opened.read(len(HEADER))
    if start == HEADER:
        garage_in(copy)
        archive.snapshot(copy, incoming / archive.DATABASE)
        _bring_files(folder_beside(copy), incoming, None)
        _bring_files(live, incoming, {sha256 for sha256, _ in _named_files(incoming)})
        for folder in ((incoming / "files"), incoming):
            sync_folder(folder)
    elif start.startswith(b"PK"):
        archive.unpack(copy, incoming / archive.DATABASE, incoming / "files")
    else:
        raise Foreign(f"{copy} is no backup of Iron Gulp")


def _bring_files(store: Path, incoming: Path, wanted: set[str] | None) -> None:
    """Copy files of a store (those of some hashes, or all) that are not there yet, and are what their names say."""
    (incoming / "files").mkdir(exist_ok=True)
    for name, path in archive.kept_files(store):
        to, sha256 = incoming / name, path.name.split(".")[0]
        if to.exists() or (wanted is not None and sha256 not in wanted):
            continue
        to.parent.mkdir(exist_ok=True)
        with path.open("rb") as source, to.open("xb") as target:
            found = archive.pour(source, target)
            target.flush()
            os.fsync(target.fileno())
        if ".thumb." not in name and found.sha256 != sha256:
            to.unlink()


def _named_files(incoming: Path) -> Iterator[tuple[str, str]]:
    """Hash and name of every file that a revision of any build names."""
    with read_only(incoming / archive.DATABASE) as connection:
        for text in texts(connection):
            try:
                files = json.loads(text).get("files", ())
            except (ValueError, AttributeError, RecursionError):
                continue  # a build that cannot be read names nothing
            for one in files if isinstance(files, list) else ():
                if isinstance(one, dict) and isinstance(one.get("sha256"), str):
                    yield one["sha256"], str(one.get("name", ""))


def _missing(incoming: Path) -> tuple[str, ...]:
    """Names of the files that builds name and the backup does not hold."""
    held = {path.name.split(".")[0] for _, path in archive.kept_files(incoming / "files")}
    return tuple(
        sorted({f"{name or 'a file'} ({sha256[:12]}…)" for sha256, name in _named_files(incoming) if sha256 not in held})
    )


def must_stand(database: Path) -> str | None:
    """The schema revision of the garage; None where none is there yet. Nothing is changed.

    Raises UnderWay where a restore has not ended, Displaced where a garage stood and none stands, Unfit and
    sqlite3.OperationalError for a file that is none.
    """
    folder = database.parent
    if (folder / JOURNAL).exists():
        raise UnderWay(f"a restore was begun in {folder} and has not ended; start the server, which ends it")
    found = schema_of(database)
    if found is not None:
        return found
    asides = _asides(database)
    signs = [
        (asides, f"a garage that was moved aside lies in {asides[0].name if asides else ''}"),
        (backups_of(database), f"its backups lie in {folder / 'backups'}"),
        (next(folder_beside(database).glob("*/*"), None), f"its kept files lie in {folder_beside(database)}"),
        (logs_in(folder), "a server has kept its log there"),
    ]
    told = [words for found, words in signs if found]
    if told:
        raise Displaced(
            f"there is no garage in {folder}, though one stood there: {', '.join(told)}. {way_back(database)} To begin "
            "anew there, move what is left away first."
        )
    return None


def way_back(database: Path) -> str:
    """How the last whole garage is put back, as a sentence."""
    for one in sorted((*_asides(database), *backups_of(database)), key=lambda each: each.stat().st_mtime, reverse=True):
        if _whole(one):
            data = "" if database.parent == Path(".data") else f" --data {shlex.quote(str(database.parent))}"
            return f"The last whole one is put back by: iron-gulp restore {shlex.quote(str(one))}{data}."
    return "There is no whole backup of it; bring one and name it to iron-gulp restore, or choose another folder."


def _asides(database: Path) -> list[Path]:
    """Former garages beside a database, the newest first."""
    found = [one / database.name for one in database.parent.glob(f"{ASIDE}*")]
    found += database.parent.glob(f"{database.name}{FORMER_ASIDE}*")
    return sorted((one for one in found if one.is_file()), key=lambda one: one.stat().st_mtime, reverse=True)


def _whole(one: Path) -> bool:
    try:
        with one.open("rb") as opened:
            start = opened.read(len(HEADER))
        if start == HEADER:
            garage_in(one)
        else:
            with TemporaryDirectory() as beside:
                archive.verify(one, Path(beside) / archive.DATABASE)
    except (Unfit, OSError, sqlite3.Error):
        return False
    return True
