"""Pumps of the shelf for a place in a system, in the order of what they move there."""

from collections.abc import Sequence
from dataclasses import dataclass

from ..judge import TargetVerdict
from ..model import Catalogue, PumpPart, flow_at, flow_at_400_kpa, remembered_of, same_work
from ..solve import PEAK

INJECTION_KPA, LIFT_KPA, CARBURETTOR_KPA = 400.0, 50.0, 30.0


@dataclass(frozen=True)
class Offered:
    """A pump, and what it moves at a pressure rise and its own voltage, L/h."""

    part: PumpPart
    rise_kpa: float
    flow_l_h: float


def working_kpa(part: PumpPart) -> float:
    """The pressure rise pumps for the same work are compared at: injection, lifting or a carburettor."""
    if flow_at_400_kpa(part) > 0:
        return INJECTION_KPA
    return LIFT_KPA if part.relief_kpa is None and part.kind != "mechanical" else CARBURETTOR_KPA


def end_rise_kpa(verdicts: Sequence[TargetVerdict]) -> float:
    """The highest pressure rise the main pumps work against at the peak of any target, kPa."""
    return max(float(verdict.points.hydraulics.pump_rise_kpa[PEAK]) for verdict in verdicts)


def lift_rise_kpa(verdicts: Sequence[TargetVerdict]) -> float:
    """The highest pressure rise of the lift stage on any target, kPa; that of a lift pump's work without one."""
    return max((verdict.lift.rise_kpa for verdict in verdicts if verdict.lift is not None), default=LIFT_KPA)


def offered(shelf: Catalogue, fitted: PumpPart, rise_kpa: float) -> list[Offered]:
    """Pumps with their flow at a rise: those for the work of the fitted one first, each lot from small to large."""

    def flows() -> list[Offered]:
        return [Offered(part, rise_kpa, flow_at(part, rise_kpa)) for part in shelf.pumps]

    found = remembered_of(shelf, (rise_kpa,), "pumps at a rise", flows)
    return sorted(found, key=lambda one: (not same_work(one.part, fitted), one.flow_l_h))
