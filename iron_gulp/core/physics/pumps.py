"""Low-pressure pumps: flow and current against pressure rise and voltage, and the voltage that really arrives.

A pump is one or more tables, each at one voltage. Inside a table values are linear between points; beyond it the last
slope carries flow down to zero and never below. Between tables values are linear in voltage. Outside them, and for a
single table, the nearest table is carried on by the kind of pump (physics §4): a turbine by affinity (flow ∝ V,
pressure ∝ V², current ∝ V²), a displacement pump by its free flow ∝ V less the slip at that pressure, a brushless pump's
controller holds the table down to its drop-out voltage, below which affinity holds from there.
"""

import itertools
from collections.abc import Callable, Sequence
from dataclasses import dataclass
from functools import reduce

import numpy as np

from .arrays import Floats, Number, floats

REACH_KPA = 2000.0  # how far a table whose flow hardly falls is carried beyond its last point, where it is cut off
_SETTLED_V = 1e-9
_STEPS = 12
_HALVINGS = 60


@dataclass(frozen=True)
class Bends:
    """A piecewise linear function with its outer slopes carried on: `start + slope x + Σ bend · max(x − cut, 0)`.

    `start` and `slope` are scalars or of shape (systems,); `cuts` and `bends` (inner points,) or (inner points, systems).
    """

    start: Floats
    slope: Floats
    cuts: Floats
    bends: Floats

    @classmethod
    def through(cls, xs: Sequence[float], ys: Sequence[float]) -> "Bends":
        """The function through two or more points, x rising."""
        slopes = np.diff(ys) / np.diff(xs)
        return cls(floats(ys[0] - slopes[0] * xs[0]), floats(slopes[0]), floats(xs[1:-1]), np.diff(slopes))

    def at(self, x: Floats) -> Floats:
        """Values at `x`; shapes broadcast, systems last."""
        value = self.start + self.slope * x
        for cut, bend in zip(self.cuts, self.bends, strict=True):
            value += bend * np.maximum(x - cut, 0.0)
        return floats(value)

    def line_at(self, x: Floats) -> tuple[Floats, Floats]:
        """Level and slope of the straight line on which `x` lies: the value is `level + slope · x`."""
        level, slope = self.start + 0.0 * x, self.slope + 0.0 * x
        for cut, bend in zip(self.cuts, self.bends, strict=True):
            more = bend * (x > cut)
            slope += more
            level -= more * cut
        return floats(level), floats(slope)


