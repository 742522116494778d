"""Characteristics of the two sides of the rail, each one monotone curve on a grid of nodes, for arrays of systems.

The supply side (suction, pumps at their real voltage, check valves, passages, filter, feed) is walked along the pumps'
pressure rise: at a node voltage, flow and losses follow directly, so rail pressure against flow has nothing to solve.
The return side (wide-open regulator, return line and passages) is a curve of pressure against bypassed flow. A node can
be worked out on its own, for any system; `seeking` decides which are.
"""

from dataclasses import dataclass

import numpy as np
from numpy.typing import NDArray

from ..model import Option
from ..physics import (
    G_M_S2,
    KPA,
    Floats,
    acceleration_head_kpa,
    beside,
    floats,
    key_of,
    power_law_root,
    wide_open_drop_kpa,
)
from .keeping import Remembered
from .pipes import FluidState, Pipe, Run, Strainer, branches_kpa, pipe_kpa, pipes_kpa, strainer_kpa
from .pump_curves import NODES, Control, Index, own_top_kpa, pump_characteristic
from .systems import Booleans, Group, Pump, Return, Systems, packed, return_of

LAST = NODES  # one more node far above the pumps' reach closes the curve
_FAR_KPA = 5000.0
VACUUM_KPA = -101.3  # gauge, of nothing at all
_GUESS_M3_S = 1e-4

# Columns of a supply node; behind them flow, volts and amps of each group.
RAIL, FLOW, RISE, INLET, FEED, PASSAGES, FILTER, SPLIT = range(8)
GROUPS = 8
COLUMNS = {
    "rise_kpa": RISE,
    "inlet_kpa": INLET,
    "feed_kpa": FEED,
    "passages_kpa": PASSAGES,
    "filter_kpa": FILTER,
    "split_kpa": SPLIT,
}
# Columns of a return node.
FLOOR, LINE, REGULATOR = range(3)


@dataclass(frozen=True)
class PumpState:
    """What drives pumps: volts, engine speed (mechanical ones), speed share (controlled ones), boost (boosters)."""

    supply_v: float
    rpm: float = 0.0
    speed: float = 1.0
    manifold_kpa: float = np.inf


@dataclass(frozen=True)
class Drive:
    """What drives pumps and fills lines, each of shape (systems,): `running` (groups, systems) says who is on."""

    running: Booleans
    supply_v: Floats
    rpm: Floats
    speed: Floats
    density_kg_m3: Floats
    viscosity_mpa_s: Floats
    accel_g: Floats
    manifold_kpa: Floats

    @property
    def fluid(self) -> FluidState:
        return FluidState(self.density_kg_m3, self.viscosity_mpa_s, self.accel_g)

    def source_v(self, group: Group) -> Floats:
        """What feeds the pumps of a group: the booster where it works and holds more than the system."""
        if not group.booster_v.any():
            return self.supply_v
        raised = np.maximum(group.booster_v, self.supply_v)
        return floats(np.where(self.manifold_kpa > group.booster_kpa, raised, self.supply_v))


_PUMPED: Remembered[Floats] = Remembered(2_000_000)


@dataclass(frozen=True)
class Driven:
    """Pump groups of one make-up in their drive, each array of shape (groups, 1, systems); `places` are their positions.

    `gain` makes one pump's flow the group's, `on` is 0 or 1.
    """

    places: tuple[int, ...]
    pump: Pump
    valve_kpa: Floats
    own_top_kpa: Floats
    volts_in: Floats
    rpm: Floats
    control: Control
    gain: Floats
    on: Floats

    def at(self, rise: Floats) -> tuple[Floats, Floats, Floats]:
        """Flow of the groups, volts and amps of one pump at rises of the grid (nodes, systems); nothing while off."""
        flow, volts, amps = pump_characteristic(
            self.pump, floats(rise + self.valve_kpa), self.own_top_kpa, self.volts_in, self.rpm, self.control
        )
        return floats(flow * self.gain), floats(volts * self.on), floats(amps * self.on)


