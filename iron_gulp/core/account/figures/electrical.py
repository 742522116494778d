"""Figures of the pumps' electrical side (first pump group)."""

from ...physics import drop_v, flow_and_current
from ...solve import PEAK, wiring_resistance_ohm
from .base import AnyFigure, Context, Figure, Values


def _loop(context: Context) -> Values:
    return {
        "V": context.verdict.option.pumps[0].source_v(context.verdict.target.supply_v, context.verdict.target.boost_kpa),
        "I": float(context.verdict.points.hydraulics.amps[0, PEAK]),
        "R": wiring_resistance_ohm(context.verdict.option.pumps[0].wiring) * 1e3,
    }


def _motor(context: Context) -> Values:
    hyd = context.verdict.points.hydraulics
    valve = context.verdict.option.pumps[0].valve_kpa
    return {"Δp": float(hyd.pump_rise_kpa[PEAK]) + valve, "V_pump": float(hyd.volts[0, PEAK])}


def _current(context: Context, x: Values) -> float:
    tables = context.verdict.option.pumps[0].part.tables()
    return float(flow_and_current(tables, x["Δp"], x["V_pump"])[1])


def _heat(context: Context) -> Values:
    hyd = context.verdict.points.hydraulics
    counts = [group.count for group in context.verdict.option.pumps]
    amps = sum(float(hyd.amps[i, PEAK]) * count for i, count in enumerate(counts))
    watts = sum(float(hyd.amps[i, PEAK] * hyd.volts[i, PEAK]) * count for i, count in enumerate(counts))
    return {"V_pump": watts / amps if amps else 0.0, "I": amps}


FIGURES: tuple[AnyFigure, ...] = (
    Figure(
        "pump.volts_v",
        "Voltage at the pump",
        "V_pump = V − I × R",
        "copper 1.724e-8 Ω·m at 20 °C, +0.393 %/K (IEC 60028); current and voltage are solved together",
        (
            ("V", "System voltage, or what a booster holds", "supply_v"),
            ("I", "Current of one pump", "current_a"),
            ("R", "Loop resistance", "loop_mohm"),
        ),
        _loop,
        lambda c, x: x["V"] - float(drop_v(x["I"], x["R"] / 1e3)),
    ),
    Figure(
        "pump.current_a",
        "Current of one pump",
        "I = table at Δp × (V_t ÷ V_pump)², × (V_pump ÷ V_t)²",
        "the pump's own table; affinity laws away from its voltage V_t",
        (("Δp", "Pressure rise, check valve included", "rise_kpa"), ("V_pump", "Voltage at the pump", "pump_v")),
        _motor,
        _current,
    ),
    Figure(
        "pump.heat_w",
        "Heat into the fuel",
        "P = V_pump × I",
        "all electrical power and most hydraulic power end as heat in the fuel",
        (
            ("V_pump", "Voltage at the pumps, mean", "pump_v"),
            ("I", "Current, all running pumps", "current_a"),
        ),
        _heat,
        lambda c, x: x["V_pump"] * x["I"],
    ),
)
