"""Targets' peaks on systems with a high side, to be asked what happens at other powers without solving them whole."""

from collections.abc import Callable
from dataclasses import dataclass, replace
from typing import Any

import numpy as np

from ..physics import Floats, floats, mapped, rising_root, set_pressure_kpa, take
from .case import Case, State
from .curves import FLOW, RAIL, Drive
from .demand import Targets
from .direct import high_points
from .high_side import HighAt
from .hydraulics import running_groups, signals_at
from .keeping import FEW
from .pipes import FluidState
from .pump_curves import Index
from .regulating import rail_column
from .settling import at_target_kg_s
from .systems import Systems, reference_kpa
from .target import Meters, PointSolution, points_asked

_LEAST, _TINY_M3_S, _NEAR_M3_S, _UNMET_KPA = 1e-3, 1e-9, 1e-11, 5.0
Excess = Callable[["FedPeak", Any, Floats, Floats], Floats]
SEEN_ARRANGEMENTS = ("bypass after the rail", "returnless, speed-controlled")


@dataclass(frozen=True)
class FedPeak:
    """Peaks of shape (systems,): the high side with nothing asked of it, and the low side's curve behind its node."""

    at: HighAt
    supply: Any
    set_kpa: Floats
    at_set_m3_s: Floats
    creep_pa: Floats

    @classmethod
    def of(cls, systems: Systems, meters: Meters, targets: Targets, points: PointSolution) -> "FedPeak | None":
        """Peaks as solved; None where the node's pressure is not that of the set pressure or of the pumps alone."""
        above = points.hydraulics.state[0] == int(State.OVERRUN)
        if systems.arrangement not in SEEN_ARRANGEMENTS or above.any() or meters.direct is None:
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
                    boost,
                )
            ),
        )
        set_kpa = floats(
            set_pressure_kpa(systems.base_kpa, systems.reference_ratio, reference_kpa(systems, boost)) + nothing
        )
        boosted = any(group.boosting for group in systems.groups)
        row = np.arange(size) if boosted or size <= FEW else None
        empty = floats(nothing)
        case = Case(wide, drive, row, wide, fluid, empty, set_kpa, empty, empty, empty, empty, empty)
        high = systems.high
        assert high is not None
        at = HighAt.of(take(high, np.arange(size)), bare, rpm, fluid)
        creep = floats(systems.creep_pa + nothing) if systems.arrangement == SEEN_ARRANGEMENTS[0] else empty
        return cls(at, case.supply(), set_kpa, points.hydraulics.supply_at_set_m3_s[0], creep)

    def some(self, which: Any) -> "FedPeak":
        """Some of the peaks."""
        return FedPeak(
            take(self.at, which),
            self.supply,
            take(self.set_kpa, which),
            take(self.at_set_m3_s, which),
            take(self.creep_pa, which),
        )

    def limit_m3_s(self, excess: Excess) -> Floats:
        """The flow from the node at which an excess is nothing; NaN where it never is.

        Up to what the pumps bring at the set pressure the node stands there and a little above, as its regulator creeps;
        beyond that it lies on the pumps' own curve, along which it is looked for.
        """
        least, most = floats(self.at_set_m3_s * _LEAST), floats(np.maximum(self.at_set_m3_s, _TINY_M3_S))

        def regulated(flow: Floats, which: Any) -> Floats:
            some = self if which is None else self.some(which)
            node = some.set_kpa + some.creep_pa * np.maximum(some.at_set_m3_s - flow, 0.0)
            return excess(some, which, flow, floats(node))

        below, above = regulated(least, None), regulated(most, None)
        found = floats(np.full(most.shape, np.nan))
        inside = np.flatnonzero((below < 0) & (above >= 0))
        if inside.size:
            ends = least[inside], most[inside]
            found[inside] = rising_root(lambda flow: regulated(flow, inside), *ends, _NEAR_M3_S)
        beyond = np.flatnonzero(above < 0)
        if beyond.size:
            found[beyond] = self._beyond(excess, beyond)
        return found

    def _beyond(self, excess: Excess, beyond: Index) -> Floats:
        """Where the pumps fall short: along their curve, on which the pressure rises as the flow falls."""
        start = self.supply.find(rail_column, self.set_kpa[beyond], None, beyond)

        def column(columns: Floats, which: Any) -> Floats:
            some = self.some(which)
            node = floats(np.maximum(columns[RAIL], some.at.lowest_kpa))
            return floats(-excess(some, which, floats(np.maximum(columns[FLOW], _TINY_M3_S)), node))

        place = self.supply.find(column, floats(np.zeros(beyond.size)), start, beyond)
        flow = place.column(FLOW)
        # Where even free-running pumps leave it within its limit there is none.
        left = excess(
            self.some(beyond), beyond, flow, floats(np.maximum(place.column(RAIL), self.some(beyond).at.lowest_kpa))
        )
        return floats(np.where(np.abs(left) <= _UNMET_KPA, flow, np.nan))

    def pump_excess(self, which: Any, asked_kg_s: Floats, node_kpa: Floats) -> Floats:
        """What is wanted above what the pumps bring at the target, as a share of what is wanted of the set pressure."""
        at = replace(self.at, wanted_kg_s=asked_kg_s)
        over = (asked_kg_s - at_target_kg_s(at, node_kpa)) / np.maximum(asked_kg_s, _TINY_M3_S)
        return floats(over * self.set_kpa)

    def inlet_excess(self, which: Any, asked_kg_s: Floats, node_kpa: Floats) -> Floats:
        """Head a full stroke needs above the head there is, at the worst pump, with all that is wanted brought, kPa."""
        count = len(self.at.rails)
        flows = self.at.by_displacement([floats(asked_kg_s / count)] * count)
        heads = [floats(inlet + self.at.above_vapour_kpa) for inlet in self.at.inlets_kpa(node_kpa, flows)]
        needs = [self.at.head_needed_kpa(number) for number in range(len(heads))]
        return floats(np.maximum.reduce([need - head for need, head in zip(needs, heads, strict=True)]))
