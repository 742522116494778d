"""Figures of tank, suction, surge tank and heat."""

import math

from ...judge import Surge, TargetVerdict
from ...model import LiftStage
from ...physics import M3_S_PER_L_H, flow_l_h, lasts_s, mean_drawn_m3_s
from ...solve import IDLE, PEAK, LiftSolution, motor_power_w, through_feed_m3_s
from .base import AnyFigure, Context, Figure, SystemFigure, Values

L_H = 1.0 / M3_S_PER_L_H
# Specific heat, kJ/(kg K), near 30 °C (NIST, ethanol; Heywood, gasoline).
HEAT_GASOLINE, HEAT_ETHANOL = 2.22, 2.44

_SUCTION_INPUTS = (
    ("{option}/suction/head_m", "Fuel level above the inlet", "head_m"),
    ("{option}/tank/pressure_kpa", "Tank pressure", "pressure_kpa"),
    ("{target}/fuel_temp_c", "Fuel temperature", "fuel_temp_c"),
    ("{target}/supply_v", "System voltage", "supply_v"),
)


def _available(verdict: TargetVerdict) -> float:
    return verdict.heads_kpa[0][0]


def _solved(verdict: TargetVerdict) -> LiftSolution:
    if verdict.lift is None:
        raise KeyError("no lift stage is fitted")
    return verdict.lift


def _lift(context: Context) -> tuple[LiftStage, LiftSolution]:
    solved = _solved(context.verdict)
    assert context.verdict.option.lift is not None
    return context.verdict.option.lift, solved


def _drawn_m3_s(context: Context, lift: LiftStage) -> float:
    hyd = context.verdict.points.hydraulics
    if lift.return_to == "main tank":
        return float(hyd.supply_m3_s[PEAK])
    return context.verdict.demand.chosen_kg_s / context.verdict.fuel.density_kg_m3


def _reserve(context: Context) -> Values:
    lift, _ = _lift(context)
    return {"V": lift.surge_l, "drawn": _drawn_m3_s(context, lift) * L_H}


def _surge(context: Context) -> Surge:
    found = context.verdict.surge
    if found is None:
        raise KeyError("no lift stage is fitted")
    return found


def _mean(context: Context) -> Values:
    one = _surge(context)
    return {"share": one.share * 100.0, "drawn": one.drawn_m3_s * L_H, "cruise": one.cruise_m3_s * L_H}


def _lifted(context: Context) -> Values:
    lift, solved = _lift(context)
    return {"Δp": solved.rise_kpa, "V_pump": solved.volts, "n": lift.count}


def _lift_flow(context: Context, x: Values) -> float:
    lift, _ = _lift(context)
    share = 1.0 - lift.derate_pct / 100.0
    return float(flow_l_h(lift.part.tables(), x["Δp"], x["V_pump"])) * x["n"] * share


def _cooler(context: Context, line: str) -> Values:
    """Stream through a cooler light running, its conductance (0 where none is fitted), fuel above the air."""
    hyd, verdict, fuel = context.verdict.points.hydraulics, context.verdict, context.verdict.fuel
    cooler = verdict.option.return_cooler if line == "return" else verdict.option.feed_cooler
    flow = hyd.bypass_m3_s
    if line == "feed":
        flow = through_feed_m3_s(verdict.option, hyd)
    heat = fuel.mass_fraction * HEAT_ETHANOL + (1.0 - fuel.mass_fraction) * HEAT_GASOLINE
    return {
        "Ċ": float(flow[IDLE]) * fuel.density_kg_m3 * heat * 1000.0,
        "UA": 0.0 if cooler is None else cooler.ua_w_k,
        "ΔT": 0.0 if cooler is None else verdict.target.fuel_temp_c - cooler.air_c,
    }


def _given(context: Context, x: Values) -> float:
    return x["Ċ"] * x["ΔT"] * -math.expm1(-x["UA"] / max(x["Ċ"], 1e-9))


def _cooler_figure(line: str) -> Figure:
    return Figure(
        f"cooler.{line}_w",
        f"Heat given to the air, {line}",
        "Q = Ċ × ΔT × (1 − exp(−UA ÷ Ċ))",
        "effectiveness of a stream whose air does not limit; UA from the cooler's rated point (an estimate)",
        (
            ("Ċ", "Fuel stream through it, light running", "stream_w_k"),
            ("UA", "Conductance", "ua_w_k"),
            ("ΔT", "Fuel warmer than the air", "difference_k"),
        ),
        lambda context: _cooler(context, line),
        _given,
        note="Below zero where the air is warmer than the fuel.",
    )


