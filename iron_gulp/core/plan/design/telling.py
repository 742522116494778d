"""What a search found, as plain data, and what each lock opened alone would give."""

from collections.abc import Callable, Iterator

from .locks import Locks
from .search import Design, Found, Search, Stop, worst_component


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


def opened(search: Callable[[Locks], Search], locks: Locks, stop: Stop = lambda: False) -> Iterator[tuple[str, Design]]:
    """For each closed lock, the cheapest design with that lock alone opened, where there is one."""
    for name in locks.closed:
        other = search(locks.without(name))
        for _ in other.run(stop, first_only=True):
            if stop():
                return
        if other.found.best is not None:
            yield name, other.found.best
