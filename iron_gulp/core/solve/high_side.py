"""The high side of systems as numbers: cam-driven pumps, their feed, rails and direct injectors (physics §7).

`HighRows` are systems, `HighPoints` what is asked of them at operating points, `HighAt` both put together for points.
"""

from dataclasses import dataclass
from enum import IntEnum
from typing import Any

import numpy as np
from numpy.typing import NDArray

from ..model import FLOOR_ABOVE_CYLINDER_KPA, FLOOR_SHARE, Efficiency, HighPump, HighSide, RailTarget
from ..physics import Bends, Floats, array, floats
from ..physics import high_pressure as hp
from ..physics import injectors as inj
from .pipes import FluidState, Pipe, pipe_kpa, pipe_of

Table = tuple[tuple[float, ...], tuple[float, ...], tuple[tuple[float, ...], ...]]


class RailState(IntEnum):
    """What a direct rail does at a point, from best to worst."""

    HOLDS = 0
    SAGS = 1
    CLOSED_AT_TARGET = 2
    CLOSED_SAGGING = 3
    LEAN = 4


STATE_WORDS = {
    RailState.HOLDS: "holds target",
    RailState.SAGS: "sags inside the window",
    RailState.CLOSED_AT_TARGET: "window closed at target",
    RailState.CLOSED_SAGGING: "window closed, sagging",
    RailState.LEAN: "lean at the floor",
}


@dataclass(frozen=True)
class HighPumpRows:
    """A high-pressure pump of systems built alike; strokes and turns are those of one turn of the engine."""

    measured: Table | None
    stroke_m3: Floats
    strokes: Floats
    plungers: Floats
    leak_m3_s_kpa: Floats
    area_mm2: Floats
    dead_ratio: Floats
    valve_factor: Floats
    mech_efficiency: Floats
    bore_mm: Floats
    lift_mm: Floats
    lobes: Floats
    turns: Floats
    follower_g: Floats
    spring_n: Floats


@dataclass(frozen=True)
class HighRows:
    """The high side of systems built alike: `rails` holds the positions of the pumps of each rail that stands alone."""

    series: bool
    rails: tuple[tuple[int, ...], ...]
    pumps: tuple[HighPumpRows, ...]
    branches: tuple[Pipe, ...]
    bulk_modulus_mpa: Floats
    rated_cc_min: Floats
    rated_kpa: Floats
    count: Floats
    dead_ms: Floats
    min_pulse_ms: Floats
    window: Floats
    target: Bends
    idle_target_kpa: Floats
    floor_kpa: Floats
    cylinder_kpa: Floats
    idle_cylinder_kpa: Floats
    borne_kpa: Floats
    rail_cc: Floats


def _measured(found: Efficiency | None) -> Table | None:
    return None if found is None else (found.pressure_kpa, found.rpm, found.efficiency_pct)


def pump_rows(fitted: HighPump) -> HighPumpRows:
    """A high-pressure pump as fitted."""
    part = fitted.part
    several = part.driven == "several plungers"
    plungers = part.plungers if several else 1
    return HighPumpRows(
        _measured(part.efficiency),
        array(float(hp.stroke_m3(part.plunger_mm, part.stroke_mm))),
        array(part.strokes_a_turn * fitted.turns),
        array(float(plungers)),
        array(float(hp.leak_m3_s_per_kpa(part.plunger_mm, part.clearance_um + fitted.worn_um, part.seal_mm, plungers))),
        array(part.inlet_area_mm2),
        array(part.dead_ratio),
        array(part.valve_factor),
        array(part.mech_efficiency_pct / 100.0),
        array(part.plunger_mm),
        array(part.stroke_mm),
        array(1.0 if several else part.lobes),
        array(fitted.turns),
        array(part.follower_g),
        array(part.spring_n),
    )


def target_of(table: RailTarget) -> Bends:
    """The rail-pressure target as a function of engine speed, level beyond its ends."""
    slopes = np.diff(table.kpa) / np.diff(table.rpm) if len(table.rpm) > 1 else np.zeros(0)
    bends = np.diff(np.concatenate([[0.0], slopes, [0.0]]))
    return Bends(array(table.kpa[0]), array(0.0), floats(table.rpm)[:, None], floats(bends)[:, None])


def high_rows(high: HighSide) -> HighRows:
    """The high side of an option as a set of one; the count of injectors is NaN where it is one a cylinder."""
    numbers = range(len(high.pumps))
    banks = range(1, high.banks + 1)
    rails = tuple(tuple(n for n in numbers if high.pumps[n].bank == bank) for bank in banks)
    part = high.injectors.part
    return HighRows(
        high.feed == "series",
        rails if high.rails == "own" else (tuple(numbers),),
        tuple(pump_rows(pump) for pump in high.pumps),
        tuple(pipe_of(line) for line in high.branches),
        array(high.bulk_modulus_mpa),
        array(part.rated_flow_cc_min),
        array(part.rated_pressure_kpa),
        array(np.nan if high.injectors.count is None else high.injectors.count),
        array(part.dead_ms),
        array(part.min_pulse_ms),
        array(high.window_deg / 720.0),
        target_of(high.target),
        array(high.idle_target_kpa),
        array(np.nan if high.floor_kpa is None else high.floor_kpa),
        array(high.cylinder_kpa),
        array(high.idle_cylinder_kpa),
        array(high.borne_kpa),
        array(high.rail_volume_cc),
    )


