"""Coupled solution of pumps, wiring, lines, regulator, return and injector demand at operating points.

Physics §6, for arrays of systems built alike and arrays of points. Each point is one of four cases: regulating, overrun
(the rail stands above the set pressure), starved (the rail sinks until the injectors pass what the pumps bring), or
without differential pressure. Each regulator arrangement has its own intersection in `arrangements`.
"""

from dataclasses import dataclass
from typing import Any

import numpy as np
from numpy.typing import NDArray

from ..model import Option
from ..physics import M3_S_PER_L_H, Floats, Number, floats, level, set_pressure_kpa, take
from .arrangements import carburettor, near_tank, on_rail, returnless
from .case import Case, Solved, State
from .curves import COLUMNS, GROUPS, Drive
from .high_side import HighAt, HighPoints
from .keeping import FEW
from .pipes import FluidState
from .pump_curves import Index
from .systems import Limits, Systems, outlet_kpa, packed, port_set_kpa, reference_kpa, without_groups

__all__ = ["Hydraulics", "Points", "State", "running_groups", "solve", "solve_systems"]

BLOCK = 16_384  # points of one curve solved together: small enough for the processor's cache
ROWS = 4_096  # points with a curve each solved together
STATES = 64  # states of one system tabulated together
PLAIN = 9  # columns of points without a high side
PORT = PLAIN + 1  # what port injectors are asked for beside direct ones, kg/s
MANY = 24  # points a curve that make a table of it worth while
ARRANGEMENTS = {
    "bypass after the rail": on_rail,
    "bypass near the tank": near_tank,
    "returnless, speed-controlled": returnless,
    "carburettor, deadhead": carburettor,
    "carburettor, bypass": carburettor,
}


@dataclass(frozen=True)
class Points:
    """Operating points; fields broadcast against each other. `demand_kg_s` is the fuel wanted by the engine.

    `open_limit_kg_s` is what the injectors pass held open at the set differential pressure (infinite when unknown).
    `rpm` drives mechanical pumps and engine-speed stages.
    """

    manifold_kpa: Number
    demand_kg_s: Number
    supply_v: Number
    density_kg_m3: Number
    viscosity_mpa_s: Number
    open_limit_kg_s: Number = np.inf
    rpm: Number = 0.0
    accel_g: Number = 0.0
    mixture: Number = 1.0
    high: HighPoints | None = None

    def broadcast(self) -> list[Floats]:
        """Every field as an array of the points' common length."""
        fields = (
            self.manifold_kpa,
            self.demand_kg_s,
            self.supply_v,
            self.density_kg_m3,
            self.viscosity_mpa_s,
            self.open_limit_kg_s,
            self.rpm,
            self.accel_g,
            self.mixture,
            *(() if self.high is None else self.high.fields()),
        )
        arrays = np.broadcast_arrays(*(floats(field) for field in fields))
        return [floats(np.atleast_1d(array)) for array in arrays]


