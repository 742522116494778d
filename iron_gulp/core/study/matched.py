"""A set of injectors measured one by one: spread, mixture error of each, which to swap, in what order they go in."""

from collections.abc import Sequence
from dataclasses import dataclass
from itertools import combinations

MOST_FOR_ALL = 12  # sets up to this size are split into banks by trying every way


@dataclass(frozen=True)
class Matched:
    """A measured set. `errors` is each cylinder's mixture against the mean, as a share: positive is lean.

    `spread` is highest less lowest over the mean. `swap` is the position whose replacement by one at the mean narrows the
    spread most, and `after` what it then is. `order` puts the flows into banks (positions, bank by bank) whose means are
    as near each other as can be; `apart` is how far apart they are then, as a share.
    """

    mean: float
    spread: float
    errors: tuple[float, ...]
    swap: int
    after: float
    order: tuple[tuple[int, ...], ...]
    apart: float


def matched(flows: Sequence[float], banks: int = 1) -> Matched:
    """A set of at least two flows, all above nothing, in the order of the cylinders. Raises ValueError otherwise."""
    if len(flows) < 2 or any(not one > 0 for one in flows):
        raise ValueError("a set is at least two flows, each above nothing")
    mean = sum(flows) / len(flows)
    spread = _spread(flows, mean)
    after = [_without(flows, position) for position in range(len(flows))]
    swap = min(range(len(flows)), key=lambda one: after[one])
    order, apart = _banks(flows, mean, banks)
    return Matched(mean, spread, tuple(mean / one - 1.0 for one in flows), swap, after[swap], order, apart)


def _spread(flows: Sequence[float], mean: float) -> float:
    return (max(flows) - min(flows)) / mean


def _without(flows: Sequence[float], position: int) -> float:
    """Spread once the one at a position is replaced by one at the mean of the others."""
    others = [one for at, one in enumerate(flows) if at != position]
    mean = sum(others) / len(others)
    return _spread(others, mean)


def _banks(flows: Sequence[float], mean: float, banks: int) -> tuple[tuple[tuple[int, ...], ...], float]:
    everything = tuple(range(len(flows)))
    if banks != 2 or len(flows) % 2 or len(flows) < 4:
        return (everything,), 0.0
    half = len(flows) // 2

    def apart(first: tuple[int, ...]) -> float:
        one = sum(flows[at] for at in first) / half
        return abs(one - (mean * len(flows) - one * half) / half) / mean

    if len(flows) <= MOST_FOR_ALL:
        best = min((one for one in combinations(everything, half) if 0 in one), key=apart)
    else:
        # Larger sets are dealt out by size, one each in turn and back.
        ranked = sorted(everything, key=lambda at: flows[at])
        best = tuple(sorted(at for place, at in enumerate(ranked) if place % 4 in (0, 3)))
        best = best if len(best) == half else tuple(sorted(ranked[::2]))
    other = tuple(at for at in everything if at not in best)
    return (best, other), apart(best)
