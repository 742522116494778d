"""Loads before the main pumps: suction head of every pump, and the lift stage that fills the surge tank."""

from collections.abc import Iterator
from dataclasses import dataclass, replace

import numpy as np

from ..physics import Floats, floats, lasts_s, mean_drawn_m3_s, refill_s, surge_load, taken_l
from ..solve import CRUISE_KPA, CRUISE_SPEED, PEAK, cruise_kg_s, solve_at
from .loads import Share, Solved, share


@dataclass(frozen=True)
class Surge:
    """A surge tank on a target: what is drawn at full load and at cruise, what is lifted, m³/s; its litres; for how long
    and how much of the time the car is at full load."""

    drawn_m3_s: float
    cruise_m3_s: float
    lifted_m3_s: float
    volume_l: float
    load_s: float
    share: float

    @property
    def mean_m3_s(self) -> float:
        """What is drawn over the whole of its use."""
        return float(mean_drawn_m3_s(self.drawn_m3_s, self.cruise_m3_s, self.share))

    @property
    def lasts_s(self) -> float:
        """How long a full tank lasts at full load; without end where the lift stage carries it."""
        return float(lasts_s(self.drawn_m3_s, self.lifted_m3_s, self.volume_l))

    @property
    def left_l(self) -> float:
        """What is left after the time at load."""
        return max(self.volume_l - float(taken_l(self.drawn_m3_s, self.lifted_m3_s, self.load_s)), 0.0)

    @property
    def refill_s(self) -> float:
        """How long it takes at cruise until it is full again."""
        return float(refill_s(self.volume_l - self.left_l, self.cruise_m3_s, self.lifted_m3_s))


def loads(solved: Solved) -> Iterator[Share]:
    """Head needed of the head above vapour pressure, at the worst pump; the lift stage by mean and by time at load."""
    heads = suction_heads_kpa(solved)
    worst = np.maximum.reduce([share(needed, available) for available, needed in heads])
    yield Share("suction", floats(worst), "head the pump needs of the head above vapour pressure")
    if solved.surge is not None:
        drawn, cruise, lifted, volume, part, seconds = solved.surge
        load = surge_load(drawn, cruise, lifted, part, seconds, volume)
        yield Share("lift", load, "drawn on the mean of what is lifted, or what the time at load takes of the surge tank")


def surges(solved: Solved) -> tuple[Floats, Floats, Floats, Floats, Floats, Floats] | None:
    """Drawn at full load and at cruise, lifted, m³/s; litres; share of the time and seconds at load; None without lift.

    Where the return comes back into the surge tank the engine's fuel is drawn, else all that the pumps move.
    """
    lift, targets = solved.cases.systems.lift, solved.cases.targets
    if lift is None or solved.lift is None:
        return None
    cruise_kg = cruise_kg_s(targets, solved.demand)
    drawn, cruise = solved.need_m3_s, floats(cruise_kg / targets.density_kg_m3)
    if not lift.to_surge.all():
        drawn = floats(np.where(lift.to_surge, drawn, solved.points.hydraulics.supply_m3_s[PEAK]))
        cases, rpm = solved.cases, floats(CRUISE_SPEED * targets.rpm)
        size = solved.points.hydraulics.rail_kpa.shape[-1]
        speed, manifold, fuel = (floats(np.broadcast_to(one, (1, size))) for one in (rpm, CRUISE_KPA, cruise_kg))
        moved = solve_at(cases.systems, cases.meters, targets, speed, manifold, fuel).hydraulics.supply_m3_s[0]
        cruise = floats(np.where(lift.to_surge, cruise, moved))
    return drawn, cruise, solved.lift.flow_m3_s, lift.surge_l, targets.load_share, targets.load_s


def lift_share(solved: Solved) -> Floats:
    """The share of the target's power at which lift stages that need lift no more than is burnt run out; 0 for none.

    What is burnt at full load goes with power, and at cruise in a straight line with it.
    """
    lift, lifted, targets = solved.cases.systems.lift, solved.lift, solved.cases.targets
    assert lift is not None
    assert lifted is not None
    nothing = replace(solved.demand, chosen_kg_s=floats(np.zeros_like(solved.demand.chosen_kg_s)))
    at_none, at_all = (cruise_kg_s(targets, one) / targets.density_kg_m3 for one in (nothing, solved.demand))
    brings, part, drawn = lifted.flow_m3_s, targets.load_share, solved.need_m3_s

    def reached(none: Floats, whole: Floats, most: Floats) -> Floats:
        """Where a line from `none` at no power to `whole` at all of it comes to `most`."""
        with np.errstate(divide="ignore", invalid="ignore"):
            at = np.where(whole > none, (most - none) / (whole - none), np.inf)
        return floats(np.where(none >= most, 0.0, at))

    by_mean = reached(floats((1.0 - part) * at_none), floats(part * drawn + (1.0 - part) * at_all), brings)
    by_cruise = reached(floats(at_none), floats(at_all), brings)
    by_time = reached(floats(0.0 * drawn), drawn, floats(brings + lift.surge_l * 1e-3 / targets.load_s))
    return floats(np.minimum(np.minimum(by_mean, by_cruise), by_time))


def surge_at(found: tuple[Floats, ...] | None, row: int) -> Surge | None:
    """One system's surge tank of many."""
    if found is None:
        return None
    drawn, cruise, lifted, volume, part, seconds = (float(one[row] if one.size > 1 else one[0]) for one in found)
    return Surge(drawn, cruise, lifted, volume, seconds, part)


def suction_heads_kpa(solved: Solved) -> list[tuple[Floats, Floats]]:
    """(available, needed) suction head of the main pumps and of the lift stage, kPa above the vapour pressure."""
    systems, hyd, targets = solved.cases.systems, solved.points.hydraulics, solved.cases.targets
    above_vapour = floats(targets.barometer_kpa - targets.vapour_kpa_abs)
    runs = np.any(hyd.running, axis=1)
    needed = np.maximum.reduce(
        [group.pump.needed_head_kpa * on for group, on in zip(systems.groups, list(runs), strict=True)]
    )
    heads = [(floats(above_vapour + hyd.inlet_kpa.min(axis=0)), floats(needed))]
    if systems.lift is not None and solved.lift is not None:
        available = floats(above_vapour + solved.lift.inlet_kpa)
        heads.append((available, floats(systems.lift.pump.needed_head_kpa + 0.0 * available)))
    return heads
