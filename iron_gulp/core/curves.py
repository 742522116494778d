"""Characteristics of the two sides of the rail, each reduced to one monotone curve.

For one electrical and fluid state the whole supply side (pumps at their real voltage, filter, feed) is a curve of flow
against rail pressure, because it can be walked along the pumps' pressure rise without solving anything. The whole
return side (wide-open regulator, return line) is a curve of pressure against bypassed flow. Operating points are then
intersections of these curves, found for whole arrays at once (see `hydraulics`).
"""

from dataclasses import dataclass
from functools import lru_cache

import numpy as np

from .arrays import M3_S_PER_L_H, Floats, floats
from .electrical import loop_resistance_ohm
from .lines import filter_drop_kpa, line_drop_kpa
from .pumps import flow_and_current, shutoff_kpa, terminal_voltage_v
from .regulators import wide_open_drop_kpa, wide_open_k
from .system import Filter, Line, PumpGroup, Regulator, Tank

NODES = 400
_FAR_KPA = 5000.0


@dataclass(frozen=True)
class SupplyCurve:
    """Supply side against rail pressure: node arrays of shape (nodes,), per-group arrays (groups, nodes).

    `rail_kpa` rises from node to node; flows are m³/s in total, `group_flow_m3_s` per group; volts and amps are those of
    one pump of the group (zero when the group does not run).
    """

    rail_kpa: Floats
    flow_m3_s: Floats
    rise_kpa: Floats
    feed_kpa: Floats
    filter_kpa: Floats
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


def line_loss_kpa(line: Line, flow_m3_s: Floats, density_kg_m3: float, viscosity_mpa_s: float) -> Floats:
    """Drop of a line of the model, kPa, at flows in m³/s."""
    part = line.part
    return line_drop_kpa(
        flow_m3_s, part.bore_mm, line.length_m, line.k_sum, density_kg_m3, viscosity_mpa_s, part.roughness_um
    )


def filter_loss_kpa(fitted: Filter | None, flow_m3_s: Floats) -> Floats:
    """Drop of the filter, kPa; zero when none is fitted."""
    if fitted is None:
        return floats(np.zeros_like(flow_m3_s))
    part = fitted.part
    rated = part.rated_flow_l_h * M3_S_PER_L_H
    return filter_drop_kpa(flow_m3_s, rated, part.rated_drop_kpa, part.linear_share_pct / 100.0, fitted.clogging)


def group_resistance_ohm(group: PumpGroup) -> float:
    """Loop resistance of one pump of a group, Ω."""
    wiring = group.wiring
    return float(loop_resistance_ohm(wiring.loop_m, wiring.area_mm2, wiring.connectors_mohm, wiring.copper_temp_c))


class Lookup:
    """Where values lie on a rising axis: searched once, then read off any number of columns by linear interpolation.

    Beyond the ends the end values hold, as with `numpy.interp`.
    """

    def __init__(self, axis: Floats, at: Floats):
        self._below = np.clip(np.searchsorted(axis, at, side="right") - 1, 0, axis.size - 2)
        low = axis[self._below]
        width = axis[self._below + 1] - low
        with np.errstate(divide="ignore", invalid="ignore"):
            self._share = np.clip(np.where(width > 0, (at - low) / width, 0.0), 0.0, 1.0)

    def read(self, column: Floats) -> Floats:
        """The column's values there."""
        low = column[self._below]
        return floats(low + self._share * (column[self._below + 1] - low))


@lru_cache(maxsize=512)
def supply_curve(
    pumps: tuple[PumpGroup, ...],
    running: tuple[bool, ...],
    tank: Tank,
    fitted_filter: Filter | None,
    feed: Line,
    supply_v: float,
    density_kg_m3: float,
    viscosity_mpa_s: float,
) -> SupplyCurve:
    """The supply side for one state; `running` says which pump groups are on."""
    active = [group for group, on in zip(pumps, running, strict=True) if on]
    top = max(shutoff_kpa(group.part.tables(), supply_v) for group in active) if active else 1.0
    rise = np.append(np.linspace(0.0, max(top, 1.0), NODES), top + _FAR_KPA)
    group_flow = np.zeros((len(pumps), rise.size))
    volts, amps = np.zeros_like(group_flow), np.zeros_like(group_flow)
    for index, (group, on) in enumerate(zip(pumps, running, strict=True)):
        if not on:
            continue
        tables = group.part.tables()
        volts[index] = terminal_voltage_v(tables, rise, supply_v, group_resistance_ohm(group))
        flow_l_h, amps[index] = flow_and_current(tables, rise, volts[index])
        group_flow[index] = flow_l_h * M3_S_PER_L_H * group.count * (1.0 - group.derate_pct / 100.0)
    # Flow falls with pressure for any real pump; a table at another voltage must not make it rise by rounding.
    total = np.minimum.accumulate(group_flow.sum(axis=0))
    feed_kpa = line_loss_kpa(feed, total, density_kg_m3, viscosity_mpa_s)
    filter_kpa = filter_loss_kpa(fitted_filter, total)
    rail = rise + tank.pressure_kpa - feed_kpa - filter_kpa
    return SupplyCurve(rail, total, rise, feed_kpa, filter_kpa, group_flow, volts, amps)


@lru_cache(maxsize=512)
def return_curve(
    regulator: Regulator,
    return_line: Line,
    tank: Tank,
    most_m3_s: float,
    density_kg_m3: float,
    viscosity_mpa_s: float,
) -> ReturnCurve:
    """The return side for bypassed flows from nothing to `most_m3_s`."""
    bypass = floats(np.linspace(0.0, max(most_m3_s, 1e-9), NODES))
    line_kpa = line_loss_kpa(return_line, bypass, density_kg_m3, viscosity_mpa_s)
    part = regulator.part
    k_pa = wide_open_k(part.capacity_l_h * M3_S_PER_L_H, part.capacity_drop_kpa)
    regulator_kpa = wide_open_drop_kpa(bypass, k_pa)
    return ReturnCurve(bypass, floats(tank.pressure_kpa + line_kpa + regulator_kpa), line_kpa, regulator_kpa)
