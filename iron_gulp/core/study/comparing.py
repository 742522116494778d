"""Curves of single parts for laying over each other: what a part does on its own, at stated conditions."""

from collections.abc import Callable, Sequence
from dataclasses import dataclass
from functools import partial
from typing import TypeVar

import numpy as np

from ..model import (
    DirectInjectorPart,
    FilterPart,
    HighPumpPart,
    InjectorPart,
    LinePart,
    Part,
    PortSetPart,
    PumpPart,
    Rail,
    RailPart,
    RegulatorPart,
    SensorPart,
)
from ..physics import (
    M3_S_PER_L_H,
    Floats,
    Number,
    PumpTable,
    blend,
    current_a,
    filter_drop_kpa,
    floats,
    flow_l_h,
    line_drop_kpa,
    open_flow_kg_s,
    relief_share,
    wide_open_drop_kpa,
    wide_open_k,
)
from ..physics import high_pressure as hp
from ..solve import rail_drop_kpa

POINTS = 41
ETHANOL, TEMP_C = 0.60, 30.0  # parts are compared on E60 at 30 °C
LINE_M = 4.0
RAIL_L_H = 400.0  # rails are compared up to this flow
HOT_C, CAM_RPM, INLET_KPA, BULK_MPA = 60.0, 6500.0, 500.0, 1100.0  # what high-pressure parts are compared at
SPEED_M_S = 4.0  # the widest line of a comparison is followed up to this velocity
_AnyPart = TypeVar("_AnyPart", bound=Part)
_Points = tuple[Floats, Floats]


@dataclass(frozen=True)
class Curve:
    """One part's curve, x and y of one length."""

    part: str
    x: Floats
    y: Floats


@dataclass(frozen=True)
class Axis:
    """`name` ends in the unit of the values."""

    label: str
    name: str


@dataclass(frozen=True)
class Comparison:
    """One chart with a curve a part."""

    title: str
    x: Axis
    y: Axis
    curves: tuple[Curve, ...]


FLOW, DROP = Axis("Flow", "flow_l_h"), Axis("Drop", "drop_kpa")
RISE, SIGNAL = Axis("Pressure rise", "rise_kpa"), Axis("Signal", "signal_v")
READ = {"kpa": "Pressure", "c": "Temperature", "kg_s": "Air flow", "lambda": "Mixture"}


def compare(parts: Sequence[Part]) -> list[Comparison]:
    """The charts on which parts of one kind are compared; none for no parts. Kinds are not mixed."""
    pumps = _of(PumpPart, parts)
    injectors = _of(InjectorPart, parts)
    lines = _of(LinePart, parts)
    regulators = _of(RegulatorPart, parts)
    filters = _of(FilterPart, parts)
    if pumps:
        return [
            _chart("Flow against pressure rise, at table voltage", RISE, FLOW, pumps, partial(_pump, read=_flow)),
            _chart(
                "Current against pressure rise, at table voltage",
                RISE,
                Axis("Current", "current_a"),
                pumps,
                partial(_pump, read=current_a),
            ),
        ]
    if injectors:
        return [
            _chart(
                "Held open on E60 at 30 °C",
                Axis("Differential", "differential_kpa"),
                Axis("Flow", "open_g_s"),
                injectors,
                _injector,
            ),
            _chart(
                "Dead time, each at its own pressure",
                Axis("Voltage", "voltage_v"),
                Axis("Dead time", "dead_ms"),
                injectors,
                lambda part: (floats(part.dead_time_v), floats(part.dead_time_ms)),
            ),
        ]
    if lines:
        widest = max(part.bore_mm for part in lines)
        top = SPEED_M_S * np.pi / 4.0 * (widest * 1e-3) ** 2 / M3_S_PER_L_H
        title = f"Drop of {LINE_M:g} m without fittings, E60 at 30 °C"
        return [_chart(title, FLOW, DROP, lines, partial(_line, top_l_h=top))]
    if regulators:
        top = 1.2 * max(part.capacity_l_h for part in regulators)
        title = "Drop wide open, without the return line"
        return [_chart(title, FLOW, DROP, regulators, partial(_regulator, top_l_h=top))]
    high = _of(HighPumpPart, parts)
    if high:
        title = f"Brought at {CAM_RPM:g} rpm of the engine, pump at half of it, inlet {INLET_KPA:g} kPa, E60 at 60 °C"
        return [_chart(title, Axis("Rail", "rail_kpa"), FLOW, high, _high_pump)]
    direct = _of(DirectInjectorPart, parts)
    if direct:
        rail = Axis("Rail above the cylinder", "rail_kpa")
        return [_chart("Held open on E60 at 60 °C", rail, Axis("Flow", "open_g_s"), direct, _direct_injector)]
    rails, sensors = _of(RailPart, parts), _of(SensorPart, parts)
    if rails:
        title = "Drop along the rail fed at its end, all drawn off on the way, E60 at 30 °C"
        return [_chart(title, FLOW, DROP, rails, _rail)]
    sets = _of(PortSetPart, parts)
    if sets:
        across = Axis("Differential", "differential_kpa")
        return [_chart("One injector held open on E60 at 30 °C", across, Axis("Flow", "open_g_s"), sets, _of_set)]
    if sensors:
        by_unit: dict[str, list[SensorPart]] = {}
        for part in sensors:
            by_unit.setdefault(part.reach[2], []).append(part)
        return [
            _chart("Signal over what it reads", Axis(READ[unit], f"reads_{unit}"), SIGNAL, alike, _sensor)
            for unit, alike in by_unit.items()
        ]
    if filters:
        top = 1.2 * max(part.rated_flow_l_h for part in filters)
        return [_chart("Drop when clean", FLOW, DROP, filters, partial(_filter, top_l_h=top))]
    return []


