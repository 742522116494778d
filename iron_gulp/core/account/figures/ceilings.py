"""Figures of the envelope: how loaded what ends the power is, what comes next, and what is left."""

from ...judge import TargetVerdict
from ...model import POWER_LIMITS
from .base import AnyFigure, SystemFigure

INPUTS = (
    ("{target}/power_kw", "Power wanted", "power_kw"),
    ("{target}/ethanol_pct", "Ethanol", "ethanol_pct"),
    ("{target}/rpm", "Engine speed", "speed_rpm"),
    ("{target}/boost_kpa", "Boost", "boost_kpa"),
    ("{target}/supply_v", "System voltage", "supply_v"),
    ("{option}/regulator/base_kpa", "Base pressure", "base_kpa"),
    ("{option}/feed/part/bore_mm", "Feed bore", "bore_mm"),
)
_SOURCE = "coupled solution; ceilings as in the loads"


def _ranked(verdict: TargetVerdict) -> list[float]:
    """Loads of what ends a power, highest first."""
    return sorted((load.load for load in verdict.loads if load.component in POWER_LIMITS), reverse=True)


def _first(verdict: TargetVerdict) -> float:
    return _ranked(verdict)[0] * 100.0


def _next(verdict: TargetVerdict) -> float:
    ranked = _ranked(verdict)
    return ranked[1] * 100.0 if len(ranked) > 1 else 0.0


def _left(verdict: TargetVerdict) -> float:
    first = _ranked(verdict)[0]
    return (1.0 / first - 1.0) * 100.0 if first > 0 else float("inf")


FIGURES: tuple[AnyFigure, ...] = (
    SystemFigure(
        "ceiling.first_pct",
        "Load of what ends the power first",
        "load = fuel asked ÷ what it passes at its limit, highest of all",
        INPUTS,
        _first,
        _SOURCE,
    ),
    SystemFigure(
        "ceiling.next_pct",
        "of what ends it next",
        "load = fuel asked ÷ what it passes at its limit, second of all",
        INPUTS,
        _next,
        _SOURCE,
    ),
    SystemFigure(
        "ceiling.left_pct",
        "Power left to the first of them",
        "left = 1 ÷ load − 1",
        INPUTS,
        _left,
        _SOURCE,
        note="Where a limit moves in proportion with the fuel; where it does not, the envelope's own ceiling counts.",
    ),
)