@dataclass(frozen=True)
class Hydraulics:
    """Solved operating points: arrays of shape (points,), per-group arrays (groups, points).

    `supply_m3_s` is what the pumps bring, `delivered_m3_s` what the engine gets, `bypass_m3_s` the rest.
    `lambda_factor` is demand over delivery: 1 when satisfied, above 1 lean, infinite when nothing is delivered.
    `meant_kpa` is the differential pressure that pulses are meant for while the pumps suffice: that of the set pressure,
    less what a feed behind a regulator near the tank drops. `inlet_kpa` is the gauge pressure at the pump inlets,
    `speed` the share of full speed of controlled pumps. `asked_kpa` is the rail pressure at which the pumps would bring
    all that is wanted, where a high side is fed; elsewhere the rail's own.
    """

    state: NDArray[np.int64]
    set_kpa: Floats
    rail_kpa: Floats
    differential_kpa: Floats
    meant_kpa: Floats
    supply_m3_s: Floats
    delivered_m3_s: Floats
    bypass_m3_s: Floats
    lambda_factor: Floats
    pump_rise_kpa: Floats
    inlet_kpa: Floats
    feed_kpa: Floats
    passages_kpa: Floats
    filter_kpa: Floats
    split_kpa: Floats
    return_kpa: Floats
    floor_kpa: Floats
    supply_at_set_m3_s: Floats
    asked_kpa: Floats
    group_flow_m3_s: Floats
    volts: Floats
    amps: Floats
    speed: Floats
    running: NDArray[np.bool_]

    def reshaped(self, shape: tuple[int, ...]) -> "Hydraulics":
        """The same points in another shape, groups still first."""
        values = {name: getattr(self, name) for name in self.__dataclass_fields__}
        return Hydraulics(**{name: value.reshape(*value.shape[:-1], *shape) for name, value in values.items()})

    def at(self, index: Any) -> "Hydraulics":
        """Only some of the last axes: a system, or a pair of point and system."""
        values = {name: getattr(self, name) for name in self.__dataclass_fields__}
        places = index if isinstance(index, tuple) else (index,)
        return Hydraulics(**{name: value[(..., *places)] for name, value in values.items()})


def through_feed_m3_s(option: Option, hydraulics: Hydraulics) -> Floats:
    """What passes the feed, m³/s: all the pumps bring; behind a regulator near the tank only what the engine takes."""
    near = option.regulator.arrangement == "bypass near the tank"
    return hydraulics.delivered_m3_s if near else hydraulics.supply_m3_s


@dataclass(frozen=True)
class Signals:
    """What stages are switched on, all of one shape; `duty_pct` is without dead time."""

    manifold_kpa: Floats
    rpm: Floats
    flow_l_h: Floats
    duty_pct: Floats
    mixture: Floats


def limits_met(limits: Limits, at: Signals, leaving: bool = False) -> NDArray[np.bool_]:
    """Whether a group runs at each point, by its own conditions; without conditions always.

    Coming up it joins at its limits; `leaving`, on the way down, it holds on until its hysteresis below them.
    """
    if not limits.staged.any():
        return np.ones(at.rpm.shape, dtype=bool)
    slack = limits.slack if leaving else floats(np.zeros_like(limits.slack))

    def above(value: Floats, limit: Floats) -> NDArray[np.bool_]:
        with np.errstate(invalid="ignore"):
            eased = np.where(np.isfinite(limit), limit - slack * np.abs(limit), limit)
        return np.asarray(value > eased)

    met = [
        above(at.manifold_kpa, limits.boost_kpa),
        above(at.rpm, limits.rpm),
        above(at.flow_l_h, limits.flow_l_h),
        above(at.duty_pct, limits.duty_pct),
        at.mixture < limits.mixture * (1.0 + slack),
    ]
    joined = np.where(limits.all_of, np.logical_and.reduce(met), np.logical_or.reduce(met))
    return np.asarray(joined | ~limits.staged)


def signals_at(points: Points) -> Signals:
    """What the controller switches stages on, at each point."""
    manifold, demand, _, density, _, limit, rpm, _, mixture = points.broadcast()[:PLAIN]
    opened = floats(np.where(limit > 0, demand / np.maximum(limit, 1e-12), 1.0) * 100.0)
    return Signals(manifold, rpm, floats(demand / density / M3_S_PER_L_H), opened, mixture)


def running_groups(systems: Systems, at: Signals, leaving: bool = False) -> NDArray[np.bool_]:
    """Which pump groups run at each point, shape (groups, …), coming up or (`leaving`) on the way down."""
    return np.array([limits_met(group.limits, at, leaving) for group in systems.groups])


def solve(option: Option, points: Points, without: frozenset[str] = frozenset()) -> Hydraulics:
    """Solve one option at operating points (physics §6), every array of shape (points,).

    Pump groups named in `without` do not come, whatever their conditions say.
    """
    systems = packed(option)
    if without:
        silent = frozenset(index for index, group in enumerate(option.pumps) if group.id in without)
        systems = without_groups(systems, silent)
    return solve_systems(systems, points)