@dataclass(frozen=True)
class PumpTable:
    """Flow (L/h) and current (A) against pressure rise (kPa) at one voltage, of one pump or of an array of systems.

    Numbers are scalars or of shape (systems,). `stall_kpa` is the rise at which flow reaches zero by the last slope
    `fall` (L/h a kPa), at most REACH_KPA behind the last point; `free_l_h` is the flow against nothing. `kind` says how
    the pump behaves at another voltage, `dropout_v` down to which voltage a brushless pump's controller holds the table.
    """

    kind: str
    voltage_v: Floats
    flow_bends: Bends
    current_bends: Bends
    stall_kpa: Floats
    free_l_h: Floats
    fall: Floats
    dropout_v: Floats

    @classmethod
    def of(
        cls,
        voltage_v: float,
        pressure_kpa: Sequence[float],
        flow_l_h: Sequence[float],
        current_a: Sequence[float],
        kind: str,
        dropout_v: float,
    ) -> "PumpTable":
        """The table through points of rising pressure (two or more of each)."""
        last, before, end = flow_l_h[-1], flow_l_h[-2], pressure_kpa[-1]
        fall = max((before - last) / (end - pressure_kpa[-2]), 0.0)
        reach = last / fall if fall * REACH_KPA > last else REACH_KPA
        flow = Bends.through(pressure_kpa, flow_l_h)
        return cls(
            kind,
            floats(voltage_v),
            flow,
            Bends.through(pressure_kpa, current_a),
            floats(end + (reach if last > 0 else 0.0)),
            flow.at(floats(0.0)),
            floats(fall),
            floats(min(dropout_v, voltage_v)),
        )

    def flow(self, rise_kpa: Number) -> Floats:
        """Flow, L/h, at the table's own voltage."""
        return floats(np.maximum(self.flow_bends.at(floats(rise_kpa)), 0.0))

    def current(self, rise_kpa: Number) -> Floats:
        """Current, A, at the table's own voltage; held from the stall on."""
        return floats(np.maximum(self.current_bends.at(floats(np.minimum(rise_kpa, self.stall_kpa))), 0.0))

    def flow_beyond(self, rise_kpa: Floats, voltage_v: Floats) -> Floats:
        """Flow, L/h, at a voltage this table was not taken at, by the kind of pump."""
        if self.kind == "gerotor":
            free = (voltage_v / self.voltage_v - 1.0) * self.free_l_h
            return floats(np.maximum(self.flow_bends.at(rise_kpa) + free, 0.0))
        share = self._speed(voltage_v)
        return floats(self.flow(rise_kpa / (share * share)) * share)

    def current_beyond(self, rise_kpa: Floats, voltage_v: Floats) -> Floats:
        """Current, A, at a voltage this table was not taken at, by the kind of pump."""
        if self.kind == "gerotor":
            return self.current(rise_kpa)
        share = self._speed(voltage_v)
        square = share * share
        if self.kind == "brushless":
            # The controller draws the same power from less voltage.
            square = square * self.voltage_v / np.maximum(voltage_v, self.dropout_v)
        return floats(self.current(rise_kpa / (share * share)) * square)

    def stall_beyond_kpa(self, voltage_v: Floats) -> Floats:
        """Largest pressure rise at a voltage this table was not taken at, kPa; an upper estimate below the table's."""
        if self.kind == "gerotor":
            more = np.maximum(voltage_v / self.voltage_v - 1.0, 0.0) * self.free_l_h
            return floats(self.stall_kpa + more / np.maximum(self.fall, self.free_l_h / REACH_KPA + 1e-9))
        share = self._speed(voltage_v)
        return floats(self.stall_kpa * share * share)

    def _speed(self, voltage_v: Floats) -> Floats:
        """Share of the table's speed at which the pump turns."""
        volts = np.maximum(voltage_v, 1e-9)
        if self.kind == "brushless":
            return floats(np.minimum(volts / self.dropout_v, 1.0))
        return floats(volts / self.voltage_v)


Column = Callable[[PumpTable, Floats], Floats]
Beyond = Callable[[PumpTable, Floats, Floats], Floats]


def _across_voltages(
    tables: Sequence[PumpTable], rise_kpa: Number, voltage_v: Number, column: Column, beyond: Beyond
) -> Floats:
    """A table's column at other voltages: linear between tables, carried on from the nearest outside them."""
    rise, volts = floats(rise_kpa), floats(voltage_v)
    if len(tables) == 1:
        return beyond(tables[0], rise, volts)
    ordered = _by_voltage(tables)
    lowest, highest = ordered[0].voltage_v, ordered[-1].voltage_v
    # Voltages mostly lie between the tables: what lies outside is worked out only where something does.
    found = beyond(ordered[0], rise, volts) if np.any(volts <= lowest) else floats(np.zeros_like(rise + volts))
    for low, high in itertools.pairwise(ordered):
        share = np.clip((volts - low.voltage_v) / (high.voltage_v - low.voltage_v), 0.0, 1.0)
        mixed = column(low, rise) * (1 - share) + column(high, rise) * share
        found = floats(np.where(volts > low.voltage_v, mixed, found))
    if np.any(volts > highest):
        found = floats(np.where(volts > highest, beyond(ordered[-1], rise, volts), found))
    return found


def _by_voltage(tables: Sequence[PumpTable]) -> list[PumpTable]:
    return sorted(tables, key=lambda table: float(table.voltage_v.flat[0]))


def flow_l_h(tables: Sequence[PumpTable], rise_kpa: Number, voltage_v: Number) -> Floats:
    """Flow of one pump, L/h, at a pressure rise (kPa) and terminal voltage; shapes broadcast."""
    return _across_voltages(tables, rise_kpa, voltage_v, PumpTable.flow, PumpTable.flow_beyond)


def current_a(tables: Sequence[PumpTable], rise_kpa: Number, voltage_v: Number) -> Floats:
    """Current of one pump, A, at a pressure rise (kPa) and terminal voltage; shapes broadcast."""
    return _across_voltages(tables, rise_kpa, voltage_v, PumpTable.current, PumpTable.current_beyond)


