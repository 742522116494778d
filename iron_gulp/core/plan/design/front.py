"""What nothing else beats: the front of cost, headroom and complexity."""

from collections.abc import Sequence
from dataclasses import dataclass

import numpy as np
from numpy.typing import NDArray


@dataclass(frozen=True, order=True)
class Score:
    """What a design is weighed by: cost in the shop's money, headroom in whole per cent, complexity in points.

    Cost is rounded to whole money: nobody chooses by less. Headroom past `ENOUGH_PCT` counts no more.
    """

    cost: int
    complexity: int
    headroom_pct: int

    def beats(self, other: "Score") -> bool:
        """Whether it is nowhere worse, and somewhere better."""
        return self.no_worse(other) and self != other

    def no_worse(self, other: "Score") -> bool:
        """Whether it costs no more, is no more complex and leaves no less."""
        cheap, simple = self.cost <= other.cost, self.complexity <= other.complexity
        return cheap and simple and self.headroom_pct >= other.headroom_pct


ENOUGH_PCT = 60


def headroom_class(headroom: float) -> int:
    """Headroom as it is weighed: whole per cent, no more than enough."""
    return int(min(np.floor(headroom * 100.0 + 1e-6), ENOUGH_PCT)) if np.isfinite(headroom) else ENOUGH_PCT


def front_of(scores: Sequence[Score]) -> list[int]:
    """Positions of those that nothing beats, cheapest first; of equal ones the first."""
    found: list[int] = []
    for at in sorted(
        range(len(scores)), key=lambda one: (scores[one].cost, scores[one].complexity, -scores[one].headroom_pct, one)
    ):
        if not any(scores[one].no_worse(scores[at]) for one in found):
            found.append(at)
    return found


def beaten(
    cost: NDArray[np.int64], complexity: NDArray[np.int64], headroom: NDArray[np.int64], by: Score
) -> NDArray[np.bool_]:
    """Which of many one design is no worse than, everywhere."""
    return (by.cost <= cost) & (by.complexity <= complexity) & (by.headroom_pct >= headroom)