def solve_systems(
    systems: Systems,
    points: Points,
    silent: NDArray[np.bool_] | None = None,
    held: NDArray[np.bool_] | None = None,
) -> Hydraulics:
    """Solve systems at operating points (physics §6).

    One system: points of shape (points,), results alike. Several: fields of `points` broadcast to (points, systems),
    results have that shape, group arrays (groups, points, systems). Groups `silent` or `held` on at a point, each
    (groups, …), are so whatever their conditions say.
    """
    shaped = points.broadcast()
    shape = shaped[0].shape
    count = shape[-1] if len(shape) > 1 else 1
    columns = shaped if len(shape) == 1 else [column.ravel() for column in shaped]
    size = columns[0].size
    if any(group.limits.staged.any() for group in systems.groups):
        running = running_groups(systems, signals_at(points)).reshape(len(systems.groups), -1)
    else:
        running = np.ones((len(systems.groups), size), dtype=bool)
    if silent is not None:
        running = running & ~silent.reshape(len(systems.groups), -1)
    if held is not None:
        running = running | held.reshape(len(systems.groups), -1)
    if count > 1:
        of = np.broadcast_to(np.arange(count), shape).ravel()
        found = _solve_each(take(systems, of), columns, running)
    else:
        found = _solve_one(systems, columns, running, size)
    return found if len(shape) == 1 else found.reshaped(shape)


def _solve_one(systems: Systems, columns: list[Floats], running: NDArray[np.bool_], size: int) -> Hydraulics:
    """Points of one system: tabulated once a state where many points share it."""
    if size <= FEW:
        return _solve_each(systems, columns, running)
    staged = any(group.limits.staged.any() for group in systems.groups)
    bits = _bits(running) if staged else np.zeros(size, dtype=np.int64)
    manifold, _, volts, density, viscosity, _, rpm, accel, _ = columns[:PLAIN]
    if any(group.booster_v.any() for group in systems.groups):
        raised = np.array([manifold > group.booster_kpa for group in systems.groups])
        bits = bits + (_bits(raised) << len(systems.groups))
    driven = rpm if systems.mechanical else floats(np.zeros_like(rpm))
    member, first = _members(bits, [volts, density, viscosity, driven, accel])
    if first.size * MANY > size:
        return _solve_each(systems, columns, running)
    found = _Gathered(size)
    for states in range(0, first.size, STATES):
        chosen = first[states : states + STATES]
        drive = _drive(columns, running, chosen)
        everyone = first.size <= STATES
        where = None if everyone else np.flatnonzero((member >= states) & (member < states + STATES))
        for start in range(0, size if where is None else where.size, BLOCK):
            block: Any = slice(start, start + BLOCK) if where is None else where[start : start + BLOCK]
            points = [column[block] for column in columns]
            found.add(block, _intersect(systems, drive, member[block] - states, systems, points))
    return _hydraulics(systems, columns, running, found.whole())


def _solve_each(systems: Systems, columns: list[Floats], running: NDArray[np.bool_]) -> Hydraulics:
    """Points that have a curve each."""
    size = columns[0].size
    # Few points' curves are tabulated side by side, as most are kept; many are walked node by node.
    # Stages behind each other share a rise at equal flow: that takes whole curves, node by node it cannot be seen.
    tabled = size <= FEW or any(group.boosting for group in systems.groups)
    found = _Gathered(size)
    for start in range(0, size, STATES if tabled else ROWS):
        block = slice(start, start + (STATES if tabled else ROWS))
        whole = block.stop >= size and start == 0
        here = systems if whole else take(systems, block)
        chosen = columns if whole else [column[block] for column in columns]
        row = np.arange(chosen[0].size) if tabled else None
        found.add(block, _intersect(here, _drive(columns, running, block), row, here, chosen))
    return _hydraulics(systems, columns, running, found.whole())


