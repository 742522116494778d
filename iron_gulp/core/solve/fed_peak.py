"""Targets' peaks on systems with a high side, to be asked what happens at other powers without solving them whole."""

from dataclasses import dataclass, replace
from typing import Any

import numpy as np

from ..physics import Floats, floats, mapped, set_pressure_kpa, take
from .arrangements import Case
from .curves import FLOW, RAIL, Drive
from .demand import Targets
from .direct import high_points
from .high_side import HighAt
from .hydraulics import FEW, running_groups, signals_at
from .pipes import FluidState
from .settling import at_target_kg_s
from .systems import Systems
from .target import Meters, PointSolution, points_asked

SEEN_ARRANGEMENTS = ("bypass after the rail", "returnless, speed-controlled")


@dataclass(frozen=True)
class FedPeak:
    """Peaks of shape (systems,): the high side with nothing asked of it, and the low side's curve behind its node."""

    at: HighAt
    supply: Any
    set_kpa: Floats
    at_set_m3_s: Floats

    @classmethod
    def of(cls, systems: Systems, meters: Meters, targets: Targets, points: PointSolution) -> "FedPeak | None":
        """Peaks as solved; None where the node's pressure is not that of the set pressure or of the pumps alone."""
        known = systems.arrangement in SEEN_ARRANGEMENTS and not systems.creep_pa.any()
        above = points.hydraulics.rail_kpa[0] > points.hydraulics.set_kpa[0] * (1.0 + 1e-9)
        if not known or above.any() or meters.direct is None:
            return None
        rpm, boost, wanted = points.rpm[0], points.manifold_kpa[0], points.demand_kg_s[0]
        idling = np.zeros(rpm.shape, dtype=bool)
        asked = points_asked(systems, meters, targets, rpm, boost, wanted, idling)
        running = running_groups(systems, signals_at(asked.points))
        bare = high_points(systems, meters.direct, targets, rpm, idling)
        size = rpm.size
        nothing = np.zeros(size)
        fluid = FluidState(targets.density_kg_m3, targets.viscosity_mpa_s)

        def whole(array: Any) -> Any:
            return np.broadcast_to(array, (*array.shape[:-1], size)).copy()

        wide = mapped(systems, whole)
        drive = Drive(
            running,
            *(
                floats(one + nothing)
                for one in (
                    targets.supply_v,
                    rpm,
                    np.ones(size),
                    targets.density_kg_m3,
                    targets.viscosity_mpa_s,
                    asked.points.accel_g,
                )
            ),
        )
        set_kpa = floats(set_pressure_kpa(systems.base_kpa, systems.reference_ratio, boost) + nothing)
        boosted = any(group.boosting for group in systems.groups)
        row = np.arange(size) if boosted or size <= FEW else None
        empty = floats(nothing)
        case = Case(wide, drive, row, wide, fluid, empty, set_kpa, empty, empty, empty, empty)
        high = systems.high
        assert high is not None
        at = HighAt.of(take(high, np.arange(size)), bare, rpm, fluid)
        return cls(at, case.supply(), set_kpa, points.hydraulics.supply_at_set_m3_s[0])

    def node_kpa(self, flow_m3_s: Floats) -> Floats:
        """Pressure of the node where so much is taken from it: its set pressure, or what the pumps stand at."""
        node, short = self.set_kpa.copy(), np.flatnonzero(flow_m3_s > self.at_set_m3_s)
        if short.size:
            place, flow = self.supply.shut(flow_m3_s[short], short), flow_m3_s[short]
            lowest = self.at.lowest_kpa[short]
            stands = np.where(place.ends(FLOW)[0] < flow, lowest, np.maximum(place.column(RAIL), lowest))
            node[short] = np.minimum(stands, node[short])
        return node

    def pump_excess_kg_s(self, wanted_kg_s: Floats, taken_m3_s: Floats) -> Floats:
        """What is wanted of the direct side above what its pumps bring at the target, the inlets as they are then."""
        at = replace(self.at, wanted_kg_s=wanted_kg_s)
        return floats(wanted_kg_s - at_target_kg_s(at, self.node_kpa(taken_m3_s)))

    def inlet_excess_kpa(self, wanted_kg_s: Floats, taken_m3_s: Floats) -> Floats:
        """Head a full stroke needs above the head there is, at the worst pump, with all that is wanted brought."""
        count, node = len(self.at.rails), self.node_kpa(taken_m3_s)
        flows = self.at.by_displacement([floats(wanted_kg_s / count)] * count)
        inlets = self.at.inlets_kpa(node, flows)
        heads = [floats(inlet + self.at.above_vapour_kpa) for inlet in inlets]
        needs = [self.at.head_needed_kpa(number) for number in range(len(heads))]
        return floats(np.maximum.reduce([need - head for need, head in zip(needs, heads, strict=True)]))
