"""Files written whole or not at all, also through a power cut; halves that a kill left are swept at the next start."""

import errno
import hashlib
import itertools
import os
import re
import shutil
from collections.abc import Callable
from pathlib import Path
from typing import BinaryIO

HALF = re.compile(r"\.(?P<pid>\d+)\.part$")
FORMER_HALF = re.compile(r"[a-z-]+-\d{8}-\d{6}-\d{6}\.sqlite3\.part")  # of earlier versions
_turn = itertools.count()


def half_of(path: Path) -> Path:
    """A temporary name beside a file, another each time, by which it is seen whose it is."""
    short = hashlib.sha256(os.fsencode(path.name)).hexdigest()[:12]
    return path.with_name(f".{short}-{next(_turn)}.{os.getpid()}.part")


def sync_folder(folder: Path) -> None:
    """Make names in a folder last through a power cut."""
    opened = os.open(folder, os.O_RDONLY)
    try:
        os.fsync(opened)
    finally:
        os.close(opened)


def made_whole(path: Path, make: Callable[[BinaryIO], None]) -> None:
    """Let `make` write a file that stands under its name only when all of it is on disk. Raises OSError.

    Only a plain file is ever replaced, and where a link names one, that one.
    """
    path = path.resolve()
    if path.exists() and not path.is_file():
        raise OSError(errno.EINVAL, "is no plain file", str(path))
    half = half_of(path)
    try:
        with half.open("wb") as out:
            make(out)
            out.flush()
            os.fsync(out.fileno())
        half.replace(path)
        sync_folder(path.parent)
    except OSError as error:
        error.filename = str(path)  # whoever reads it knows no temporary name
        raise
    finally:
        half.unlink(missing_ok=True)


def write_whole(path: Path, body: bytes) -> None:
    """Write a file so that it stands whole or not at all. Raises OSError."""

    def make(out: BinaryIO) -> None:
        out.write(body)

    made_whole(path, make)


def sweep(folder: Path) -> int:
    """Remove the halves in a folder and below whose process has ended; gives how many."""
    count = 0
    for one in folder.rglob("*.part"):
        found = HALF.search(one.name)
        if found is None and not FORMER_HALF.fullmatch(one.name):
            continue
        if found is not None and _lives(int(found["pid"])):
            continue
        if one.is_dir() and not one.is_symlink():
            shutil.rmtree(one)
        else:
            one.unlink(missing_ok=True)
        count += 1
    return count


def _lives(pid: int) -> bool:
    """Whether another process of this number is there; one's own has no halves when it sweeps."""
    if pid == os.getpid():
        return False
    try:
        os.kill(pid, 0)
    except (ProcessLookupError, OverflowError):
        return False
    except PermissionError:
        return True
    return True