def _drive(columns: list[Floats], running: NDArray[np.bool_], at: Any) -> Drive:
    manifold, _, volts, density, viscosity, _, rpm, accel, _ = (column[at] for column in columns[:PLAIN])
    return Drive(running[:, at], volts, rpm, floats(np.ones_like(volts)), density, viscosity, accel, manifold)


def _bits(running: NDArray[np.bool_]) -> Index:
    """Which groups run at each point, as one number."""
    return np.asarray((running * (1 << np.arange(running.shape[0]))[:, None]).sum(axis=0))


def _members(bits: Index, others: list[Floats]) -> tuple[Index, Index]:
    """The number of each point's state, and a first point of every state."""
    varying = [row for row in others if not (row.strides == (0,) or np.all(row == row[0]))]
    if not varying and bits.min() == bits.max():
        return np.zeros_like(bits), np.zeros(1, dtype=np.int64)
    if not varying:
        # Mostly only the pumps that run differ: no sorting needed.
        least, seen = int(bits.min()), np.bincount(bits - bits.min())
        number = np.cumsum(seen > 0) - 1
        first = np.array([np.argmax(bits == state + least) for state in np.flatnonzero(seen)])
        return number[bits - least], first
    states = np.stack([floats(bits), *varying])
    _, first, member = np.unique(states, axis=1, return_index=True, return_inverse=True)
    return member.reshape(-1), first


class _Gathered:
    """Parts of the points put in their own order as they are solved, while the processor still has them at hand."""

    def __init__(self, size: int):
        self._size = size
        self._only: Solved | None = None
        self._arrays: dict[int, Floats] = {}
        self._levels: dict[int, float] = {}
        self._count = 0

    def add(self, where: Any, part: Solved) -> None:
        """Take in some points' solution."""
        if part.rail_kpa.size == self._size and isinstance(where, slice):
            self._only = part
            return
        for number, piece in enumerate(part.arrays()):
            self._put(number, where, piece)
        self._count += 1

    def _put(self, number: int, where: Any, piece: Floats) -> None:
        # What is the same everywhere takes no memory, until a part differs.
        if number not in self._arrays and piece.strides == (0,) and piece.size:
            value = float(piece[0])
            if self._count == 0 or self._levels.get(number) == value:
                self._levels[number] = value
                return
        if number not in self._arrays:
            self._arrays[number] = np.empty(self._size, dtype=piece.dtype)
            if number in self._levels:
                self._arrays[number][:] = self._levels.pop(number)
        self._arrays[number][where] = piece

    def whole(self) -> Solved:
        """All points' solution."""
        if self._only is not None:
            return self._only
        order = sorted({**self._arrays, **self._levels})
        return Solved.of([self._arrays[n] if n in self._arrays else level(self._levels[n], self._size) for n in order])


def _balanced(systems: Systems, group_flow: Floats, supply: Floats) -> Floats:
    """Group flows read off the curves, brought to add up to the supply: beside each other, and boosters in turn."""
    series = np.array([group.boosting for group in systems.groups])
    for members in (~series, series):
        if members.any():
            total = group_flow[members].sum(axis=0)
            with np.errstate(divide="ignore", invalid="ignore"):
                scale = supply / total
            scale[~(total > 0)] = 0.0
            group_flow[members] *= scale
    return group_flow


def _set_and_wanted(at: Systems, columns: list[Floats]) -> tuple[Floats, Floats]:
    """Set pressure, kPa, and fuel wanted, m³/s."""
    reference = reference_kpa(at, columns[0])
    return set_pressure_kpa(at.base_kpa, at.reference_ratio, reference), floats(columns[1] / columns[3])


