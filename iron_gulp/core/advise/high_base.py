"""What rules of the high side look at: the side, its worst rail and pump, and whether a change carries."""

from ..judge import TargetVerdict
from ..model import Component, Edit, HighSide
from ..solve import PEAK, DirectPumps, DirectSolution
from .base import Context, highest

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


def worst_pump(verdict: TargetVerdict) -> tuple[int, DirectPumps]:
    """The pump with the least head of what it needs, counted from 1."""
    pumps = direct_of(verdict).pumps
    shares = [float(one.head_needed_kpa[PEAK]) / max(float(one.head_kpa[PEAK]), 1e-6) for one in pumps]
    worst = shares.index(max(shares))
    return worst + 1, pumps[worst]
