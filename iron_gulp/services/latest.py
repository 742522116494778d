"""The latest things made, a bounded number of them, shared by requests that are answered side by side."""

from collections import OrderedDict
from collections.abc import Hashable
from threading import Lock
from typing import Generic, TypeVar

Made = TypeVar("Made")


class Latest(Generic[Made]):
    """What was made last, by key; the one not asked for longest goes first."""

    def __init__(self, most: int):
        self._most, self._made = most, OrderedDict[Hashable, Made]()
        self._lock = Lock()

    def get(self, key: Hashable) -> Made | None:
        """What is kept under a key; None where nothing is."""
        with self._lock:
            found = self._made.get(key)
            if found is not None:
                self._made.move_to_end(key)
            return found

    def put(self, key: Hashable, made: Made) -> Made:
        """Keep something, and give it back."""
        with self._lock:
            self._made[key] = made
            self._made.move_to_end(key)
            while len(self._made) > self._most:
                self._made.popitem(last=False)
        return made

    def __len__(self) -> int:
        with self._lock:
            return len(self._made)
