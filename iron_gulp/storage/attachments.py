"""Photos and files by the hash of their content, in a folder beside the database.

A kept file is never changed or removed: revisions name it by its hash. What cannot be read as what it says it is, is
refused. Pictures are drawn anew, which leaves their data and nothing else: no place, no owner, no hidden program.
"""

import hashlib
import io
import re
import unicodedata
import warnings
from dataclasses import dataclass
from pathlib import Path
from typing import Literal

import puremagic
from PIL import Image, ImageOps, UnidentifiedImageError

from .whole import write_whole

Kind = Literal["picture", "document", "table"]
LARGEST_BYTES = 12_000_000
MOST_PIXELS = 40_000_000
LONGEST_SIDE, THUMB_SIDE = 4000, 360
PICTURES = {"JPEG": "image/jpeg", "PNG": "image/png", "WEBP": "image/webp"}
ENDS: dict[str, str] = {"image/jpeg": ".jpg", "application/pdf": ".pdf", "text/plain": ".txt"}
HASH = re.compile(r"[0-9a-f]{64}")


class Refused(ValueError):
    """A file that is not taken; the message says why, for beside the field."""


@dataclass(frozen=True)
class Kept:
    """A file in the store."""

    sha256: str
    name: str
    kind: Kind
    size_bytes: int


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

    def keep(self, data: bytes, name: str) -> Kept:
        """Take a file in. Raises Refused, OSError."""
        if not data:
            raise Refused("the file is empty")
        if len(data) > LARGEST_BYTES:
            raise Refused(f"at most {LARGEST_BYTES // 1_000_000} MB a file")
        shown, (kind, ending, body) = clean_name(name), _as_taken(data)
        digest = hashlib.sha256(body).hexdigest()
        if kind == "picture":
            self._write(f"{digest}.thumb.jpg", _thumbnail(body))
        self._write(f"{digest}{ending}", body)
        return Kept(digest, shown, kind, len(body))

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

    def _write(self, name: str, body: bytes) -> None:
        path = self._path(name)
        if path.is_file() and path.stat().st_size == len(body):
            return
        path.parent.mkdir(parents=True, exist_ok=True)
        write_whole(path, body)


def clean_name(name: str) -> str:
    """A file's name to be shown: the last part of any path, printable, of bearable length."""
    last = re.split(r"[/\\]", unicodedata.normalize("NFC", name))[-1]
    kept = "".join(char for char in last if char.isprintable()).strip(" .")
    if len(kept) > 120:
        stem, dot, ending = kept.rpartition(".")
        kept = f"{stem[: 119 - len(ending)]}.{ending}" if dot and len(ending) <= 10 else kept[:120]
    return kept or "file"


def _as_taken(data: bytes) -> tuple[Kind, str, bytes]:
    """Kind, ending and content as kept, told by the content alone. Raises Refused."""
    found = _media_types(data)
    if "application/pdf" in found and data.startswith(b"%PDF-"):
        if b"%%EOF" not in data[-2048:]:
            raise Refused("this PDF is cut off: it has no end")
        return "document", ".pdf", data
    if found & set(PICTURES.values()):
        return "picture", ".jpg", _picture(data)
    return "table", ".txt", _text(data)


def _media_types(data: bytes) -> set[str]:
    try:
        return {one.mime_type for one in puremagic.magic_string(data[:4096] + data[-64:])}
    except puremagic.PureError:
        return set()


def _picture(data: bytes) -> bytes:
    """The picture drawn anew as a JPEG, upright. Raises Refused."""
    try:
        with warnings.catch_warnings():
            warnings.simplefilter("error", Image.DecompressionBombWarning)
            with Image.open(io.BytesIO(data), formats=tuple(PICTURES)) as one:
                wide, high = one.size
                if wide * high > MOST_PIXELS:
                    raise Refused(f"{wide} × {high} pixels: at most {MOST_PIXELS // 1_000_000} million are taken")
                one.draft("RGB", (LONGEST_SIDE, LONGEST_SIDE))
                one.thumbnail((LONGEST_SIDE, LONGEST_SIDE))
                return _jpeg(ImageOps.exif_transpose(one), 90)
    except (Image.DecompressionBombError, Image.DecompressionBombWarning):
        raise Refused(f"too many pixels: at most {MOST_PIXELS // 1_000_000} million are taken") from None
    except (UnidentifiedImageError, OSError, SyntaxError, ValueError, MemoryError) as error:
        if isinstance(error, Refused):
            raise
        raise Refused("this picture cannot be read: it is damaged, or something else under a picture's name") from None


def _jpeg(one: Image.Image, quality: int) -> bytes:
    """A picture as JPEG on white, with nothing but its pixels."""
    plain = one.convert("RGBA") if one.mode in ("RGBA", "LA", "P", "PA") else one.convert("RGB")
    if plain.mode == "RGBA":
        ground = Image.new("RGBA", plain.size, "white")
        plain = Image.alpha_composite(ground, plain).convert("RGB")
    fresh = Image.new("RGB", plain.size)
    fresh.paste(plain)
    out = io.BytesIO()
    fresh.save(out, "JPEG", quality=quality)
    return out.getvalue()


def _thumbnail(body: bytes) -> bytes:
    with Image.open(io.BytesIO(body), formats=("JPEG",)) as one:
        one.thumbnail((THUMB_SIDE, THUMB_SIDE))
        return _jpeg(one, 80)


def _text(data: bytes) -> bytes:
    """A table or plain text. Raises Refused for anything else."""
    try:
        text = data.decode("utf-8-sig")
    except UnicodeDecodeError:
        raise Refused("taken are JPEG, PNG and WebP pictures, PDF, and plain text or CSV in UTF-8") from None
    control = [char for char in text if ord(char) < 32 and char not in "\t\r\n"]
    start = text.lstrip()[:512].lower()
    if control or start.startswith(("<", "#!", "{\\rtf")) or "<script" in text.lower():
        raise Refused("taken are JPEG, PNG and WebP pictures, PDF, and plain text or CSV; this is something else")
    return text.encode("utf-8")
