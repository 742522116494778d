"""What remains when one of two sides stops: the same commands solved again, the stopped side passing nothing."""

from dataclasses import dataclass, replace

import numpy as np

from ..model import Build, Option, Target
from ..physics import Floats, floats
from .demand import targets_of
from .direct import ceiling_at, high_points
from .hydraulics import running_groups, signals_at, solve_systems
from .systems import packed
from .target import PointSolution, direct_at, meters_of, points_asked


@dataclass(frozen=True)
class Stopped:
    """Fuel left with either side stopped, and what the direct side holds at its target, kg/s, of shape (points,)."""

    without_port_kg_s: Floats
    without_direct_kg_s: Floats
    direct_ceiling_kg_s: Floats


def stopped_sides(build: Build, option: Option, target: Target, points: PointSolution) -> Stopped | None:
    """Either side stopped at a target's solved points (peak, idle); None without direct injection."""
    if points.direct is None:
        return None
    systems, meters, targets = packed(option), meters_of(build, option, target), targets_of(build, target, option)
    idling = np.arange(points.rpm.size) == points.rpm.size - 1
    asked = points_asked(systems, meters, targets, points.rpm, points.manifold_kpa, points.demand_kg_s, idling)
    high = asked.points.high
    assert high is not None
    assert meters.direct is not None
    running = running_groups(systems, signals_at(asked.points))

    def left(direct_kg_s: Floats, port_kg_s: Floats) -> Floats:
        one = replace(high, direct_kg_s=direct_kg_s, port_kg_s=port_kg_s)
        changed = replace(asked.points, demand_kg_s=floats(direct_kg_s + port_kg_s), high=one)
        again = replace(asked, points=changed)
        found = direct_at(systems, targets, again, solve_systems(systems, changed, ~running, running), points.rpm)
        return floats(found.delivered_kg_s + found.port_delivered_kg_s)

    nothing = floats(np.zeros_like(points.demand_kg_s))
    direct, port = (floats(one + nothing) for one in (high.direct_kg_s, high.port_kg_s))
    bare = high_points(systems, meters.direct, targets, points.rpm, idling)
    return Stopped(
        left(direct, nothing),
        left(nothing, port),
        ceiling_at(systems, targets, bare, points.rpm, points.hydraulics.set_kpa),
    )
