"""Options as arrays of numbers: what the coupled solution works on. Systems built alike are put into one set.

Every array ends on the axis of systems; `packed` makes a set of one from an option, `rows.join` a set of many.
"""

from dataclasses import dataclass, replace
from typing import Any

import numpy as np
from numpy.typing import NDArray

from ..model import Delivery, Option, PumpGroup, PumpPart, Wiring, in_branch, remembered, restrictions
from ..physics import M3_S_PER_L_H, Bends, Floats, PumpTable, array, floats, wide_open_k
from .carburettors import needle_area_m2
from .high_side import HighRows, high_rows
from .pipes import Pipe, Run, Strainer, branch_pipes, passage_of, pickup_of, pipe_of, strainer_of
from .wiring import wiring_resistance_ohm

Booleans = NDArray[np.bool_]
NO_RELIEF_KPA = 1e9


@dataclass(frozen=True)
class Pump:
    """One pump with its tables (lowest voltage first) and its loop."""

    mechanical: bool
    tables: tuple[PumpTable, ...]
    ohm: Floats
    relief_kpa: Floats
    rated_rpm: Floats
    needed_head_kpa: Floats


@dataclass(frozen=True)
class Limits:
    """When a group runs: limits of boost, speed, flow, duty and mixture; infinite where a condition is not set.

    `all_of` says that every condition must be met, `staged` that there is one at all.
    """

    boost_kpa: Floats
    rpm: Floats
    flow_l_h: Floats
    duty_pct: Floats
    mixture: Floats
    all_of: Booleans
    staged: Booleans
    slack: Floats


@dataclass(frozen=True)
class Group:
    """Equal pumps in parallel; `share` of their flow is left by wear, `full_speed` when no controller slows them.

    From `booster_kpa` of manifold pressure a booster holds `booster_v` (0 where there is none).
    """

    pump: Pump
    count: Floats
    share: Floats
    valve_kpa: Floats
    boosting: bool
    full_speed: Booleans
    limits: Limits
    booster_v: Floats
    booster_kpa: Floats


@dataclass(frozen=True)
class Lift:
    """A lift stage as rows: its pump, how many, their share of full speed, its line and the surge tank it fills."""

    pump: Pump
    count: Floats
    share: Floats
    line: Pipe
    to_surge: Booleans
    surge_l: Floats


@dataclass(frozen=True)
class Return:
    """Regulator wide open, return line and passages, into a tank at a pressure."""

    tank_kpa: Floats
    k_pa: Floats
    line: Pipe
    passages: tuple[Pipe, ...]


@dataclass(frozen=True)
class DeliveryRows:
    """Who delivers the fuel of systems with direct and port injectors; shares 0…1, `start` and `width` of the signal."""

    mode: str
    signal: str
    direct_share: Floats
    use: Floats
    start: Floats
    width: Floats
    port_share: Floats


@dataclass(frozen=True)
class PortRegulator:
    """A regulator of the port rail's own, behind the node that the low side's regulator holds."""

    base_kpa: Floats
    ratio: Floats


BLOWN = ("above the throttle, blown through",)  # vacuum never reaches these, boost does


@dataclass(frozen=True)
class Systems:
    """Fuel systems built alike. `arrangement` and what is None or how many of a kind there are is common to all."""

    arrangement: str
    tank_kpa: Floats
    pickup: Pipe | None
    head_m: Floats
    suction_line: Pipe | None
    suction_filter: Strainer | None
    lift: Lift | None
    groups: tuple[Group, ...]
    filter: Strainer | None
    passages: tuple[Pipe, ...]
    feed: Pipe
    branches: tuple[Run, ...]
    base_kpa: Floats
    reference_ratio: Floats
    creep_pa: Floats
    droop_pa: Floats
    slowest: Floats
    back: Return
    needles_m2: Floats | None
    floats_kpa: Floats
    high: HighRows | None = None
    delivery: DeliveryRows | None = None
    port_regulator: PortRegulator | None = None
    sprays: str = "into each port"

    @property
    def joined(self) -> bool:
        """Whether the rails meet again at a regulator behind them, so that pump flow passes through them."""
        return self.arrangement == "bypass after the rail"

    @property
    def mechanical(self) -> bool:
        """Whether a pump follows the engine."""
        return any(group.pump.mechanical for group in self.groups)

    @property
    def counts(self) -> Floats:
        """Pumps a group, shape (groups, systems)."""
        return np.array([group.count for group in self.groups])