def _driven(systems: Systems, drive: Drive) -> tuple[Driven, ...]:
    """The pump groups in their drive, those of one make-up together."""
    controlled = systems.arrangement == "returnless, speed-controlled"
    alike: dict[tuple[bool, str, int], list[int]] = {}
    for number, group in enumerate(systems.groups):
        tables = group.pump.tables
        alike.setdefault((group.pump.mechanical, tables[0].kind, len(tables)), []).append(number)
    found = []
    for places in alike.values():
        each = []
        for number in places:
            group, on = systems.groups[number], floats(drive.running[number])
            source = drive.source_v(group)
            own = own_top_kpa(group.pump, source)
            control: Control = ()
            if controlled and not group.pump.mechanical:
                control = (floats(np.where(group.full_speed, 1.0, drive.speed)), floats(group.full_speed + 0.0 * source))
            gain = floats(group.count * group.share * on)
            # What an electric pump brings is the same at any engine speed, and so is its curve.
            rpm = drive.rpm if group.pump.mechanical else floats(np.zeros_like(drive.rpm))
            each.append(Driven(tuple(places), group.pump, group.valve_kpa, own, source, rpm, control, gain, on))
        found.append(beside(each))
    return tuple(found)


@dataclass(frozen=True)
class SupplySide:
    """The supply side of systems in their drive, as numbers: every array of shape (systems,) or (…, systems).

    Without feed (`with_feed` False) it is that of the point behind pumps and filter. `joined` says that rails meet again.
    """

    with_feed: bool
    joined: bool
    boosting: tuple[bool, ...]
    top_kpa: Floats
    driven: tuple[Driven, ...]
    tank_kpa: Floats
    head_kpa: Floats
    before: tuple[Pipe, ...]
    strainer: Strainer | None
    filter: Strainer | None
    feed: Pipe
    passages: tuple[Pipe, ...]
    branches: tuple[Run, ...]
    fluid: FluidState

    @classmethod
    def of(cls, systems: Systems, drive: Drive, with_feed: bool = True) -> "SupplySide":
        """The supply side of systems in a drive."""
        driven = _driven(systems, drive)
        tops = [((one.own_top_kpa + one.valve_kpa) * one.on)[:, 0].max(axis=0) for one in driven]
        top = floats(np.maximum.reduce([np.ones_like(drive.supply_v), *tops]))
        fluid = drive.fluid
        before = () if systems.suction_line is None else (systems.suction_line,)
        if systems.lift is None and systems.pickup is not None:
            before = (*before, systems.pickup)
        return cls(
            with_feed,
            systems.joined,
            tuple(group.boosting for group in systems.groups),
            top,
            driven,
            systems.tank_kpa,
            floats(drive.density_kg_m3 * G_M_S2 * systems.head_m / KPA),
            before,
            systems.suction_filter,
            systems.filter,
            systems.feed,
            systems.passages,
            systems.branches,
            fluid,
        )

    @property
    def size(self) -> int:
        """How many systems there are."""
        return int(self.top_kpa.shape[-1])

    @property
    def step_kpa(self) -> Floats:
        """Pressure rise from node to node, kPa."""
        return floats(self.top_kpa / (NODES - 1))

    def nodes(self, index: Index) -> Floats:
        """Every column at grid nodes of shape (nodes, systems): shape (columns, nodes, systems)."""
        rise = floats(index * self.step_kpa)
        far = index >= LAST
        if far.any():
            rise = floats(np.where(far, self.top_kpa + _FAR_KPA, rise))
        return self._columns(rise, self._pumped(rise))

    def _pumped(self, rise: Floats) -> Floats:
        """Flow, volts and amps of every group at rises, shape (3 · groups, nodes, systems)."""
        if len(self.driven) == 1:
            return np.concatenate(self.driven[0].at(rise))
        count = len(self.boosting)
        pumped = np.empty((3 * count, *rise.shape))
        for one in self.driven:
            for part, values in enumerate(one.at(rise)):
                pumped[[part * count + place for place in one.places]] = values
        return pumped

    def _columns(self, rise: Floats, pumped: Floats) -> Floats:
        count = len(self.boosting)
        beside = [number for number, boosts in enumerate(self.boosting) if not boosts]
        total = pumped[:count].sum(axis=0) if len(beside) == count else pumped[beside].sum(axis=0)
        return self._losses(rise, floats(total), pumped)

    @property
    def boosted(self) -> bool:
        """Whether a stage stands behind the others."""
        return any(self.boosting)

    def rise_kpa(self, rail_kpa: Floats, flow_m3_s: Floats) -> Floats:
        """Pressure rise across the pumps that holds a rail at a flow, one of each a system."""
        nothing = floats(np.zeros((1, flow_m3_s.size)))
        return floats(rail_kpa - self._losses(nothing, flow_m3_s[None], np.zeros((0, *nothing.shape)))[RAIL, 0])

    def brought_m3_s(self, rise_kpa: Floats) -> Floats:
        """What pumps beside each other bring at a rise, one a system."""
        return floats(self._pumped(rise_kpa[None])[: len(self.boosting)].sum(axis=0)[0])

    def table(self) -> Floats:
        """Every column at every node, shape (columns, nodes, systems); stages in series share the rise at equal flow."""
        rise = np.concatenate([np.arange(NODES)[:, None] * self.step_kpa, (self.top_kpa + _FAR_KPA)[None]])
        # What the pumps do does not change with what is edited behind them.
        key = (key_of(self.driven), self.top_kpa.tobytes())
        found = self._columns(floats(rise), _PUMPED.get_or_make(key, lambda: self._pumped(floats(rise))).copy())
        count, boosting = len(self.boosting), np.array(self.boosting)
        # Flow falls with pressure for any real pump; two tables must not make it rise by rounding.
        found[FLOW] = total = np.minimum.accumulate(found[FLOW], axis=0)
        if not boosting.any():
            return found
        flows, volts, amps = (found[GROUPS + part * count : GROUPS + (part + 1) * count] for part in range(3))
        pumped = found[RISE].copy()
        on = np.zeros((count, self.size), dtype=bool)
        for one in self.driven:
            on[list(one.places)] = one.on[:, 0] > 0
        for at in range(self.size):
            if np.any(boosting & on[:, at]):
                row = tuple(part[:, :, at] for part in (flows, volts, amps))
                total[:, at], pumped[:, at] = _boost(found[RISE][:, at], total[:, at], boosting, *row)
        return self._losses(floats(pumped), floats(total), found[GROUPS:])

    def _drawn_kpa(self, total: Floats) -> Floats:
        """What the suction side loses at a flow, kPa."""
        return floats(strainer_kpa(self.strainer, total) + pipes_kpa(self.before, total, self.fluid))

    def _most_drawn_m3_s(self) -> Floats:
        """The flow at which nothing is left at the pump inlets: no pump draws a vacuum deeper than none at all."""
        left = floats(np.maximum(self.tank_kpa + self.head_kpa - VACUUM_KPA, 1e-9) + np.zeros(self.size))
        return power_law_root(self._drawn_kpa, floats(np.full(self.size, _GUESS_M3_S)), left)

    def _losses(self, rise: Floats, total: Floats, groups: Floats) -> Floats:
        """All columns from pumped rise and flow."""
        fluid = self.fluid
        inlet = floats(self.tank_kpa + self.head_kpa - self._drawn_kpa(total))
        if np.min(inlet, initial=0.0) < VACUUM_KPA:
            total = floats(np.minimum(total, self._most_drawn_m3_s()))
            # Where a line turns turbulent its loss jumps: at the limit what stands there lies between.
            inlet = floats(np.maximum(self.tank_kpa + self.head_kpa - self._drawn_kpa(total), VACUUM_KPA))
        nothing = floats(np.zeros_like(total))
        feed = passages = split = nothing
        if self.with_feed:
            head = acceleration_head_kpa(fluid.density_kg_m3, self.feed.length_m, fluid.accel_g)
            feed = floats(pipe_kpa(self.feed, total, fluid) + head)
            passages = pipes_kpa(self.passages, total, fluid)
            split = branches_kpa(self.branches, total, fluid, self.joined)
        strained = strainer_kpa(self.filter, total)
        rail = rise + inlet - feed - passages - strained - split
        return np.concatenate([np.array([rail, total, rise, inlet, feed, passages, strained, split]), groups])


