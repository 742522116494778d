"""What a search found, as plain data, and what each lock opened alone would give."""

from collections.abc import Callable, Iterator
from itertools import combinations

from .found import Design, Found
from .holding import worst_component
from .locks import Locks
from .search import Search, Stop


def front_told(found: Found) -> dict[str, object]:
    """What a search found, as plain data: the front cheapest first, the nearest where it is empty, and what fell."""

    def told(one: Design) -> dict[str, object]:
        worst = one.first_out
        return {
            "cost": round(one.bill.total, 2),
            "headroom": round(one.headroom, 4),
            "complexity": one.score.complexity,
            "first_out": {"target": worst.target.id, "component": worst_component(one.verdicts)},
            "option": one.option.model_dump(mode="json", by_alias=True, exclude_none=True),
        }

    return {
        "done": found.done,
        "combinations": found.total,
        "designs": [told(one) for one in sorted(found.front, key=lambda one: one.score)],
        "nearest": None if found.front or found.nearest is None else told(found.nearest),
        "fell": dict(found.fell.most_common()),
        "dominated": found.dominated,
    }


def opened(
    search: Callable[[Locks], Search], locks: Locks, stop: Stop = lambda: False
) -> Iterator[tuple[tuple[str, ...], Design]]:
    """The cheapest design with each closed lock opened alone, where there is one; of each two where none alone does."""
    for count in (1, 2):
        found = False
        for names in combinations(locks.closed, count):
            wider = locks
            for name in names:
                wider = wider.without(name)
            other = search(wider)
            for _ in other.run(stop, first_only=True):
                if stop():
                    return
            if other.found.best is not None:
                found = True
                yield names, other.found.best
        if found or stop():
            return