def pump_of(part: PumpPart, wiring: Wiring) -> Pump:
    """A pump on its wiring."""
    return Pump(
        part.kind == "mechanical",
        remembered(part, "tables of one", _tables_of),
        array(wiring_resistance_ohm(wiring)),
        array(NO_RELIEF_KPA if part.relief_kpa is None else part.relief_kpa),
        array(part.rated_rpm),
        array(part.needed_head_kpa),
    )


def _tables_of(part: PumpPart) -> tuple[PumpTable, ...]:
    """A pump's tables as sets of one, by voltage."""
    return tuple(_of_one(table) for table in sorted(part.tables(), key=lambda table: float(table.voltage_v)))


def _of_one(table: PumpTable) -> PumpTable:
    def bends(one: Bends) -> Bends:
        return Bends(one.start[None], one.slope[None], one.cuts[:, None], one.bends[:, None])

    numbers = (table.stall_kpa, table.free_l_h, table.fall, table.dropout_v)
    return PumpTable(
        table.kind,
        table.voltage_v[None],
        bends(table.flow_bends),
        bends(table.current_bends),
        *(number[None] for number in numbers),
    )


def limits_of(group: PumpGroup) -> Limits:
    """When a group runs. A condition that is not set is never met among any, always met among all."""
    every = group.when == "all"
    nothing = -np.inf if every else np.inf

    def above(limit: float | None) -> Floats:
        return array(nothing if limit is None else limit)

    return Limits(
        above(group.on_above_kpa),
        above(group.on_above_rpm),
        above(group.on_above_l_h),
        above(group.on_above_duty_pct),
        array(-nothing if group.on_below_lambda is None else group.on_below_lambda),
        np.array([every]),
        np.array([group.staged]),
        array(group.hysteresis_pct / 100.0),
    )


def group_of(group: PumpGroup) -> Group:
    """A pump group as fitted."""
    return Group(
        pump_of(group.part, group.wiring),
        array(group.count),
        array(1.0 - group.derate_pct / 100.0),
        array(group.valve_kpa),
        group.place != "in parallel",
        np.array([group.drive != "follows the rail"]),
        limits_of(group),
        array(group.booster_v or 0.0),
        array(-np.inf if group.booster_from_kpa is None else group.booster_from_kpa),
    )


def return_of(option: Option) -> Return:
    """The return side of an option."""
    part = option.regulator.part
    k_pa = wide_open_k(part.capacity_l_h * M3_S_PER_L_H, part.capacity_drop_kpa)
    return Return(
        array(option.tank.pressure_kpa),
        array(k_pa),
        remembered(option.return_line, "pipe", pipe_of),
        tuple(passage_of(one.element) for one in restrictions(option, "return")),
    )


def packed(option: Option) -> Systems:
    """An option as a set of one system; the same object is packed once."""
    return remembered(option, "systems", _packed)