def _high(at: Systems, columns: list[Floats]) -> HighAt | None:
    """The high side of systems at points."""
    if at.high is None:
        return None
    return HighAt.of(at.high, HighPoints(*columns[PLAIN:]), columns[6], FluidState(columns[3], columns[4]))


def _asked(at: Systems, columns: list[Floats]) -> tuple[Floats, Floats, Floats, Floats, Floats]:
    """Set pressure, differential meant by it, fuel wanted, fuel asked of what is on it and fuel taken at it, m³/s."""
    manifold, _, _, density, _, open_limit_kg_s, _, _, _ = columns[:PLAIN]
    outlet = outlet_kpa(at, manifold)
    set_kpa, wanted = _set_and_wanted(at, columns)
    meant_dp = floats(port_set_kpa(at, set_kpa, outlet) - outlet)
    # Injectors at full opening cannot be asked for more, whatever the pulse.
    metered = wanted if at.high is None else floats(columns[PORT] / density)
    taken = np.minimum(metered, open_limit_kg_s / density)
    taken[~(meant_dp > 0)] = 0.0
    return set_kpa, meant_dp, wanted, metered, floats(taken)


def _intersect(systems: Systems, drive: Drive, row: Index | None, at: Systems, columns: list[Floats]) -> Solved:
    """Where supply, regulator and engine meet."""
    outlet, (_, _, density, viscosity, _, _, accel, _) = outlet_kpa(at, columns[0]), columns[1:PLAIN]
    set_kpa, meant_dp, wanted, metered, taken = _asked(at, columns)
    fluid, opened = FluidState(density, viscosity, accel), floats(columns[5] / density)
    points = (outlet, set_kpa, meant_dp, taken, wanted, opened, metered)
    case = Case(systems, drive, row, at, fluid, *points, _high(at, columns))
    return ARRANGEMENTS[systems.arrangement](case)


def _hydraulics(systems: Systems, columns: list[Floats], running: NDArray[np.bool_], found: Solved) -> Hydraulics:
    """Everything about the points from where they meet."""
    outlet, groups = outlet_kpa(systems, columns[0]), len(systems.groups)

    def by_group(part: int) -> Floats:
        return np.array(found.columns[GROUPS + part * groups : GROUPS + (part + 1) * groups])

    set_kpa, wanted = _set_and_wanted(systems, columns)
    rail, delivered = found.rail_kpa, found.delivered_m3_s
    with np.errstate(divide="ignore", invalid="ignore"):
        lean = wanted / delivered
    lean[~(delivered > 0)] = np.inf
    lean[~(wanted > 0)] = 1.0
    supplied = {name: found.columns[number] for name, number in COLUMNS.items()}
    # Without differential pressure at the engine nothing is injected: the rail's counts, wherever it was set to. Pumps
    # that are short of a set pressure that has one are starved.
    nothing_left = ~(rail > outlet) & ((found.state != int(State.STARVED)) | ~(set_kpa > outlet))
    if systems.high is not None:
        nothing_left &= columns[PORT] > 0
    return Hydraulics(
        state=np.where(nothing_left, int(State.NO_DIFFERENTIAL), found.state).astype(np.int64),
        set_kpa=set_kpa,
        rail_kpa=rail,
        differential_kpa=floats(port_set_kpa(systems, rail, outlet) - outlet),
        meant_kpa=found.meant_kpa,
        supply_m3_s=found.supply_m3_s,
        delivered_m3_s=delivered,
        bypass_m3_s=found.bypass_m3_s,
        lambda_factor=floats(lean),
        pump_rise_kpa=supplied.pop("rise_kpa"),
        return_kpa=found.return_kpa,
        floor_kpa=found.floor_kpa,
        supply_at_set_m3_s=found.supply_at_set_m3_s,
        asked_kpa=found.asked_kpa,
        group_flow_m3_s=_balanced(systems, by_group(0), found.supply_m3_s),
        volts=by_group(1),
        amps=by_group(2),
        speed=found.speed,
        running=running,
        **supplied,
    )
