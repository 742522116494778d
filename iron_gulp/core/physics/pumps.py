"""Low-pressure pumps: flow and current against pressure rise and voltage, and the voltage that really arrives.

A pump is one or more tables, each at one voltage. Inside a table values are linear between points; beyond it the last
slope carries flow down to zero and never below. Between tables values are linear in voltage; outside them, and for a
single table, the affinity laws hold: flow ∝ V, pressure ∝ V², current ∝ V².
"""

import itertools
from collections.abc import Callable, Sequence
from dataclasses import dataclass

import numpy as np
from scipy.optimize import elementwise

from .arrays import Floats, Number, floats


@dataclass(frozen=True)
class PumpTable:
    """Flow (L/h) and current (A) at rising pressure rises (kPa), one voltage; each array has shape (points,)."""

    voltage_v: float
    pressure_kpa: tuple[float, ...]
    flow_l_h: tuple[float, ...]
    current_a: tuple[float, ...]

    def flow(self, rise_kpa: Number) -> Floats:
        """Flow, L/h, at the table's own voltage."""
        return np.maximum(_linear(rise_kpa, self.pressure_kpa, self.flow_l_h), 0.0)

    def current(self, rise_kpa: Number) -> Floats:
        """Current, A, at the table's own voltage; held from the shut-off pressure on, where the pump stalls."""
        reached = np.minimum(floats(rise_kpa), self.shutoff_kpa())
        return np.maximum(_linear(reached, self.pressure_kpa, self.current_a), 0.0)

    def shutoff_kpa(self) -> float:
        """Pressure rise at which flow reaches zero (by the last slope; a flat end is taken as ending there)."""
        last, before = self.flow_l_h[-1], self.flow_l_h[-2]
        slope = (before - last) / (self.pressure_kpa[-1] - self.pressure_kpa[-2])
        if last <= 0 or slope <= 0:
            return self.pressure_kpa[-1]
        return self.pressure_kpa[-1] + last / slope


def _linear(x: Number, xs: Sequence[float], ys: Sequence[float]) -> Floats:
    at = floats(x)
    first = (ys[1] - ys[0]) / (xs[1] - xs[0])
    last = (ys[-1] - ys[-2]) / (xs[-1] - xs[-2])
    inside = np.interp(at, xs, ys)
    return floats(inside + np.minimum(at - xs[0], 0.0) * first + np.maximum(at - xs[-1], 0.0) * last)


Column = Callable[[PumpTable, Floats], Floats]


def _across_voltages(
    tables: Sequence[PumpTable], rise_kpa: Number, voltage_v: Number, column: Column, power: int
) -> Floats:
    """A table's column at other voltages: linear between tables, affinity (∝ V to `power`) outside them."""
    rise, volts = np.broadcast_arrays(floats(rise_kpa), floats(voltage_v))
    ordered = sorted(tables, key=lambda table: table.voltage_v)

    def by_affinity(table: PumpTable) -> Floats:
        ratio = np.maximum(volts, 1e-9) / table.voltage_v
        return floats(column(table, floats(rise / ratio**2)) * ratio**power)

    found = by_affinity(ordered[0])
    for low, high in itertools.pairwise(ordered):
        share = np.clip((volts - low.voltage_v) / (high.voltage_v - low.voltage_v), 0.0, 1.0)
        mixed = column(low, rise) * (1 - share) + column(high, rise) * share
        found = floats(np.where(volts > low.voltage_v, mixed, found))
    if len(ordered) > 1:
        found = floats(np.where(volts > ordered[-1].voltage_v, by_affinity(ordered[-1]), found))
    return found


def flow_l_h(tables: Sequence[PumpTable], rise_kpa: Number, voltage_v: Number) -> Floats:
    """Flow of one pump, L/h, at a pressure rise (kPa) and terminal voltage; shapes broadcast."""
    return _across_voltages(tables, rise_kpa, voltage_v, PumpTable.flow, 1)


def current_a(tables: Sequence[PumpTable], rise_kpa: Number, voltage_v: Number) -> Floats:
    """Current of one pump, A, at a pressure rise (kPa) and terminal voltage; shapes broadcast."""
    return _across_voltages(tables, rise_kpa, voltage_v, PumpTable.current, 2)


def flow_and_current(tables: Sequence[PumpTable], rise_kpa: Number, voltage_v: Number) -> tuple[Floats, Floats]:
    """Flow (L/h) and current (A) of one pump at a pressure rise (kPa) and terminal voltage; shapes broadcast."""
    return flow_l_h(tables, rise_kpa, voltage_v), current_a(tables, rise_kpa, voltage_v)


def terminal_voltage_v(
    tables: Sequence[PumpTable], rise_kpa: Number, source_v: Number, resistance_ohm: float, sharing: int = 1
) -> Floats:
    """Voltage at a pump's terminals, solved together with the current it draws at this pressure rise.

    `sharing` pumps draw through the same loop. Solved by fixed-point iteration, by bracketed root finding where the
    loop resistance is too large for that.
    """
    rise, source = np.broadcast_arrays(floats(rise_kpa), floats(source_v))
    volts = source.copy()
    ohm = resistance_ohm * sharing
    for _ in range(25):
        new = np.clip(source - current_a(tables, rise, volts) * ohm, 0.0, source)
        if np.all(np.abs(new - volts) < 1e-7):
            return floats(new)
        volts = new

    def excess(v: Floats, p: Floats, s: Floats) -> Floats:
        return floats(v - s + current_a(tables, p, v) * ohm)

    solved = elementwise.find_root(excess, (np.full(rise.shape, 1e-6), source), args=(rise, source))
    # A loop so poor that not even the bracket holds leaves the pump without useful voltage.
    return floats(np.where(solved.success, solved.x, 0.0))


def shutoff_kpa(tables: Sequence[PumpTable], voltage_v: float) -> float:
    """Largest pressure rise at which a pump still moves fuel at this voltage (upper estimate over its tables)."""
    return max(
        table.shutoff_kpa() * max((voltage_v / table.voltage_v) ** 2, 1.0 if len(tables) > 1 else 0.0) for table in tables
    )


def relief_share(rise_kpa: Number, relief_kpa: float | None) -> Floats:
    """Share of its flow a pump still delivers: all below its relief pressure, none from 8 % above it."""
    rise = floats(rise_kpa)
    if relief_kpa is None:
        return floats(np.ones_like(rise))
    return floats(np.clip((relief_kpa * 1.08 - rise) / (relief_kpa * 0.08), 0.0, 1.0))
