"""Characteristics of the two sides of the rail, each reduced to one monotone curve.

For one electrical and fluid state the whole supply side (suction, pumps at their real voltage, check valves, passages,
filter, feed) is a curve of flow against rail pressure, because it can be walked along the pumps' pressure rise without
solving anything. The whole return side (wide-open regulator, return line and passages) is a curve of pressure against
bypassed flow. Operating points are then intersections of these curves, found for whole arrays at once (`hydraulics`).
"""

from dataclasses import dataclass, replace
from functools import lru_cache

import numpy as np
from numpy.typing import NDArray

from ..model import Option, PumpPart, Wiring
from ..physics import (
    M3_S_PER_L_H,
    Floats,
    acceleration_head_kpa,
    current_a,
    floats,
    flow_l_h,
    relief_share,
    shutoff_kpa,
    terminal_voltage_v,
    wide_open_drop_kpa,
    wide_open_k,
)
from .losses import (
    FluidState,
    filter_loss_kpa,
    inlet_pressure_kpa,
    line_loss_kpa,
    passages_loss_kpa,
    pickup_loss_kpa,
    split_loss_kpa,
)
from .wiring import wiring_resistance_ohm

NODES = 400
_FAR_KPA = 5000.0


@dataclass(frozen=True)
class PumpState:
    """What drives the pumps: system voltage, engine speed (mechanical pumps), speed share of controlled pumps."""

    supply_v: float
    rpm: float = 0.0
    speed: float = 1.0


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


def _pump_top_kpa(part: PumpPart, state: PumpState) -> float:
    """Largest pressure rise worth walking to."""
    if part.kind == "mechanical":
        return max(float(table.stall_kpa) for table in part.tables())
    return float(shutoff_kpa(part.tables(), state.supply_v))


@lru_cache(maxsize=4096)
def _own_characteristic(part: PumpPart, wiring: Wiring, state: PumpState) -> tuple[Floats, Floats, Floats, Floats]:
    """One pump over its own range of pressure rises: rise, flow (m³/s), volts, amps."""
    tables = part.tables()
    rise = floats(np.linspace(0.0, max(_pump_top_kpa(part, state), 1.0), NODES))
    if part.kind == "mechanical":
        # A displacement pump: flow follows the engine, pressure is set by its spring or relief.
        flow = np.max([table.flow(rise) for table in tables], axis=0) * state.rpm / part.rated_rpm
        volts = amps = floats(np.zeros_like(rise))
    else:
        volts = terminal_voltage_v(tables, rise, state.supply_v * state.speed, wiring_resistance_ohm(wiring))
        flow, amps = flow_l_h(tables, rise, volts), current_a(tables, rise, volts)
    return rise, floats(flow * relief_share(rise, part.relief_kpa) * M3_S_PER_L_H), volts, amps


def pump_characteristic(
    part: PumpPart, wiring: Wiring, rise_kpa: Floats, state: PumpState
) -> tuple[Floats, Floats, Floats]:
    """Flow (m³/s), terminal volts and amps of one pump at pressure rises, at its real voltage or engine speed.

    Read off the pump's own curve, which is worked out once for a voltage: comparing systems changes few pumps at a time.
    """
    rise, *columns = _own_characteristic(part, wiring, state)
    flow, volts, amps = (floats(np.interp(rise_kpa, rise, column)) for column in columns)
    return flow, volts, amps


@lru_cache(maxsize=1024)
def supply_curve(
    option: Option, running: tuple[bool, ...], state: PumpState, fluid: FluidState, with_feed: bool = True
) -> SupplyCurve:
    """The supply side for one state; `running` says which pump groups are on.

    Without feed (`with_feed` False) the curve is that of the point behind the pumps and filter, where a regulator near
    the tank sits.
    """
    pumps = option.pumps
    active = [group for group, on in zip(pumps, running, strict=True) if on]
    top = max([1.0, *(_pump_top_kpa(group.part, state) + group.check_valve_kpa for group in active)])
    rise = np.append(np.linspace(0.0, top, NODES), top + _FAR_KPA)
    group_flow = np.zeros((len(pumps), rise.size))
    volts, amps = np.zeros_like(group_flow), np.zeros_like(group_flow)
    for index, (group, on) in enumerate(zip(pumps, running, strict=True)):
        if on:
            driven = state if group.drive == "follows the rail" else replace(state, speed=1.0)
            each = pump_characteristic(group.part, group.wiring, floats(rise + group.check_valve_kpa), driven)
            group_flow[index] = each[0] * group.count * (1.0 - group.derate_pct / 100.0)
            volts[index], amps[index] = each[1], each[2]
    series = np.array([group.place != "in parallel" for group in pumps])
    # Flow falls with pressure for any real pump; a table at another voltage must not make it rise by rounding.
    total = floats(np.minimum.accumulate(group_flow[~series].sum(axis=0)))
    pumped = rise
    if np.any(series & np.array(running)):
        total, pumped = _boost(rise, total, series, group_flow, volts, amps)
    feed_kpa = passages_kpa = split_kpa = floats(np.zeros_like(total))
    if with_feed:
        head = acceleration_head_kpa(fluid.density_kg_m3, option.feed.length_m, fluid.accel_g)
        feed_kpa = floats(line_loss_kpa(option.feed, total, fluid.density_kg_m3, fluid.viscosity_mpa_s) + head)
        passages_kpa = passages_loss_kpa(option.feed_passages, total, fluid)
        split_kpa = split_loss_kpa(option.split, total, fluid, rails_joined(option))
    filter_kpa = filter_loss_kpa(option.filter, total)
    inlet = inlet_pressure_kpa(option.suction, source_kpa(option), total, fluid)
    if option.lift is None:
        inlet = floats(inlet - pickup_loss_kpa(option.pickup, total, fluid))
    rail = pumped + inlet - feed_kpa - passages_kpa - filter_kpa - split_kpa
    losses = (feed_kpa, passages_kpa, filter_kpa, split_kpa)
    return SupplyCurve(rail, total, pumped, inlet, *losses, group_flow, volts, amps)


def rails_joined(option: Option) -> bool:
    """Whether the rails meet again at a regulator behind them, so that pump flow passes through them."""
    return option.regulator.arrangement == "bypass after the rail"


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


def source_kpa(option: Option) -> float:
    """Gauge pressure above the fuel the main pumps draw from; a surge tank overflows to the main tank."""
    return option.tank.pressure_kpa


@lru_cache(maxsize=1024)
def return_curve(option: Option, most_m3_s: float, fluid: FluidState) -> ReturnCurve:
    """The return side for bypassed flows from nothing to `most_m3_s`."""
    bypass = floats(np.linspace(0.0, max(most_m3_s, 1e-9), NODES))
    line_kpa = floats(
        line_loss_kpa(option.return_line, bypass, fluid.density_kg_m3, fluid.viscosity_mpa_s)
        + passages_loss_kpa(option.return_passages, bypass, fluid)
    )
    part = option.regulator.part
    k_pa = wide_open_k(part.capacity_l_h * M3_S_PER_L_H, part.capacity_drop_kpa)
    regulator_kpa = wide_open_drop_kpa(bypass, k_pa)
    return ReturnCurve(bypass, floats(source_kpa(option) + line_kpa + regulator_kpa), line_kpa, regulator_kpa)