@dataclass(frozen=True)
class HighPoints:
    """What is asked of the high side at points; fields broadcast. The fuel is that in the pump, rails and injectors.

    `above_vapour_kpa` is barometer less vapour pressure: what the inlet's gauge pressure adds to make the head.
    """

    direct_kg_s: Floats
    port_kg_s: Floats
    density_kg_m3: Floats
    viscosity_mpa_s: Floats
    density_15c_kg_m3: Floats
    above_vapour_kpa: Floats
    target_kpa: Floats
    floor_kpa: Floats
    cylinder_kpa: Floats
    count: Floats

    def fields(self) -> tuple[Floats, ...]:
        """In their order."""
        return tuple(getattr(self, name) for name in self.__dataclass_fields__)


def pressures_kpa(high: HighRows, rpm: Floats, idling: NDArray[np.bool_]) -> tuple[Floats, Floats, Floats]:
    """Rail-pressure target, lowest rail pressure allowed and cylinder pressure at points; idle has its own."""
    cylinder = floats(np.where(idling, high.idle_cylinder_kpa, high.cylinder_kpa))
    running = high.target.at(floats(rpm + 0.0 * high.idle_target_kpa))
    target = floats(np.where(idling, high.idle_target_kpa, running))
    rule = np.maximum(FLOOR_SHARE * running, cylinder + FLOOR_ABOVE_CYLINDER_KPA)
    floor = np.where(np.isnan(high.floor_kpa), rule, high.floor_kpa)
    return target, floats(np.minimum(floor, target)), cylinder


@dataclass(frozen=True)
class PumpAt:
    """A pump at points: swept flow, what its inlet follows a root of a kilopascal, loss a kilopascal, most it brings."""

    measured: Table | None
    swept_m3_s: Floats
    follows: Floats
    fills_from: Floats
    loss: Floats
    full_kg_s: Floats


