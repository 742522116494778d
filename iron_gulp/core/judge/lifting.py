"""Loads before the main pumps: suction head of every pump, and the lift stage that fills the surge tank."""

from collections.abc import Iterator

import numpy as np

from ..physics import Floats, floats
from ..solve import PEAK
from .loads import Share, Solved, share


def loads(solved: Solved) -> Iterator[Share]:
    """Head needed of the head above vapour pressure, at the worst pump; what is drawn of what is lifted."""
    heads = suction_heads_kpa(solved)
    worst = np.maximum.reduce([share(needed, available) for available, needed in heads])
    yield Share("suction", floats(worst), "head the pump needs of the head above vapour pressure")
    lift = solved.cases.systems.lift
    if lift is not None and solved.lift is not None:
        drawn = np.where(lift.to_surge, solved.need_m3_s, solved.points.hydraulics.supply_m3_s[PEAK])
        yield Share("lift", share(drawn, solved.lift.flow_m3_s), "what is drawn from the surge tank of what is lifted")


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
