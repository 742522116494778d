"""Figures of the pumps' electrical side (first pump group)."""

from ...physics import controlled_current_a, drop_v, flow_and_current
from ...solve import PEAK, controlled, motor_power_w, wiring_resistance_ohm
from .base import AnyFigure, Context, Figure, Values


def _loop(context: Context) -> Values:
    return {
        "V": context.verdict.option.pumps[0].source_v(context.verdict.target.supply_v, context.verdict.target.boost_kpa),
        "I": float(context.verdict.points.hydraulics.amps[0, PEAK]),
        "R": wiring_resistance_ohm(context.verdict.option.pumps[0].wiring) * 1e3,
        "u": 1.0 if context.verdict.option.pumps[0].part.kind == "brushless" else _speed(context),
    }


def _speed(context: Context) -> float:
    """Share of its most speed at which a controller lets the first group turn; all of it without one."""
    verdict = context.verdict
    return float(verdict.points.hydraulics.speed[PEAK]) if controlled(verdict.option, 0) else 1.0


def _motor(context: Context) -> Values:
    hyd = context.verdict.points.hydraulics
    valve = context.verdict.option.pumps[0].valve_kpa
    told = {"Δp": float(hyd.pump_rise_kpa[PEAK]) + valve, "V_pump": float(hyd.volts[0, PEAK])}
    return told | {"u": _speed(context)}


def _current(context: Context, x: Values) -> float:
    """The battery's amperes for one pump: its table's, or what its speed controller draws."""
    part, volts = context.verdict.option.pumps[0].part, x["V_pump"]
    if not controlled(context.verdict.option, 0):
        return float(flow_and_current(part.tables(), x["Δp"], volts)[1])
    before = volts if part.kind == "brushless" else volts / x["u"]
    return float(controlled_current_a(part.tables(), x["Δp"], before, x["u"]))


def _heat(context: Context) -> Values:
    hyd = context.verdict.points.hydraulics
    counts = [group.count for group in context.verdict.option.pumps]
    amps = sum(float(hyd.amps[i, PEAK]) * count for i, count in enumerate(counts))
    watts = float(motor_power_w(context.verdict.option, hyd)[:, PEAK].sum())
    return {"V_pump": watts / amps if amps else 0.0, "I": amps}


FIGURES: tuple[AnyFigure, ...] = (
    Figure(
        "pump.volts_v",
        "Voltage at the pump",
        "V_pump = u × (V − I × R)",
        "copper 1.724e-8 Ω·m at 20 °C, +0.393 %/K (IEC 60028); current and voltage are solved together",
        (
            ("V", "System voltage, or what a booster holds", "supply_v"),
            ("I", "Current of one pump", "current_a"),
            ("R", "Loop resistance", "loop_mohm"),
            ("u", "Share a speed controller passes on; 1 without one, and for a brushless pump", "factor"),
        ),
        _loop,
        lambda c, x: x["u"] * (x["V"] - float(drop_v(x["I"], x["R"] / 1e3))),
    ),
    Figure(
        "pump.current_a",
        "Current of one pump",
        "I = table at Δp × (V_t ÷ V_pump)², × (V_pump ÷ V_t)²; behind a speed controller × u ÷ 0.95 at the battery",
        "the pump's own table; affinity laws away from its voltage V_t, in speed for a brushless pump under a controller",
        (
            ("Δp", "Pressure rise, check valve included", "rise_kpa"),
            ("V_pump", "Voltage at the pump", "pump_v"),
            ("u", "Share of full speed; 1 without a controller", "factor"),
        ),
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
