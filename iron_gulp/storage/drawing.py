"""Run by itself, in a process with limits on memory and time: a picture drawn anew as a JPEG, upright, and a small one.

    python drawing.py SOURCE PICTURE SMALL

It knows nothing of the application, so that it starts at once. What it refuses is the one line it prints, with exit
code 3.
"""

import contextlib
import os
import resource
import sys
import warnings
from typing import Any

MOST_PIXELS = 24_000_000
LONGEST_SIDE, THUMB_SIDE = 4000, 360
KINDS = ("JPEG", "PNG", "WEBP")
MEMORY_BYTES, SECONDS = 560_000_000, 20
REFUSED = 3
UNREADABLE = "this picture cannot be read: it is damaged, or something else under a picture's name"


class Refused(ValueError):
    """A picture that is not taken; the message says why."""


def limit() -> None:
    """Bound memory and time of this process, and let others go first."""
    resource.setrlimit(resource.RLIMIT_AS, (MEMORY_BYTES, MEMORY_BYTES))
    resource.setrlimit(resource.RLIMIT_CPU, (SECONDS, SECONDS))
    resource.setrlimit(resource.RLIMIT_CORE, (0, 0))
    with contextlib.suppress(OSError):
        os.nice(5)


def draw(source: str, picture: str, small: str) -> None:
    """Draw a picture anew, which leaves its data and nothing else. Raises Refused, OSError of the files written."""
    from PIL import Image, ImageOps, UnidentifiedImageError

    try:
        with warnings.catch_warnings():
            warnings.simplefilter("error", Image.DecompressionBombWarning)
            with Image.open(source, formats=KINDS) as one:
                wide, high = one.size
                if wide * high > MOST_PIXELS:
                    raise Refused(f"{wide} × {high} pixels: at most {MOST_PIXELS // 1_000_000} million are taken")
                one.draft("RGB", (LONGEST_SIDE, LONGEST_SIDE))
                one.thumbnail((LONGEST_SIDE, LONGEST_SIDE))
                plain = _plain(one)
                turned = one.getexif().get(0x0112, 1)
    except (Image.DecompressionBombError, Image.DecompressionBombWarning):
        raise Refused(f"too many pixels: at most {MOST_PIXELS // 1_000_000} million are taken") from None
    except Refused:
        raise
    except (UnidentifiedImageError, OSError, SyntaxError, ValueError, EOFError, MemoryError):
        raise Refused(UNREADABLE) from None
    upright = _upright(plain, turned, ImageOps)
    del plain
    upright.save(picture, "JPEG", quality=90)
    upright.thumbnail((THUMB_SIDE, THUMB_SIDE))
    upright.save(small, "JPEG", quality=80)


def _plain(one: Any) -> Any:
    """The pixels on white, with nothing but them."""
    from PIL import Image

    if one.mode in ("RGBA", "LA", "P", "PA") or "transparency" in one.info:
        clear = one.convert("RGBA")
        plain = Image.new("RGB", clear.size, "white")
        plain.paste(clear, mask=clear.getchannel("A"))
        return plain
    plain = Image.new("RGB", one.size)
    plain.paste(one.convert("RGB"))
    return plain


def _upright(plain: Any, turned: int, operations: Any) -> Any:
    """The picture as the camera was held."""
    plain.getexif()[0x0112] = turned
    upright = operations.exif_transpose(plain)
    upright.info.clear()
    return upright


if __name__ == "__main__":
    limit()
    try:
        draw(*sys.argv[1:4])
    except Refused as error:
        print(error)
        sys.exit(REFUSED)
