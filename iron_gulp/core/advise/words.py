"""Words that several rules say alike: how lean, and lists of pump groups."""

from collections.abc import Sequence
from math import isfinite


def leaner(factor: float) -> str:
    """How far a mixture is off by a factor of λ: "12 % lean", "3 % rich"; never a bare factor."""
    if not isfinite(factor):
        return "lean past all measure"
    off = (factor - 1.0) * 100.0
    return f"{_percent(abs(off))} {'lean' if off >= 0 else 'rich'}"


def richer_by(percent: float) -> str:
    """How far a mixture is off by so much more fuel, in per cent: "66 % lean" for -66."""
    return f"{_percent(abs(percent))} {'rich' if percent >= 0 else 'lean'}"


def _percent(value: float) -> str:
    return f"{value:.0f}\u00a0%" if value >= 9.5 else f"{value:.1f}\u00a0%"


def listed(names: Sequence[str]) -> str:
    """Names in a row: commas, and one "and" before the last."""
    return names[0] if len(names) == 1 else f"{', '.join(names[:-1])} and {names[-1]}"


def groups_listed(numbers: Sequence[int]) -> str:
    """Numbers of pump groups: "group 2", "groups 1 and 3", "groups 1 to 3"."""
    if len(numbers) == 1:
        return f"group {numbers[0]}"
    row = sorted(numbers)
    if len(row) > 2 and row == list(range(row[0], row[-1] + 1)):
        return f"groups {row[0]} to {row[-1]}"
    return f"groups {listed([str(one) for one in row])}"


GROUP = "Main pump, group "


def circuits_listed(names: Sequence[str]) -> str:
    """Circuits by their names; those of pump groups by their numbers: "Main pumps, groups 1 and 2, and Lift pump"."""
    numbers = [int(one.removeprefix(GROUP)) for one in names if one.startswith(GROUP)]
    rest = [one for one in names if not one.startswith(GROUP)]
    groups = [f"{'Main pump' if len(numbers) == 1 else 'Main pumps'}, {groups_listed(numbers)}"] if numbers else []
    return listed([*groups, *rest])
