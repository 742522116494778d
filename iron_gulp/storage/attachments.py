"""Photos and files by the hash of their content, in a folder beside the database.

A kept file is never changed or removed: revisions name it by its hash. What cannot be read as what it says it is, is
refused. Pictures are drawn anew, which leaves their data and nothing else: no place, no owner, no hidden program.
Whatever its size, a file goes through a small buffer.
"""

import codecs
import contextlib
import hashlib
import io
import os
import re
import unicodedata
from collections.abc import Iterator
from dataclasses import dataclass
from pathlib import Path
from threading import BoundedSemaphore, Lock
from typing import BinaryIO, Literal

import puremagic

from . import pictures
from .drawing import MOST_PIXELS, Refused
from .pictures import MOST_WAITING, NoTime
from .whole import half_of, made_whole, sync_folder

__all__ = ["LARGEST_BYTES", "MOST_PIXELS", "Attachments", "NoTime", "Refused", "Stored", "clean_name", "folder_beside"]
Kind = Literal["picture", "document", "table"]
LARGEST_BYTES = 25_000_000
BUFFER = 1 << 18
PICTURES = {"JPEG": "image/jpeg", "PNG": "image/png", "WEBP": "image/webp"}
ENDS: dict[str, str] = {"image/jpeg": ".jpg", "application/pdf": ".pdf", "text/plain": ".txt"}
CONTROL = re.compile(r"[\x00-\x08\x0b\x0c\x0e-\x1f]")
HASH = re.compile(r"[0-9a-f]{64}")
SOMETHING_ELSE = "taken are JPEG, PNG and WebP pictures, PDF, and plain text or CSV; this is something else"


@dataclass(frozen=True)
class Kept:
    """A file in the store; `fresh` where it was not there before."""

    sha256: str
    name: str
    kind: Kind
    size_bytes: int
    fresh: bool = False


@dataclass(frozen=True)
class Stored:
    """Where a kept file lies and what it is."""

    path: Path
    media_type: str


def folder_beside(database: Path) -> Path:
    """Where the files of a database are kept."""
    return database.parent / "files"


class Attachments:
    """The store. Safe to be killed at any moment: a file stands under its hash whole or not at all."""

    def __init__(self, folder: Path):
        self._folder = folder
        self._keeping, self._waiting = Lock(), BoundedSemaphore(MOST_WAITING)

    @contextlib.contextmanager
    def keeping(self, source: bytes | BinaryIO, name: str) -> Iterator[Kept]:
        """Take a file in for a block that names it; where that fails, nothing of it stays.

        Raises Refused, NoTime, OSError.
        """
        if not self._waiting.acquire(blocking=False):
            raise NoTime("other files are being read; bring this one again in a moment")
        try:
            with self._keeping:  # of two that bring the same file, neither takes it from the other
                kept = self.keep(source, name)
                try:
                    yield kept
                except BaseException:
                    self._forget(kept)
                    raise
        finally:
            self._waiting.release()

    def keep(self, source: bytes | BinaryIO, name: str) -> Kept:
        """Take a file in. Raises Refused, NoTime, OSError."""
        shown = clean_name(name)
        self._folder.mkdir(parents=True, exist_ok=True)
        came = half_of(self._folder / "came")
        try:
            _receive(io.BytesIO(source) if isinstance(source, bytes) else source, came)
            kind, ending = _kind_of(came)
            if kind == "picture":
                return self._keep_picture(came, shown)
            return self._place(came, ending, shown, kind)
        finally:
            came.unlink(missing_ok=True)

    def find(self, sha256: str) -> Stored | None:
        """A kept file; None where it is not here."""
        for media_type, ending in ENDS.items():
            path = self._path(f"{sha256}{ending}") if HASH.fullmatch(sha256) else None
            if path is not None and path.is_file():
                return Stored(path, media_type)
        return None

    def thumbnail(self, sha256: str) -> Stored | None:
        """The small picture of a kept picture; None where there is none."""
        path = self._path(f"{sha256}.thumb.jpg") if HASH.fullmatch(sha256) else None
        return Stored(path, "image/jpeg") if path is not None and path.is_file() else None

    def _path(self, name: str) -> Path:
        return self._folder / name[:2] / name

    def _keep_picture(self, came: Path, shown: str) -> Kept:
        picture, small = half_of(came), half_of(came)
        try:
            pictures.draw(came, picture, small)
            digest = _hash_of(picture)
            self._put(small, f"{digest}.thumb.jpg")
            return self._place(picture, ".jpg", shown, "picture")
        finally:
            for one in (picture, small):
                one.unlink(missing_ok=True)

    def _place(self, half: Path, ending: str, shown: str, kind: Kind) -> Kept:
        digest, size = _hash_of(half), half.stat().st_size
        return Kept(digest, shown, kind, size, self._put(half, f"{digest}{ending}"))

    def _put(self, half: Path, name: str) -> bool:
        """Give a file its place; False where it is there already."""
        path = self._path(name)
        if path.is_file() and path.stat().st_size == half.stat().st_size:
            return False
        path.parent.mkdir(parents=True, exist_ok=True)
        with half.open("rb") as opened:
            os.fsync(opened.fileno())
        half.replace(path)
        sync_folder(path.parent)
        return True

    def _forget(self, kept: Kept) -> None:
        """Take back what was kept for an edit that was refused."""
        if kept.fresh:
            found = self.find(kept.sha256)
            for one in (found, self.thumbnail(kept.sha256)):
                if one is not None:
                    one.path.unlink(missing_ok=True)