def flow_and_current(tables: Sequence[PumpTable], rise_kpa: Number, voltage_v: Number) -> tuple[Floats, Floats]:
    """Flow (L/h) and current (A) of one pump at a pressure rise (kPa) and terminal voltage; shapes broadcast."""
    return flow_l_h(tables, rise_kpa, voltage_v), current_a(tables, rise_kpa, voltage_v)


def terminal_voltage_v(
    tables: Sequence[PumpTable], rise_kpa: Number, source_v: Number, resistance_ohm: Number, sharing: int = 1
) -> Floats:
    """Voltage at a pump's terminals, solved together with the current it draws at this pressure rise; shapes broadcast.

    `sharing` pumps draw through the same loop. Between two tables current is linear in voltage, and so is the loop; one
    turbine table is solved line by line; what neither settles by secants; where the loop resistance is too large for
    those, by halving.
    """
    rise, source, ohm = floats(rise_kpa), floats(source_v), floats(resistance_ohm) * sharing
    if len(tables) > 1:
        volts = _between(tables, rise, source, ohm)
    elif tables[0].kind == "turbine":
        volts = _on_lines(tables[0], rise, source, ohm)
    else:
        volts = None
    if volts is None:
        volts = _by_secants(tables, rise, source, ohm)
    return _by_halving(tables, rise, source, ohm) if volts is None else volts


def _between(tables: Sequence[PumpTable], rise: Floats, source: Floats, ohm: Floats) -> Floats | None:
    """Between two tables in one step; turbines outside them by the nearest. None where that does not answer for all."""
    ordered = _by_voltage(tables)
    drawn = [table.current(rise) for table in ordered]
    volts = np.full(np.broadcast(rise, source, ohm, ordered[0].voltage_v).shape, np.nan)
    for (low, at_low), (high, at_high) in itertools.pairwise(zip(ordered, drawn, strict=True)):
        per_volt = (at_high - at_low) / (high.voltage_v - low.voltage_v)
        steep = 1.0 + ohm * per_volt
        if np.any(steep <= 0):
            return None
        found = (source - ohm * (at_low - per_volt * low.voltage_v)) / steep
        np.copyto(volts, found, where=(found > low.voltage_v) & (found <= high.voltage_v))
    for table, side in ((ordered[-1], 1.0), (ordered[0], -1.0)):
        missing = np.isnan(volts)
        if not missing.any():
            break
        outside = _on_lines(table, rise, source, ohm) if table.kind == "turbine" else None
        if outside is None:
            return None
        np.copyto(volts, outside, where=missing & (side * (outside - table.voltage_v) >= 0))
    return None if np.isnan(volts).any() else floats(volts)


def _on_lines(table: PumpTable, rise: Floats, source: Floats, ohm: Floats) -> Floats | None:
    """On one line of one table the affinity law makes the loop a quadratic in voltage; the line is looked up again."""
    volts = source - ohm * table.current(rise)
    square_v = table.voltage_v * table.voltage_v
    stalled = table.current(table.stall_kpa)
    for _ in range(_STEPS):
        level, steep = table.current_bends.line_at(floats(rise * square_v / np.maximum(volts * volts, 1e-12)))
        held = volts * volts * table.stall_kpa <= rise * square_v
        if held.any():
            level, steep = np.where(held, stalled, level), np.where(held, 0.0, steep)
        least = source - ohm * steep * rise
        curved = 1.0 + 4.0 * ohm * level / square_v * least
        found = 2.0 * least / (1.0 + np.sqrt(np.maximum(curved, 0.0)))
        found = np.maximum(np.minimum(found, source), 0.0)
        moved = np.max(np.abs(found - volts), initial=0.0)
        volts = found
        if moved < _SETTLED_V:
            return floats(volts)
    return None


def _by_secants(tables: Sequence[PumpTable], rise: Floats, source: Floats, ohm: Floats) -> Floats | None:
    """From two steps of substitution on; None where that does not settle."""
    before = floats(source + 0.0 * rise)
    off_before = before - source + current_a(tables, rise, before) * ohm
    volts = np.clip(before - off_before, 0.0, source)
    for _ in range(_STEPS):
        off = volts - source + current_a(tables, rise, floats(volts)) * ohm
        if np.max(np.abs(off), initial=0.0) < _SETTLED_V:
            return floats(volts)
        moved, apart = volts - before, off - off_before
        with np.errstate(divide="ignore", invalid="ignore"):
            step = np.where(np.abs(apart) > 1e-14, off * moved / apart, off)
        before, off_before = volts, off
        volts = np.clip(np.where(np.isfinite(step), volts - step, volts), 0.0, source)
    return None


