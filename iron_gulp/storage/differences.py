"""Revisions as differences: an edit costs what it changes, not the whole build again.

A revision is kept whole, or as a Zstandard frame made with a whole one as its dictionary, checksum included. Nothing
hangs on a chain: any revision is read from itself and the one whole text it names.
"""

import sqlite3
from collections.abc import Iterator
from dataclasses import dataclass

import zstandard

LARGEST = 2048  # bytes of a difference; one that outgrows them is worth a whole text, from which the next are small again
_WINDOW_LOG = 24  # a build and the text it is told from, 16 MB together


@dataclass(frozen=True)
class Told:
    """A text as it is kept: whole, or as what it takes to make it from the text of revision `base`."""

    body: str
    base: int | None = None
    difference: bytes | None = None


def told(body: str, number: int, whole: str) -> Told:
    """A text by its difference from the `whole` one of revision `number`, or whole where that is no gain."""
    known = zstandard.ZstdCompressionDict(whole.encode(), dict_type=zstandard.DICT_TYPE_RAWCONTENT)
    settings = zstandard.ZstdCompressionParameters.from_level(3, window_log=_WINDOW_LOG, write_checksum=True)
    found = zstandard.ZstdCompressor(dict_data=known, compression_params=settings).compress(body.encode())
    return Told("", number, found) if len(found) <= min(LARGEST, len(body) // 2) else Told(body)


def whole(difference: bytes, base: str) -> str:
    """The text a difference makes of the one it was told from. Raises ZstdError where they do not fit together."""
    known = zstandard.ZstdCompressionDict(base.encode(), dict_type=zstandard.DICT_TYPE_RAWCONTENT)
    return zstandard.ZstdDecompressor(dict_data=known, max_window_size=2**_WINDOW_LOG).decompress(difference).decode()


def texts(connection: sqlite3.Connection) -> Iterator[str]:
    """Every revision's text of a database of whatever version; one that cannot be made whole is passed over."""
    known = {row[1] for row in connection.execute("PRAGMA table_info(revision)")}
    yield from (body for (body,) in connection.execute("SELECT body FROM revision") if body)
    if "difference" in known:
        for difference, base in connection.execute(
            "SELECT one.difference, base.body FROM revision one JOIN revision base"
            " ON base.build_id = one.build_id AND base.number = one.base_number"
        ):
            try:
                yield whole(difference, base)
            except (zstandard.ZstdError, UnicodeDecodeError):
                continue