def _warming(context: Context) -> Values:
    hyd, option = context.verdict.points.hydraulics, context.verdict.option
    watts = float(motor_power_w(option, hyd)[:, IDLE].sum())
    fuel = context.verdict.fuel
    heat = fuel.mass_fraction * HEAT_ETHANOL + (1.0 - fuel.mass_fraction) * HEAT_GASOLINE
    cooled = sum(_given(context, _cooler(context, line)) for line in ("feed", "return"))
    return {"P": watts, "Q": cooled, "V": option.tank.volume_l, "ρ": fuel.density_kg_m3, "c": heat}


FIGURES: tuple[AnyFigure, ...] = (
    _cooler_figure("feed"),
    _cooler_figure("return"),
    SystemFigure(
        "suction.inlet_kpa",
        "Pressure at the pump inlet",
        "p_in = p_tank + ρ × g × h − pickup − suction line − pre-filter",
        _SUCTION_INPUTS,
        lambda verdict: float(verdict.points.hydraulics.inlet_kpa.min()),
        note="The lower of peak and idle, gauge.",
    ),
    SystemFigure(
        "suction.available_kpa",
        "Head above boiling",
        "p_atm + p_in − p_v",
        _SUCTION_INPUTS,
        _available,
        note="What is left must exceed the pump's needed head, with 20 kPa to spare.",
    ),
    Figure(
        "suction.warming_k_h",
        "Tank warms, half full, light running",
        "ΔT = (P − Q) × 3600 ÷ (ρ × V ÷ 2 × c)",
        "all electrical power ends as heat in the fuel; of the losses to the air only coolers count (an upper estimate)",
        (
            ("P", "Pump power as at idle", "power_w"),
            ("Q", "Given to the air by coolers", "cooled_w"),
            ("V", "Tank volume", "volume_l"),
            ("ρ", "Density", "density_kg_m3"),
            ("c", "Specific heat", "heat_kj_kg_k"),
        ),
        _warming,
        lambda c, x: (x["P"] - x["Q"]) * 3.6 / (x["ρ"] * x["V"] / 2000.0 * x["c"]),
    ),
    Figure(
        "lift.flow_l_h",
        "Lifted into the surge tank",
        "V̇ = n × pump at Δp and V_pump",
        "the pump's own table against its line into the open surge tank",
        (
            ("Δp", "Pressure of the line", "rise_kpa"),
            ("V_pump", "Voltage at the pump", "pump_v"),
            ("n", "Lift pumps", "count"),
        ),
        _lifted,
        _lift_flow,
    ),
    SystemFigure(
        "lift.inlet_kpa",
        "Pressure at the lift pump's inlet",
        "p_in = p_tank − pickup",
        (
            ("{option}/tank/pressure_kpa", "Tank pressure", "pressure_kpa"),
            ("{target}/supply_v", "System voltage", "supply_v"),
        ),
        lambda verdict: _solved(verdict).inlet_kpa,
        note="Gauge, with the pickup drowned just above the inlet.",
    ),
    Figure(
        "lift.mean_l_h",
        "Drawn on the mean of its use",
        "V̇_mean = max(share × V̇_drawn + (1 − share) × V̇_cruise, V̇_cruise)",
        "share of the time at full load by use; cruise at 0.36 of the peak's speed and −38 kPa",
        (
            ("share", "Of its time at full load", "share_pct"),
            ("drawn", "Drawn at peak", "drawn_l_h"),
            ("cruise", "Drawn at cruise", "cruise_l_h"),
        ),
        _mean,
        lambda c, x: float(mean_drawn_m3_s(x["drawn"], x["cruise"], x["share"] / 100.0)),
    ),
    Figure(
        "lift.reserve_s",
        "Surge tank lasts, lift pump on air",
        "t = V ÷ V̇_drawn",
        "volume over what is drawn when nothing is lifted",
        (("V", "Surge tank volume", "volume_l"), ("drawn", "Drawn at peak", "drawn_l_h")),
        _reserve,
        lambda c, x: float(lasts_s(x["drawn"] * M3_S_PER_L_H, 0.0, x["V"])),
    ),
)
