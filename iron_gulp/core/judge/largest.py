"""The largest current a pump draws at a pressure its system can bring it to: what fuse, wire and switch must bear.

At idle, overrun included, and at the peak as solved; at the set pressure with the regulator shut, where the pumps are
short and the rail has sunk; and where a stage joins, with less drawn than at the peak. A relief valve is wide open 8 %
above its pressure: no more than that. Never the stall of a table carried on (physics §4).
"""

from collections.abc import Sequence

import numpy as np

from ..physics import M3_S_PER_L_H, Floats, floats
from ..solve import PEAK, Group, characteristic_a, field_kg_s, solve_at
from .loads import Solved
from .returning import lowest_rail_kpa

_JUST_ABOVE = 1e-6  # of a switching point: the stage is on
WIDE_OPEN = 1.08  # of its pressure a relief valve is wide open at
EASIER = 1.5  # pumps bring no more than so much of the peak's supply at the lower set pressure where a stage joins
WITH_RETURN = ("bypass after the rail", "bypass near the tank", "carburettor, bypass")


def largest_a(solved: Solved) -> list[Floats]:
    """Largest current of one pump of each main group, A, each of shape (systems,)."""
    hyd, targets = solved.points.hydraulics, solved.cases.targets
    joining = _joining(solved)
    lost = floats(hyd.pump_rise_kpa[PEAK] - hyd.rail_kpa[PEAK])
    shut = floats(np.maximum(hyd.set_kpa[PEAK], hyd.rail_kpa[PEAK]) + lost)
    found = []
    for number, group in enumerate(solved.cases.systems.groups):
        amps = floats(hyd.amps[number].max(axis=0))
        for more in joining:
            amps = floats(np.maximum(amps, more[number]))
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


def _joining(solved: Solved) -> Sequence[Sequence[Floats]]:
    """Currents of every group where each stage joins, (groups, systems) a stage; none without stages."""
    cases, targets = solved.cases, solved.cases.targets
    found = []
    for group in cases.systems.groups:
        if not group.limits.staged.any():
            continue
        rpm, manifold, wanted = _where(solved, group)
        if not _may_overrun(solved, manifold, wanted):
            continue
        at = solve_at(cases.systems, cases.meters, targets, rpm[None], manifold[None], wanted[None])
        found.append([floats(one[0]) for one in at.hydraulics.amps])
    return found


def _may_overrun(solved: Solved, manifold_kpa: Floats, wanted_kg_s: Floats) -> bool:
    """Whether what all pumps bring could lift the rail of any system above its set pressure there: else less is drawn
    than at the peak, whose set pressure is higher."""
    systems, targets = solved.cases.systems, solved.cases.targets
    if systems.arrangement not in WITH_RETURN:
        return False
    most = EASIER * solved.points.hydraulics.supply_at_set_m3_s[PEAK]
    bypass = floats(np.maximum(most - wanted_kg_s / targets.density_kg_m3, 0.0))
    meant = systems.base_kpa + systems.reference_ratio * manifold_kpa
    return bool((lowest_rail_kpa(systems.back, bypass, solved.fluid) > meant).any())


def _where(solved: Solved, group: Group) -> tuple[Floats, Floats, Floats]:
    """Speed, manifold pressure and fuel at which a stage joins on the way to its target; the peak where it is on all
    along, or never."""
    limits, targets, demand = group.limits, solved.cases.targets, solved.demand
    size = solved.points.hydraulics.rail_kpa.shape[-1]
    boosts, speeds = (
        np.where(limits.staged & np.isfinite(at) & (at < most), at * (1.0 + _JUST_ABOVE) + _JUST_ABOVE, most)
        for at, most in ((limits.boost_kpa, targets.boost_kpa), (limits.rpm, targets.rpm))
    )
    manifold, rpm = (floats(np.broadcast_to(one, size).copy()) for one in (boosts, speeds))
    wanted = floats(np.minimum(field_kg_s(targets, demand, rpm, manifold), demand.chosen_kg_s))
    by_flow = limits.flow_l_h * M3_S_PER_L_H * targets.density_kg_m3 * (1.0 + _JUST_ABOVE)
    return rpm, manifold, floats(np.where(np.isfinite(by_flow), np.minimum(by_flow, wanted), wanted))