def clean_name(name: str) -> str:
    """A file's name to be shown: the last part of any path, printable, of bearable length."""
    last = re.split(r"[/\\]", unicodedata.normalize("NFC", name))[-1]
    kept = "".join(char for char in last if char.isprintable()).strip(" .")
    if len(kept) > 120:
        stem, dot, ending = kept.rpartition(".")
        kept = f"{stem[: 119 - len(ending)]}.{ending}" if dot and len(ending) <= 10 else kept[:120]
    return kept or "file"


def _receive(source: BinaryIO, to: Path) -> None:
    """Write what comes to disk, no more of it than may be. Raises Refused, OSError."""
    size = 0
    with to.open("wb") as out:
        while block := source.read(BUFFER):
            size += len(block)
            if size > LARGEST_BYTES:
                raise Refused(f"at most {LARGEST_BYTES // 1_000_000} MB a file")
            out.write(block)
    if not size:
        raise Refused("the file is empty")


def _hash_of(path: Path) -> str:
    with path.open("rb") as opened:
        return hashlib.file_digest(opened, "sha256").hexdigest()


def _kind_of(came: Path) -> tuple[Kind, str]:
    """Kind and ending, told by the content alone; a text is left without its byte-order mark. Raises Refused."""
    with came.open("rb") as opened:
        head = opened.read(4096)
        opened.seek(-min(came.stat().st_size, 2048), os.SEEK_END)
        tail = opened.read()
    found = _media_types(head + tail[-64:])
    if "application/pdf" in found and head.startswith(b"%PDF-"):
        if b"%%EOF" not in tail:
            raise Refused("this PDF is cut off: it has no end")
        return "document", ".pdf"
    if found & set(PICTURES.values()):
        return "picture", ".jpg"
    _check_text(came)
    if head.startswith(codecs.BOM_UTF8):
        _without_mark(came)
    return "table", ".txt"


def _media_types(data: bytes) -> set[str]:
    try:
        return {one.mime_type for one in puremagic.magic_string(data)}
    except puremagic.PureError:
        return set()


def _check_text(path: Path) -> None:
    """Raises Refused for anything but a table or plain text."""
    decoder, before, started = codecs.getincrementaldecoder("utf-8-sig")(), "", False
    with path.open("rb") as opened:
        while True:
            block = opened.read(BUFFER)
            try:
                text = decoder.decode(block, final=not block)
            except UnicodeDecodeError:
                raise Refused("taken are JPEG, PNG and WebP pictures, PDF, and plain text or CSV in UTF-8") from None
            seen = before + text
            if not started and (opening := seen.lstrip()[:512].lower()):
                started = True
                if opening.startswith(("<", "#!", "{\\rtf")):
                    raise Refused(SOMETHING_ELSE)
            if CONTROL.search(text) or "<script" in seen.lower():
                raise Refused(SOMETHING_ELSE)
            before = seen[-16:]
            if not block:
                return


def _without_mark(path: Path) -> None:
    def make(out: BinaryIO) -> None:
        with path.open("rb") as opened:
            opened.seek(len(codecs.BOM_UTF8))
            while block := opened.read(BUFFER):
                out.write(block)

    made_whole(path, make)
