"""Low-pressure pumps: flow and current against pressure rise and voltage, and the voltage that really arrives.

A pump is one or more tables, each at one voltage. Inside a table values are linear between points; beyond it the last
slope carries flow down to zero and never below. Between tables values are linear in voltage; outside them, and for a
single table, the affinity laws hold: flow ∝ V, pressure ∝ V², current ∝ V².
"""

import itertools
from collections.abc import Sequence
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


def _by_affinity(table: PumpTable, rise: Floats, volts: Floats) -> tuple[Floats, Floats]:
    ratio = np.maximum(volts, 1e-9) / table.voltage_v
    at_table = rise / ratio**2
    return floats(table.flow(at_table) * ratio), floats(table.current(at_table) * ratio**2)


def flow_and_current(tables: Sequence[PumpTable], rise_kpa: Number, voltage_v: Number) -> tuple[Floats, Floats]:
    """Flow (L/h) and current (A) of one pump at a pressure rise (kPa) and terminal voltage; shapes broadcast."""
    rise, volts = np.broadcast_arrays(floats(rise_kpa), floats(voltage_v))
    ordered = sorted(tables, key=lambda table: table.voltage_v)
    flow, current = _by_affinity(ordered[0], rise, volts)
    for low, high in itertools.pairwise(ordered):
        share = np.clip((volts - low.voltage_v) / (high.voltage_v - low.voltage_v), 0.0, 1.0)
        between = volts > low.voltage_v
        mixed_flow = low.flow(rise) * (1 - share) + high.flow(rise) * share
        mixed_current = low.current(rise) * (1 - share) + high.current(rise) * share
        flow = np.where(between, mixed_flow, flow)
        current = np.where(between, mixed_current, current)
    if len(ordered) > 1:
        above = volts > ordered[-1].voltage_v
        top_flow, top_current = _by_affinity(ordered[-1], rise, volts)
        flow, current = np.where(above, top_flow, flow), np.where(above, top_current, current)
    return floats(flow), floats(current)


def terminal_voltage_v(
    tables: Sequence[PumpTable], rise_kpa: Number, source_v: Number, resistance_ohm: float, sharing: int = 1
) -> Floats:
    """Voltage at a pump's terminals, solved together with the current it draws at this pressure rise.

    `sharing` pumps draw through the same loop. Solved by fixed-point iteration, by bracketed root finding where the
    loop resistance is too large for that.
    """
    rise, source = np.broadcast_arrays(floats(rise_kpa), floats(source_v))
    volts = source.copy()
    for _ in range(25):
        _, current = flow_and_current(tables, rise, volts)
        new = np.clip(source - current * sharing * resistance_ohm, 0.0, source)
        if np.all(np.abs(new - volts) < 1e-9):
            return floats(new)
        volts = new

    def excess(v: Floats, p: Floats, s: Floats) -> Floats:
        return floats(v - s + flow_and_current(tables, p, v)[1] * sharing * resistance_ohm)

    solved = elementwise.find_root(excess, (np.full(rise.shape, 1e-6), source), args=(rise, source))
    # A loop so poor that not even the bracket holds leaves the pump without useful voltage.
    return floats(np.where(solved.success, solved.x, 0.0))


def shutoff_kpa(tables: Sequence[PumpTable], voltage_v: float) -> float:
    """Largest pressure rise at which a pump still moves fuel at this voltage (upper estimate over its tables)."""
    return max(
        table.shutoff_kpa() * max((voltage_v / table.voltage_v) ** 2, 1.0 if len(tables) > 1 else 0.0) for table in tables
    )
