"""Pictures drawn one at a time, each in a process of its own with limits on memory and time."""

import subprocess
import sys
from pathlib import Path
from threading import BoundedSemaphore, Lock

from . import drawing

SCRIPT = Path(drawing.__file__)
TIME_S = 30.0
MOST_WAITING = 6
TOO_MUCH = "this picture takes too much memory or time to be read: save it smaller and bring it again"
_one_at_a_time, _waiting = Lock(), BoundedSemaphore(MOST_WAITING)


class NoTime(RuntimeError):
    """Too many pictures wait already."""


def draw(source: Path, picture: Path, small: Path) -> None:
    """Draw a picture anew and a small one. Raises drawing.Refused, NoTime, OSError."""
    if not _waiting.acquire(blocking=False):
        raise NoTime("other pictures are being read; bring this one again in a moment")
    try:
        with _one_at_a_time:
            _draw(source, picture, small)
    finally:
        _waiting.release()


def _draw(source: Path, picture: Path, small: Path) -> None:
    command = [sys.executable, "-I", str(SCRIPT), str(source), str(picture), str(small)]
    try:
        done = subprocess.run(command, capture_output=True, text=True, timeout=TIME_S, check=False)
    except subprocess.TimeoutExpired:
        raise drawing.Refused(TOO_MUCH) from None
    if done.returncode == drawing.REFUSED:
        raise drawing.Refused(done.stdout.strip())
    if done.returncode:
        if "No space left" in done.stderr:
            raise OSError(28, "No space left on device", str(picture))
        raise drawing.Refused(TOO_MUCH)
