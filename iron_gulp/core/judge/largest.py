"""The largest current a pump draws at a pressure its system can bring it to: what fuse, wire and switch must bear.

At idle, overrun included, and at the peak as solved; at the set pressure with the regulator shut, where the pumps are
short and the rail has sunk; and where a stage joins, with less drawn than at the peak. A relief valve is wide open 8 %
above its pressure: no more than that. Never the stall of a table carried on (physics §4).
"""

from collections.abc import Sequence

import numpy as np

from ..physics import M3_S_PER_L_H, Floats, floats, take
from ..solve import (
    PEAK,
    Demand,
    Limits,
    Targets,
    characteristic_a,
    field_kg_s,
    may_stand_higher,
    of_few,
    points_asked,
    solve_systems,
)
from .loads import Solved

_JUST_ABOVE = 1e-6  # of a switching point: the stage is on
WIDE_OPEN = 1.08  # of its pressure a relief valve is wide open at


def largest_a(solved: Solved, joining: bool = True) -> list[Floats]:
    """Largest current of one pump of each main group, A, each of shape (systems,); where stages join only if asked."""
    joined = joining_a(solved) if joining else None
    hyd, targets = solved.points.hydraulics, solved.cases.targets
    lost = floats(hyd.pump_rise_kpa[PEAK] - hyd.rail_kpa[PEAK])
    shut = floats(np.maximum(hyd.set_kpa[PEAK], hyd.rail_kpa[PEAK]) + lost)
    found = []
    for number, group in enumerate(solved.cases.systems.groups):
        amps = floats(hyd.amps[number].max(axis=0))
        if joined is not None and joined.shape[1]:
            amps = floats(np.maximum(amps, joined[number].max(axis=0)))
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


def joining_a(plain: Solved) -> Floats:
    """Current of one pump of each group where stages join, A, shape (groups, points, systems).

    What a stage brings there may lift the rail above its set pressure, and above what it stands at when all is drawn.
    Solved only for systems where that can be; nothing for the others, whose pumps work harder at the peak.
    """
    systems, meters, targets = plain.cases.systems, plain.cases.meters, plain.cases.targets
    limits = tuple([group.limits for group in systems.groups if group.limits.staged.any()])
    peak = plain.points.hydraulics.at((PEAK, slice(None)))
    amps = floats(np.zeros((len(systems.groups), len(limits), peak.rail_kpa.size)))
    if not limits:
        return amps
    rpm, manifold, fuel = of_few(
        "joining", (targets, limits), peak.rail_kpa.size, lambda: _where(targets, plain.demand, limits)
    )
    asked = points_asked(systems, meters, targets, rpm, manifold, fuel).points
    higher = np.flatnonzero(may_stand_higher(systems, peak, asked))
    if higher.size:
        some = take(systems, higher), take(meters, higher), take(targets, higher)
        at = [one if one.shape[-1] == 1 else one[:, higher] for one in (rpm, manifold, fuel)]
        amps[:, :, higher] = solve_systems(some[0], points_asked(*some, at[0], at[1], at[2]).points).amps
    return amps


def _where(targets: Targets, demand: Demand[Floats], stages: Sequence[Limits]) -> tuple[Floats, ...]:
    """Speed, manifold pressure and fuel at which each stage joins on the way to its target, shape (stages, systems)."""
    points = [_joins_at(targets, demand, limits) for limits in stages]
    return tuple([floats(np.array(np.broadcast_arrays(*column))) for column in zip(*points, strict=True)])


def _joins_at(targets: Targets, demand: Demand[Floats], limits: Limits) -> tuple[Floats, Floats, Floats]:
    """Where one stage joins; the peak where it is on all along, or never."""
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
