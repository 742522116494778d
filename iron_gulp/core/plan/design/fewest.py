"""Put right by the same search: the fewest kinds of parts changed that carry every target, everything else kept."""

from collections.abc import Callable, Iterator
from itertools import combinations

from ...model import Option
from .found import Design
from .locks import KEEPS, Kept, Locks
from .search import Search, Stop

NEEDS_HIGH = ("high-pressure pumps", "direct injectors")


def kinds_of(option: Option) -> tuple[Kept, ...]:
    """Kinds of parts an option has."""
    found = (one for one in KEEPS if option.high_side is not None or one not in NEEDS_HIGH)
    return tuple(one for one in found if option.injectors is not None or one != "injectors")


def fewest(
    search: Callable[[Locks], Search], option: Option, locks: Locks, stop: Stop = lambda: False, workers: int = 1
) -> Iterator[tuple[tuple[Kept, ...], Design | None, int]]:
    """Kinds opened, one, then two and so on, each with the cheapest design that changes nothing else (None where there is
    none) and how many systems were judged; ends with the fewest kinds that do.

    What `locks` keep stays kept. What is no part, as wiring and settings, is put right first and counts as no change.
    """
    free = [one for one in kinds_of(option) if one not in locks.keep]
    for count in range(1, len(free) + 1):
        done = False
        for opened in combinations(free, count):
            if stop():
                return
            kept = tuple(one for one in kinds_of(option) if one not in opened)
            other = search(locks.model_copy(update={"keep": kept}))
            for _ in other.run(stop, first_only=True, workers=workers):
                pass
            done = done or other.found.best is not None
            yield opened, other.found.best, other.found.tried
        if done:
            return