def _packed(option: Option) -> Systems:
    regulator, suction, lift, bowl = option.regulator, option.suction, option.lift, option.carburettor
    return Systems(
        arrangement=regulator.arrangement,
        tank_kpa=array(option.tank.pressure_kpa),
        pickup=None if option.pickup is None else pickup_of(option.pickup),
        head_m=array(suction.head_m),
        suction_line=None if suction.line is None else pipe_of(suction.line),
        suction_filter=None if suction.filter is None else strainer_of(suction.filter),
        lift=None
        if lift is None
        else Lift(
            pump_of(lift.part, lift.wiring),
            array(lift.count),
            array(1.0 - lift.derate_pct / 100.0),
            pipe_of(lift.line),
            np.array([lift.return_to == "surge tank"]),
            array(lift.surge_l),
        ),
        groups=tuple(remembered(group, "group", group_of) for group in option.pumps),
        filter=None if option.filter is None else remembered(option.filter, "strainer", strainer_of),
        passages=tuple(passage_of(one.element) for one in restrictions(option, "feed")),
        feed=remembered(option.feed, "pipe", pipe_of),
        branches=() if option.split is None else branch_pipes(option.split, in_branch(option)),
        base_kpa=array(regulator.base_kpa),
        reference_ratio=array(regulator.reference_ratio),
        creep_pa=array(regulator.part.creep_kpa / (100.0 * M3_S_PER_L_H)),
        droop_pa=array(regulator.part.droop_kpa / (100.0 * M3_S_PER_L_H)),
        slowest=array(regulator.slowest_pct / 100.0),
        back=return_of(option),
        needles_m2=None if bowl is None else array(needle_area_m2(bowl)),
        floats_kpa=array(0.0 if bowl is None else bowl.lowest_kpa),
        sprays="into each port" if option.injectors is None else option.injectors.sprays,
        **_direct_side(option),
    )


def _direct_side(option: Option) -> dict[str, Any]:
    """The high side, who delivers, and the port rail's own regulator; nothing where there is none of it."""
    told = option.delivery or Delivery(mode=option.mode)
    own: dict[str, Any] = {}
    if option.injectors is not None and told.port_base_kpa is not None and option.mode != "direct only":
        own = {
            "port_regulator": PortRegulator(array(told.port_base_kpa), array(float(told.port_reference == "manifold")))
        }
    if option.high_side is None or option.mode == "port only":
        return own
    delivery = DeliveryRows(
        told.mode,
        told.signal,
        array(told.direct_share_pct / 100.0),
        array(told.ceiling_use_pct / 100.0),
        array(told.start),
        array(told.width),
        array(told.port_share_pct / 100.0),
    )
    return {"high": remembered(option.high_side, "rows", high_rows), "delivery": delivery, **own}


def outlet_kpa(systems: Systems, manifold_kpa: Floats) -> Floats:
    """Pressure that port injectors spray into: the manifold's; the air's above a throttle, or the charge's there."""
    if systems.sprays == "above the throttle":
        return floats(np.zeros_like(manifold_kpa))
    return floats(np.maximum(manifold_kpa, 0.0)) if systems.sprays in BLOWN else manifold_kpa


def reference_kpa(systems: Systems, manifold_kpa: Floats) -> Floats:
    """Pressure a reference line brings: the manifold's; that of the charge where injectors are blown through."""
    return outlet_kpa(systems, manifold_kpa) if systems.sprays in BLOWN else manifold_kpa


def port_set_kpa(systems: Systems, set_kpa: Floats, manifold_kpa: Floats) -> Floats:
    """Pressure the port rail is meant to have: the set pressure, or less where a regulator of its own takes it down."""
    own = systems.port_regulator
    if own is None:
        return set_kpa
    return floats(np.minimum(set_kpa, own.base_kpa + own.ratio * manifold_kpa))


def port_most_kpa(systems: Systems, manifold_kpa: Floats) -> Floats:
    """What a regulator of its own lets stand across the port injectors at most, kPa; infinite without one."""
    own = systems.port_regulator
    if own is None:
        return floats(np.full_like(manifold_kpa, np.inf))
    return floats(own.base_kpa + own.ratio * manifold_kpa - manifold_kpa)


def without_groups(systems: Systems, silent: frozenset[int]) -> Systems:
    """The systems with groups (by position) that never come: their limits are out of reach."""

    def never(group: Group) -> Group:
        shut = np.full_like(group.limits.boost_kpa, np.inf)
        some = np.ones_like(group.limits.staged)
        return replace(group, limits=Limits(shut, shut, shut, shut, -shut, group.limits.all_of, some, group.limits.slack))

    groups = tuple(never(group) if index in silent else group for index, group in enumerate(systems.groups))
    return replace(systems, groups=groups)
