"""The largest current a pump draws at a pressure its system can bring it to: what fuse, wire and switch must bear.

At idle, overrun included, and at the peak as solved; at the set pressure with the regulator shut, where the pumps are
short and the rail has sunk; and where a stage joins, with less drawn than at the peak. A relief valve is wide open 8 %
above its pressure: no more than that. Never the stall of a table carried on (physics §4).
"""

from collections.abc import Iterator

import numpy as np

from ..physics import M3_S_PER_L_H, Floats, floats
from ..solve import PEAK, Demand, Group, Systems, Targets, characteristic_a, field_kg_s
from .loads import Solved

_JUST_ABOVE = 1e-6  # of a switching point: the stage is on
WIDE_OPEN = 1.08  # of its pressure a relief valve is wide open at
WITH_RETURN = ("bypass after the rail", "bypass near the tank", "carburettor, bypass")


def largest_a(solved: Solved, joining: Floats) -> list[Floats]:
    """Largest current of one pump of each main group, A, each of shape (systems,).

    `joining` is what they draw where stages join, shape (groups, points, systems).
    """
    hyd, targets = solved.points.hydraulics, solved.cases.targets
    lost = floats(hyd.pump_rise_kpa[PEAK] - hyd.rail_kpa[PEAK])
    shut = floats(np.maximum(hyd.set_kpa[PEAK], hyd.rail_kpa[PEAK]) + lost)
    found = []
    for number, group in enumerate(solved.cases.systems.groups):
        amps = floats(hyd.amps[number].max(axis=0))
        if joining.shape[1]:
            amps = floats(np.maximum(amps, joining[number].max(axis=0)))
        short = hyd.running[number, PEAK] & (hyd.rail_kpa[PEAK] < hyd.set_kpa[PEAK])
        if short.any() and not group.pump.mechanical and not group.boosting:
            rise = floats(np.minimum(shut + group.valve_kpa, group.pump.relief_kpa * WIDE_OPEN))
            volts = np.where(targets.boost_kpa > group.booster_kpa, group.booster_v, 0.0)
            source = floats(np.maximum(volts, targets.supply_v))
            full = (floats(np.ones_like(source)), floats(group.full_speed + 0.0 * source))
            controlled = solved.cases.systems.arrangement == "returnless, speed-controlled"
            asked = characteristic_a(group.pump, rise, source, targets.rpm, full if controlled else ())
            amps = floats(np.maximum(amps, np.where(short, asked, 0.0)))
        found.append(amps)
    return found


def joining_points(systems: Systems, targets: Targets, demand: Demand[Floats]) -> Iterator[tuple[Floats, Floats, Floats]]:
    """Speed, manifold pressure and fuel where each stage joins: what it brings there may lift the rail above its set
    pressure. Without a return nothing does."""
    if systems.arrangement not in WITH_RETURN:
        return
    for group in systems.groups:
        if group.limits.staged.any():
            yield _where(targets, demand, group)


def _where(targets: Targets, demand: Demand[Floats], group: Group) -> tuple[Floats, Floats, Floats]:
    """Speed, manifold pressure and fuel at which a stage joins on the way to its target; the peak where it is on all
    along, or never."""
    limits = group.limits
    boosts, speeds = (
        np.where(limits.staged & np.isfinite(at) & (at < most), at * (1.0 + _JUST_ABOVE) + _JUST_ABOVE, most)
        for at, most in ((limits.boost_kpa, targets.boost_kpa), (limits.rpm, targets.rpm))
    )
    # Systems of one target share it as one number; each has stages of its own.
    size = np.broadcast_shapes(boosts.shape, speeds.shape, demand.chosen_kg_s.shape)
    manifold, rpm = (floats(np.broadcast_to(one, size).copy()) for one in (boosts, speeds))
    wanted = floats(np.minimum(field_kg_s(targets, demand, rpm, manifold), demand.chosen_kg_s))
    by_flow = limits.flow_l_h * M3_S_PER_L_H * targets.density_kg_m3 * (1.0 + _JUST_ABOVE)
    return rpm, manifold, floats(np.where(np.isfinite(by_flow), np.minimum(by_flow, wanted), wanted))
