"""Options weighed for a use: each criterion from the worst (0) to the best (1) of those compared, by its weight."""

from collections.abc import Mapping, Sequence
from dataclasses import dataclass

ENOUGH = 0.6  # headroom beyond it counts no more
# Criteria of which less is better.
LESS = ("cost", "circuits", "pumps", "silent", "heat", "steps")


@dataclass(frozen=True)
class Weighed:
    """An option's shares by criterion, 0 to 1, and the whole, 0 to 100."""

    shares: Mapping[str, float]
    whole: float


def weigh(values: Sequence[Mapping[str, float]], weights: Mapping[str, float]) -> list[Weighed]:
    """Options by their values of each criterion. What is the same everywhere counts for all alike; no weight, nothing."""
    found = [{name: _share(name, [one[name] for one in values], at) for name in weights} for at in range(len(values))]
    total = sum(weights.values())
    return [
        Weighed(one, 100.0 * sum(weights[name] * share for name, share in one.items()) / total if total > 0 else 0.0)
        for one in found
    ]


def _share(name: str, every: Sequence[float], at: int) -> float:
    worth = [min(value, ENOUGH) if name == "headroom" else value for value in every]
    worth = [-one if name in LESS else one for one in worth]
    low, high = min(worth), max(worth)
    return 1.0 if high - low < 1e-9 else (worth[at] - low) / (high - low)