def _by_halving(tables: Sequence[PumpTable], rise: Floats, source: Floats, ohm: Floats) -> Floats:
    low, high = np.zeros(np.broadcast(rise, source).shape), floats(source + 0.0 * rise)
    for _ in range(_HALVINGS):
        middle = floats((low + high) / 2.0)
        too_high = middle > source - current_a(tables, rise, middle) * ohm
        low, high = np.where(too_high, low, middle), np.where(too_high, middle, high)
    return floats((low + high) / 2.0)


CONTROLLER_SHARE = 0.95  # of its input a speed controller passes on; a brushless pump's table is taken before its own


def _affine(tables: Sequence[PumpTable]) -> bool:
    """Whether a controller's own speed, and not a motor's volts, is what a pump follows."""
    return tables[0].kind == "brushless"


def controlled_voltage_v(
    tables: Sequence[PumpTable], rise_kpa: Number, source_v: Number, resistance_ohm: Number, speed: Number
) -> Floats:
    """Voltage at a speed controller whose pump turns at a share of the most speed those volts give (physics §4).

    The whole loop lies before the controller, which draws the motor's power over its own share. Shapes broadcast.
    """
    share, source = floats(speed), floats(source_v)
    if _affine(tables):
        return terminal_voltage_v(tables, floats(rise_kpa) / share**2, source, floats(resistance_ohm) * share**3)
    # The motor's volts are a share of the controller's: V_m = s V, and V = source − R s I(V_m) / η.
    ohm = floats(resistance_ohm) * share**2 / CONTROLLER_SHARE
    return floats(terminal_voltage_v(tables, rise_kpa, source * share, ohm) / share)


def controlled_flow_l_h(tables: Sequence[PumpTable], rise_kpa: Number, controller_v: Number, speed: Number) -> Floats:
    """Flow of one pump at a share of the most speed its controller's volts give, L/h, by the law of its kind."""
    share, volts = floats(speed), floats(controller_v)
    if _affine(tables):
        return floats(share * flow_l_h(tables, floats(rise_kpa) / share**2, volts))
    return flow_l_h(tables, rise_kpa, floats(share * volts))


def controlled_current_a(tables: Sequence[PumpTable], rise_kpa: Number, controller_v: Number, speed: Number) -> Floats:
    """What a controller draws from the battery for one pump at a share of its most speed, A."""
    share, volts = floats(speed), floats(controller_v)
    if _affine(tables):
        return floats(share**3 * current_a(tables, floats(rise_kpa) / share**2, volts))
    return floats(share * current_a(tables, rise_kpa, floats(share * volts)) / CONTROLLER_SHARE)


def told_voltage_v(tables: Sequence[PumpTable], controller_v: Number, speed: Number) -> Floats:
    """The volts told of a pump under a controller: its motor's, a brushless pump's controller's."""
    return floats(controller_v) if _affine(tables) else floats(floats(speed) * floats(controller_v))


def motor_share(kind: str, speed: Number) -> Floats:
    """Electrical power into a pump over told volts times the battery's amperes, under a controller."""
    return floats(np.ones_like(floats(speed))) if kind == "brushless" else floats(CONTROLLER_SHARE / floats(speed))


def shutoff_kpa(tables: Sequence[PumpTable], voltage_v: Number) -> Floats:
    """Largest pressure rise at which a pump still moves fuel at this voltage (upper estimate over its tables), kPa."""
    tops = [table.stall_beyond_kpa(floats(voltage_v)) for table in tables]
    if len(tables) > 1:
        tops += [table.stall_kpa for table in tables]
    return floats(reduce(np.maximum, tops))


def relief_share(rise_kpa: Number, relief_kpa: Number | None) -> Floats:
    """Share of its flow a pump still delivers: all below its relief pressure, none from 8 % above it (None: no valve)."""
    rise = floats(rise_kpa)
    if relief_kpa is None:
        return floats(np.ones_like(rise))
    relief = floats(relief_kpa)
    return floats(np.clip((relief * 1.08 - rise) / (relief * 0.08), 0.0, 1.0))