def _boost(
    rise: Floats, total: Floats, series: NDArray[np.bool_], group_flow: Floats, volts: Floats, amps: Floats
) -> tuple[Floats, Floats]:
    """Series stages add pressure at equal flow: the boosting groups' rise at each node's flow on top of the others'.

    Boosting groups cannot pass more than they move against nothing, which then limits the flow. Their rows of
    `group_flow`, `volts` and `amps` are brought to their own rise in place.
    """
    booster = floats(np.minimum.accumulate(group_flow[series].sum(axis=0)))
    limited = floats(np.minimum(total, booster[0]))
    added = floats(np.interp(limited, booster[::-1], rise[::-1]))
    added[limited <= 0] = added[limited > 0][-1] if np.any(limited > 0) else 0.0
    with np.errstate(divide="ignore", invalid="ignore"):
        group_flow[~series] *= np.where(total > 0, limited / total, 0.0)
    for index in np.flatnonzero(series):
        group_flow[index], volts[index], amps[index] = (
            np.interp(added, rise, row[index]) for row in (group_flow, volts, amps)
        )
    return limited, floats(rise + added)


@dataclass(frozen=True)
class ReturnSide:
    """The return side up to a bypassed flow: nodes of equal steps from nothing to `most_m3_s`."""

    back: Return
    most_m3_s: Floats
    fluid: FluidState

    def step_m3_s(self) -> Floats:
        """Bypassed flow from node to node."""
        return floats(np.maximum(self.most_m3_s, 1e-9) / (NODES - 1))

    def nodes(self, index: Index) -> Floats:
        """Lowest rail, line and regulator drop (kPa) at grid nodes of shape (…, systems)."""
        return self.at(floats(index * self.step_m3_s()))

    def at(self, bypass: Floats) -> Floats:
        """The same at bypassed flows, m³/s."""
        line = floats(pipe_kpa(self.back.line, bypass, self.fluid) + pipes_kpa(self.back.passages, bypass, self.fluid))
        regulator = wide_open_drop_kpa(bypass, self.back.k_pa)
        return np.array([self.back.tank_kpa + line + regulator, line, regulator])


