"""Run by itself, in a process with limits on memory and time: a picture drawn anew as a JPEG, upright, and a small one.

    python drawing.py SOURCE PICTURE SMALL

It knows nothing of the application, so that it starts at once. What it refuses is the one line it prints, with exit
code 3. libvips draws in strips: a picture of 24 million pixels takes a tenth of what holding it whole would.
"""

import contextlib
import os
import resource
import sys

MOST_PIXELS = 24_000_000
LONGEST_SIDE, THUMB_SIDE = 4000, 360
LOADERS = {b"\xff\xd8\xff": "jpegload", b"\x89PNG\r\n\x1a\n": "pngload", b"RIFF": "webpload"}
MEMORY_BYTES, SECONDS = 420_000_000, 20
REFUSED = 3
UNREADABLE = "this picture cannot be read: it is damaged, or something else under a picture's name"


class Refused(ValueError):
    """A picture that is not taken; the message says why."""


def limit() -> None:
    """Bound memory and time of this process, and let others go first."""
    resource.setrlimit(resource.RLIMIT_DATA, (MEMORY_BYTES, MEMORY_BYTES))
    resource.setrlimit(resource.RLIMIT_CPU, (SECONDS, SECONDS))
    resource.setrlimit(resource.RLIMIT_CORE, (0, 0))
    os.environ["VIPS_CONCURRENCY"] = "1"
    with contextlib.suppress(OSError):
        os.nice(5)


def draw(source: str, picture: str, small: str) -> None:
    """Draw a picture anew, which leaves its pixels and nothing else. Raises Refused, OSError of the files written."""
    import pyvips

    pyvips.cache_set_max(0)
    with open(source, "rb") as opened:
        start = opened.read(16)
    loader = next((name for mark, name in LOADERS.items() if start.startswith(mark)), None)
    if loader is None:
        raise Refused(UNREADABLE)
    try:
        head = getattr(pyvips.Image, loader)(source)
        if head.width * head.height > MOST_PIXELS:
            raise Refused(f"{head.width} × {head.height} pixels: at most {MOST_PIXELS // 1_000_000} million are taken")
        one = pyvips.Image.thumbnail(source, LONGEST_SIDE, height=LONGEST_SIDE, size="down", fail_on="truncated")
        if one.hasalpha():
            one = one.flatten(background=[255, 255, 255])
        one.colourspace("srgb").cast("uchar").jpegsave(picture, Q=90, keep="none")
    except pyvips.Error as error:
        if "write" in str(error) or "No space" in str(error):
            raise OSError(28, "No space left on device", picture) from None
        raise Refused(UNREADABLE) from None
    pyvips.Image.thumbnail(picture, THUMB_SIDE, height=THUMB_SIDE, size="down").jpegsave(small, Q=80, keep="none")


if __name__ == "__main__":
    limit()
    try:
        draw(*sys.argv[1:4])
    except Refused as error:
        print(error)
        sys.exit(REFUSED)