@dataclass(frozen=True)
class HighAt:
    """The high side at points, arrays of shape (points,). `passes` is what all injectors pass in their window a √kPa.

    `like` names for each pump the first one that equals it in every number, its line included.
    """

    series: bool
    rails: tuple[tuple[int, ...], ...]
    pumps: tuple[PumpAt, ...]
    branches: tuple[Pipe, ...]
    low_density: Floats
    low_viscosity: Floats
    like: tuple[int, ...]
    rpm: Floats
    wanted_kg_s: Floats
    passes: Floats
    target_kpa: Floats
    floor_kpa: Floats
    cylinder_kpa: Floats
    above_vapour_kpa: Floats

    @classmethod
    def of(cls, high: HighRows, at: HighPoints, rpm: Floats, fluid: FluidState) -> "HighAt":
        """Systems at points: every number of both of shape (points,), or common to all."""
        density, rho15 = floats(at.density_kg_m3), floats(at.density_15c_kg_m3)
        pumps = []
        for pump in high.pumps:
            swept = floats(pump.stroke_m3 * pump.strokes * rpm / 60.0)
            loss = hp.loss_per_kpa(pump.dead_ratio, high.bulk_modulus_mpa, pump.leak_m3_s_kpa, at.viscosity_mpa_s, swept)
            full = floats(density * swept * (1.0 if pump.measured is not None else pump.valve_factor))
            follows, fills_from = hp.inlet_share(pump.area_mm2, rho15, swept, pump.plungers)
            pumps.append(PumpAt(pump.measured, swept, follows, fills_from, loss, full))
        one = inj.open_flow_kg_s(high.rated_cc_min, high.rated_kpa, 1.0, density)
        nothing = np.zeros_like(rpm)
        return cls(
            high.series,
            high.rails,
            tuple(pumps),
            high.branches,
            floats(floats(fluid.density_kg_m3) + nothing),
            floats(floats(fluid.viscosity_mpa_s) + nothing),
            _like(high),
            rpm,
            floats(at.direct_kg_s + nothing),
            floats(one * at.count * high.window + nothing),
            floats(at.target_kpa + nothing),
            floats(at.floor_kpa + nothing),
            floats(at.cylinder_kpa + nothing),
            floats(at.above_vapour_kpa + nothing),
        )

    @property
    def lowest_kpa(self) -> Floats:
        """Gauge pressure at which nothing stands above the vapour any more."""
        return floats(-self.above_vapour_kpa)

    def window_kg_s(self, rail_kpa: Floats) -> Floats:
        """What all injectors pass in their window at a rail pressure, kg/s."""
        return floats(self.passes * np.sqrt(np.maximum(rail_kpa - self.cylinder_kpa, 0.0)))

    def fill(self, number: int, inlet_kpa: Floats) -> Floats:
        """Share of a pump's stroke that fills."""
        head = np.maximum(inlet_kpa + self.above_vapour_kpa, 0.0)
        pump = self.pumps[number]
        return hp.filled(pump.follows * np.sqrt(head), pump.fills_from)

    def head_needed_kpa(self, number: int) -> Floats:
        """Head above vapour at which a pump's whole stroke fills."""
        return floats((self.pumps[number].fills_from / self.pumps[number].follows) ** 2)

    def efficiency(self, number: int, rail_kpa: Floats, inlet_kpa: Floats) -> Floats:
        """What a filled stroke brings at a rail pressure, of its displacement and of the valves' factor."""
        pump = self.pumps[number]
        if pump.measured is not None:
            return _read(pump.measured, rail_kpa, self.rpm)
        return floats(np.maximum(1.0 - pump.loss * (rail_kpa - inlet_kpa), 0.0))

    def capacity_kg_s(self, number: int, rail_kpa: Floats, inlet_kpa: Floats) -> Floats:
        """What a pump brings at a rail pressure and its inlet's pressure, kg/s."""
        full = self.pumps[number].full_kg_s * self.fill(number, inlet_kpa)
        return floats(full * self.efficiency(number, rail_kpa, inlet_kpa))

    def inlets_kpa(self, node_kpa: Floats, flows_kg_s: list[Floats]) -> list[Floats]:
        """Pressure at each pump: the node's less the lines at mean flow; in series each line carries what follows."""
        fluid, before = FluidState(self.low_density, self.low_viscosity), node_kpa
        inlets: list[Floats] = []
        for number in range(len(self.pumps)):
            first = self.like[number]
            if not self.series and first < number and flows_kg_s[number] is flows_kg_s[first]:
                inlets.append(inlets[first])
                continue
            carried = sum(flows_kg_s[number:]) if self.series else flows_kg_s[number]
            lost = self._branch_kpa(number, floats(carried / self.low_density), fluid)
            here = floats(before - lost)
            inlets.append(here)
            before = here if self.series else node_kpa
        return inlets

    def _branch_kpa(self, number: int, flow_m3_s: Floats, fluid: FluidState) -> Floats:
        if not self.branches:
            return floats(np.zeros_like(flow_m3_s))
        return pipe_kpa(self.branches[number], flow_m3_s, fluid)

    def branch_kpa(self, number: int, flow_kg_s: Floats) -> Floats:
        """What the line to a pump, or the link before it, loses at a flow."""
        fluid = FluidState(self.low_density, self.low_viscosity)
        return self._branch_kpa(number, floats(flow_kg_s / self.low_density), fluid)

    def by_displacement(self, each_rail_kg_s: list[Floats]) -> list[Floats]:
        """Flow of each pump where those of a rail share it by what they sweep."""
        flows = [floats(np.zeros_like(self.rpm)) for _ in self.pumps]
        for rail, flow in zip(self.rails, each_rail_kg_s, strict=True):
            if len(rail) == 1:
                flows[rail[0]] = flow
                continue
            if all(self.like[number] == self.like[rail[0]] for number in rail):
                flow = floats(flow / len(rail))
                for number in rail:
                    flows[number] = flow
                continue
            whole = sum(self.pumps[number].swept_m3_s for number in rail)
            for number in rail:
                flows[number] = floats(flow * self.pumps[number].swept_m3_s / whole)
        return flows


def _like(high: HighRows) -> tuple[int, ...]:
    """For each pump the first one of the same numbers on a line of the same numbers."""

    def same(one: int, other: int) -> bool:
        pairs: list[tuple[Any, Any]] = [(high.pumps[one], high.pumps[other])]
        if high.branches:
            pairs.append((high.branches[one], high.branches[other]))
        for a, b in pairs:
            for name in a.__dataclass_fields__:
                left, right = getattr(a, name), getattr(b, name)
                equal = left is right or np.array_equal(left, right) if isinstance(left, np.ndarray) else left == right
                if not equal:
                    return False
        return True

    return tuple(next(one for one in range(number + 1) if same(one, number)) for number in range(len(high.pumps)))


def _read(table: Table, pressure_kpa: Floats, rpm: Floats) -> Floats:
    """A measured efficiency, bilinear, level beyond its edges."""
    rows = floats(table[2])
    p0, p1, p = _between(floats(table[0]), pressure_kpa)
    r0, r1, r = _between(floats(table[1]), rpm)
    below = floats(rows[p0, r0] + r * (rows[p0, r1] - rows[p0, r0]))
    above = floats(rows[p1, r0] + r * (rows[p1, r1] - rows[p1, r0]))
    return floats((below + p * (above - below)) / 100.0)


def _between(axis: Floats, value: Floats) -> tuple[NDArray[np.int64], NDArray[np.int64], Floats]:
    """The points of an axis below and above values, and how far between; the ends beyond it."""
    at = floats(np.interp(value, axis, np.arange(axis.size)))
    low = np.minimum(at.astype(np.int64), max(axis.size - 2, 0))
    return low, np.minimum(low + 1, axis.size - 1), floats(at - low)