@dataclass(frozen=True)
class SupplyCurve:
    """Supply side against rail pressure: node arrays of shape (nodes,), per-group arrays (groups, nodes).

    `rail_kpa` rises from node to node; flows are m³/s in total, `group_flow_m3_s` per group; volts and amps are those of
    one pump of the group (zero when the group does not run). `inlet_kpa` is the gauge pressure at the pump inlets.
    """

    rail_kpa: Floats
    flow_m3_s: Floats
    rise_kpa: Floats
    inlet_kpa: Floats
    feed_kpa: Floats
    passages_kpa: Floats
    filter_kpa: Floats
    split_kpa: Floats
    group_flow_m3_s: Floats
    volts: Floats
    amps: Floats


@dataclass(frozen=True)
class ReturnCurve:
    """Return side against bypassed flow: the lowest rail pressure the wide-open regulator and return line allow."""

    bypass_m3_s: Floats
    floor_kpa: Floats
    line_kpa: Floats
    regulator_kpa: Floats


def one_drive(running: tuple[bool, ...], state: PumpState, fluid: FluidState) -> Drive:
    """The drive of a single system."""
    liquid = fluid.density_kg_m3, fluid.viscosity_mpa_s, fluid.accel_g
    numbers = (state.supply_v, state.rpm, state.speed, *liquid, state.manifold_kpa)
    return Drive(np.array(running, dtype=bool)[:, None], *(floats(np.atleast_1d(number)) for number in numbers))


def supply_curve(
    option: Option, running: tuple[bool, ...], state: PumpState, fluid: FluidState, with_feed: bool = True
) -> SupplyCurve:
    """The whole supply curve of an option in one state; `running` says which pump groups are on.

    Without feed (`with_feed` False) the curve is that of the point behind the pumps and filter, where a regulator near
    the tank sits.
    """
    found = SupplySide.of(packed(option), one_drive(running, state, fluid), with_feed).table()[:, :, 0]
    groups = len(option.pumps)
    parts = (found[GROUPS + part * groups : GROUPS + (part + 1) * groups] for part in range(3))
    return SupplyCurve(*found[:GROUPS], *parts)


def return_curve(option: Option, most_m3_s: float, fluid: FluidState) -> ReturnCurve:
    """The return side of an option for bypassed flows from nothing to `most_m3_s`."""
    side = ReturnSide(return_of(option), floats(np.array([most_m3_s])), fluid)
    grid = np.arange(NODES)[:, None]
    floor, line, regulator = side.nodes(grid)[:, :, 0]
    return ReturnCurve(floats(grid[:, 0] * side.step_m3_s()[0]), floor, line, regulator)


def rails_joined(option: Option) -> bool:
    """Whether the rails meet again at a regulator behind them, so that pump flow passes through them."""
    return option.regulator.arrangement == "bypass after the rail"
