"""What rules of the high side look at: the side, its worst rail and pump, and whether a change carries."""

from collections.abc import Iterator

from ..judge import TargetVerdict
from ..model import Component, Edit, HighSide
from ..solve import PEAK, DirectPumps, DirectSolution
from .base import Context, Value, highest

Tries = list[tuple[str, dict[str, Value], tuple[Edit, ...]]]  # words, their values, edits
MOST_TRIALS = 3
LEAN = 1.01  # of the mixture meant: from here on an engine under load is in danger
LIMITS: tuple[Component, ...] = (
    "high-pressure pump",
    "high-pressure inlet",
    "direct injectors",
    "high-pressure limit",
    "pumps",
)


def high_of(context: Context) -> HighSide:
    """The option's high side."""
    high = context.option.high_side
    assert high is not None
    return high


def direct_of(verdict: TargetVerdict) -> DirectSolution:
    """A target's high side as solved."""
    assert verdict.points.direct is not None
    return verdict.points.direct


def lean_of(verdict: TargetVerdict) -> float:
    """Mixture of the worst bank, of the mixture meant."""
    return max(float(rail.lambda_factor[PEAK]) for rail in direct_of(verdict).rails)


def grave(verdicts: list[TargetVerdict]) -> bool:
    """Whether any bank of any of these targets runs lean."""
    return any(lean_of(one) > LEAN for one in verdicts)


def pumps_of(context: Context, name: str, value: object) -> tuple[Edit, ...]:
    """The same edit of every high-pressure pump."""
    return tuple((context.path(f"high_side/pumps/{n}/{name}"), value) for n in range(len(high_of(context).pumps)))


def carries(verdicts: list[TargetVerdict] | None) -> bool:
    """Whether low side, pumps, inlets and windows all carry."""
    return verdicts is not None and all(highest(verdicts, one) <= 1 for one in LIMITS)


def roomiest(
    context: Context, tries: Tries, component: Component, also: Component | None = None
) -> Iterator[tuple[str, dict[str, Value], tuple[Edit, ...], list[TargetVerdict]]]:
    """Of each kind of change, told by its words, the first that leaves the headroom wanted, else the first that carries.

    What it reaches is a value of its own, `load_pct`; `also` is to stay within its limit.
    """
    judged = context.trials([edits for _, _, edits in tries])
    kinds = dict.fromkeys(label for label, _, _ in tries)
    for kind in kinds:
        several = [(one, verdicts) for one, verdicts in zip(tries, judged, strict=True) if one[0] == kind and verdicts]
        good = [(one, v) for one, v in several if also is None or highest(v, also) <= 1]
        for most in (context.spare, 1.0):
            fit = next(((one, v) for one, v in good if highest(v, component) <= most), None)
            if fit is not None:
                (label, values, edits), verdicts = fit
                yield label, {**values, "load_pct": highest(verdicts, component) * 100}, edits, verdicts
                break


def worst_pump(verdict: TargetVerdict) -> tuple[int, DirectPumps]:
    """The pump with the least head of what it needs, counted from 1."""
    pumps = direct_of(verdict).pumps
    shares = [float(one.head_needed_kpa[PEAK]) / max(float(one.head_kpa[PEAK]), 1e-6) for one in pumps]
    worst = shares.index(max(shares))
    return worst + 1, pumps[worst]
