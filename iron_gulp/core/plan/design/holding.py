"""What a system is held to in a search: headroom where it is asked, limits and the shop's rules to hold elsewhere.

The headroom wanted is asked of pumps, wiring and the high side; of whatever else limits, and of rules, a load of no more
than 1 (physics §2). A rule fails a choice in a search; it never says that a system does not carry.
"""

from collections.abc import Sequence

import numpy as np

from ...judge import Load, TargetVerdict
from ...model import LIMITS, RESERVED, RULES, Component
from ...physics import Floats, floats
from .ease import PLAIN, Ease
from .locks import Kept

AIR = ("engine", "compressor")  # no fuel part moves them
LIMITING: tuple[Component, ...] = tuple(one for one in LIMITS if one not in AIR)
COUNTED: tuple[Component, ...] = (*LIMITING, *RULES)
# What stays as it is may be outside the shop's rules as it was.
RULES_OF: dict[Kept, tuple[Component, ...]] = {
    "lines": ("feed", "return"),
    "filter": ("filter",),
    "pumps": ("fuse", "wire drop"),
}


def weighed(component: str, load: Floats) -> Floats:
    """Loads as a search weighs them: none where no headroom is asked and the load holds."""
    if component in RESERVED:
        return load
    return floats(np.where(load <= 1.0, 0.0, load))


def waived(keep: Sequence[Kept]) -> frozenset[Component]:
    """Rules that are not asked of what is kept."""
    return frozenset(one for kept in keep for one in RULES_OF.get(kept, ()))


def headroom_of(verdicts: Sequence[TargetVerdict], ease: Ease = PLAIN) -> float:
    """The least headroom of what it is asked of, over targets, a share; below nothing where anything does not carry."""
    worst = max(highest(verdict, ease) for verdict in verdicts)
    return float("inf") if worst <= 0 else 1.0 / worst - 1.0


def highest(verdict: TargetVerdict, ease: Ease = PLAIN, among: Sequence[Component] = LIMITING) -> float:
    """The highest load as a search weighs it."""
    return max((_weight(one, verdict, ease) for one in verdict.loads if one.component in among), default=0.0)


def worst_load(verdict: TargetVerdict, ease: Ease = PLAIN, among: Sequence[Component] = LIMITING) -> Load:
    """The load that decides on a target: the highest as weighed, or as it is where all are alike."""
    counted = (one for one in verdict.loads if one.component in among)
    return max(counted, key=lambda one: (_weight(one, verdict, ease), one.load))


def worst_component(verdicts: Sequence[TargetVerdict], ease: Ease = PLAIN) -> str:
    """The component that decides on any target: past its limit, or with the least headroom of what it is asked of."""
    return worst_load(max(verdicts, key=lambda one: highest(one, ease)), ease).component


def _weight(one: Load, verdict: TargetVerdict, ease: Ease) -> float:
    return float(weighed(one.component, floats(one.load * ease.of(one.component, verdict.target.id))))


def broken(verdicts: Sequence[TargetVerdict], ease: Ease, without: frozenset[Component]) -> Component | None:
    """The first rule of the shop that is not kept on any target; None where all are."""
    for component in RULES:
        if component in without:
            continue
        if any(one.load(component).load * ease.of(component, one.target.id) > 1.0 for one in verdicts):
            return component
    return None


def nearest_words(load: Load, wanted: float) -> str:
    """How the nearest system fails: past a limit, outside a rule, or short of the headroom `wanted` (a share)."""
    percent = f"{load.load * 100:.0f}\u00a0%" if load.load < 100 else "far more"
    if load.component in RULES:
        return f"is outside the shop's rule: {load.title.lower()} at {percent}"
    if load.load > 1.0:
        return f"runs out: {load.title.lower()} at {percent} of what it bears"
    short = (wanted + 1.0 - 1.0 / max(load.load, 1e-9)) * 100.0
    if short <= 0.0:
        return f"carries with the headroom wanted: {load.title.lower()} at {percent} of what it bears"
    points = f"{short:.0f} points" if short >= 1.5 else "a point" if short >= 0.5 else "less than a point"
    return f"carries, but misses the headroom wanted by {points}: {load.title.lower()} at {percent} of what it bears"
