"""A data folder held for one server."""

import fcntl
from collections.abc import Iterator
from contextlib import contextmanager
from pathlib import Path


class InUse(RuntimeError):
    """Another server works on this folder."""


@contextmanager
def alone(folder: Path) -> Iterator[None]:
    """Hold a folder for one server; the hold ends with the process, whatever ends it. Raises InUse, OSError."""
    folder.mkdir(parents=True, exist_ok=True)
    with (folder / "in-use.lock").open("a") as lock:
        try:
            fcntl.flock(lock, fcntl.LOCK_EX | fcntl.LOCK_NB)
        except BlockingIOError:
            raise InUse(
                f"{folder} is in use by another Iron Gulp server; stop that one, or choose another folder"
            ) from None
        yield
