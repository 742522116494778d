"""The latest things made, kept by the numbers they were made from, within a bound on memory."""

from collections import OrderedDict
from collections.abc import Callable, Hashable
from dataclasses import dataclass
from threading import Lock
from typing import Any, Generic, Protocol, TypeVar

from ..physics import bytes_of, key_of

FEW = 48  # systems or points whose curves and limits are looked up by their values before they are worked out


class Sized(Protocol):
    """What knows how much memory it takes."""

    @property
    def nbytes(self) -> int: ...


Made = TypeVar("Made", bound=Sized)
Given = TypeVar("Given")


class Remembered(Generic[Made]):
    """The latest things made, by the numbers they were made from; no more of them than `most_bytes` hold."""

    def __init__(self, most_bytes: int):
        self.most_bytes, self._kept, self._bytes = most_bytes, OrderedDict[Hashable, Made](), 0
        self._lock = Lock()  # requests are answered side by side

    def get_or_make(self, key: Hashable, make: Callable[[], Made]) -> Made:
        """What was made under this key, or what `make` gives now."""
        found = self.get(key)
        return self.put(key, make()) if found is None else found

    def get(self, key: Hashable) -> Made | None:
        """What was made under this key; None where nothing is kept."""
        with self._lock:
            if key not in self._kept:
                return None
            self._kept.move_to_end(key)
            return self._kept[key]

    def put(self, key: Hashable, made: Made) -> Made:
        """Keep what was made under a key, and give it back; what was kept there first stays."""
        with self._lock:
            if key in self._kept:
                return self._kept[key]
            self._kept[key] = made
            self._bytes += made.nbytes
            while self._bytes > self.most_bytes and len(self._kept) > 1:
                self._bytes -= self._kept.popitem(last=False)[1].nbytes
        return made

    def clear(self) -> None:
        """Forget everything."""
        with self._lock:
            self._kept.clear()
            self._bytes = 0


@dataclass(frozen=True)
class _Answer(Generic[Given]):
    """Something of arrays, with the memory that they take."""

    given: Given
    nbytes: int


_FEW_AT_ONCE: Remembered[_Answer[Any]] = Remembered(60_000)  # some hundred answers; their keys are what takes room


def of_few(what: str, rows: Any, size: int, make: Callable[[], Given]) -> Given:
    """What `make` gives of these values, kept where they are of few systems: edits and trials leave most as they were.

    Arrays, or tuples and dataclasses of them. Not to be changed in place.
    """
    if size > FEW:
        return make()

    def answer() -> _Answer[Given]:
        made = make()
        return _Answer(made, bytes_of(made))

    given: Given = _FEW_AT_ONCE.get_or_make((what, key_of(rows)), answer).given
    return given