def _of(kind: type[_AnyPart], parts: Sequence[Part]) -> list[_AnyPart]:
    return [part for part in parts if isinstance(part, kind)]


def _chart(title: str, x: Axis, y: Axis, parts: Sequence[_AnyPart], curve: Callable[[_AnyPart], _Points]) -> Comparison:
    return Comparison(title, x, y, tuple(Curve(part.name, *curve(part)) for part in parts))


def _flow(tables: Sequence[PumpTable], rise_kpa: Number, volts: Number) -> Floats:
    return flow_l_h(tables, rise_kpa, volts)


def _pump(part: PumpPart, read: Callable[[Sequence[PumpTable], Number, Number], Floats]) -> _Points:
    tables = part.tables()
    top = max(float(table.stall_kpa) for table in tables)
    top = top if part.relief_kpa is None else min(top, part.relief_kpa * 1.1)
    rise = floats(np.linspace(0.0, top, POINTS))
    values = read(tables, rise, max(table.voltage_v for table in tables))
    return rise, floats(values * relief_share(rise, part.relief_kpa)) if read is _flow else values


def _injector(part: InjectorPart) -> _Points:
    across = floats(np.linspace(0.0, part.max_pressure_kpa, POINTS))
    density = float(blend(ETHANOL, TEMP_C).density_kg_m3)
    return across, floats(open_flow_kg_s(part.heptane_cc_min, part.rated_pressure_kpa, across, density) * 1e3)


def _of_set(part: PortSetPart) -> _Points:
    return _injector(part.injector())


def _high_pump(part: HighPumpPart) -> _Points:
    rail = floats(np.linspace(1_000.0, part.max_rail_kpa, POINTS))
    fuel = blend(ETHANOL, HOT_C)
    swept = float(hp.stroke_m3(part.plunger_mm, part.stroke_mm)) * part.strokes_a_turn * 0.5 * CAM_RPM / 60.0
    plungers = part.plungers if part.driven == "several plungers" else 1
    leak = hp.leak_m3_s_per_kpa(part.plunger_mm, part.clearance_um, part.seal_mm, plungers)
    loss = hp.loss_per_kpa(part.dead_ratio, BULK_MPA, leak, float(fuel.viscosity_mpa_s), swept)
    filled = np.maximum(1.0 - loss * (rail - INLET_KPA), 0.0) * part.valve_factor
    return rail, floats(filled * swept / M3_S_PER_L_H)


def _direct_injector(part: DirectInjectorPart) -> _Points:
    rail = floats(np.linspace(0.0, part.max_rail_kpa, POINTS))
    density = float(blend(ETHANOL, HOT_C).density_kg_m3)
    return rail, floats(open_flow_kg_s(part.rated_flow_cc_min, part.rated_pressure_kpa, rail, density) * 1e3)


def _line(part: LinePart, top_l_h: float) -> _Points:
    fuel = blend(ETHANOL, TEMP_C)
    flow = floats(np.linspace(0.0, top_l_h, POINTS))
    drop = line_drop_kpa(
        flow * M3_S_PER_L_H,
        part.bore_mm,
        LINE_M,
        0.0,
        float(fuel.density_kg_m3),
        float(fuel.viscosity_mpa_s),
        part.roughness_um,
    )
    return flow, drop


def _rail(part: RailPart) -> _Points:
    fuel = blend(ETHANOL, TEMP_C)
    flow = floats(np.linspace(0.0, RAIL_L_H, POINTS))
    rail = Rail(bore_mm=part.bore_mm, length_m=part.length_m)
    drop = [
        rail_drop_kpa(rail, one * M3_S_PER_L_H, float(fuel.density_kg_m3), float(fuel.viscosity_mpa_s)) for one in flow
    ]
    return flow, floats(drop)


def _sensor(part: SensorPart) -> _Points:
    low, high, _ = part.reach
    return floats([low, high]), floats([part.low_v, part.high_v])


def _regulator(part: RegulatorPart, top_l_h: float) -> _Points:
    flow = floats(np.linspace(0.0, top_l_h, POINTS))
    wide = wide_open_k(part.capacity_l_h * M3_S_PER_L_H, part.capacity_drop_kpa)
    return flow, wide_open_drop_kpa(flow * M3_S_PER_L_H, wide)


def _filter(part: FilterPart, top_l_h: float) -> _Points:
    flow = floats(np.linspace(0.0, top_l_h, POINTS))
    rated = part.rated_flow_l_h * M3_S_PER_L_H
    drop = filter_drop_kpa(flow * M3_S_PER_L_H, rated, part.rated_drop_kpa, part.linear_share_pct / 100.0)
    return flow, drop
