"""Figures of the coupled solution, the lines and the regulator."""

from collections.abc import Callable

from ...judge import TargetVerdict
from ...physics import M3_S_PER_L_H, set_pressure_kpa, velocity_m_s, wide_open_drop_kpa, wide_open_k
from ...solve import IDLE, PEAK, packed, reference_kpa, through_feed_m3_s
from .base import AnyFigure, Context, Figure, SystemFigure, Values

DARCY = "Darcy–Weisbach; friction factor after Colebrook, laminar below Re 2040"
FITTINGS = "; fittings by the two-K method (Hooper 1981), K = K₁ ÷ Re + K∞ (1 + 25.4 mm ÷ d)"
L_H = 1.0 / M3_S_PER_L_H

_PEAK_INPUTS = (
    ("{target}/power_kw", "Power wanted", "power_kw"),
    ("{target}/boost_kpa", "Boost", "boost_kpa"),
    ("{target}/supply_v", "System voltage", "supply_v"),
    ("{option}/regulator/base_kpa", "Base pressure", "base_kpa"),
    ("{group}/wiring/area_mm2", "Wire area, first pump group", "area_mm2"),
    ("{option}/feed/part/bore_mm", "Feed bore", "bore_mm"),
    ("{option}/feed/length_m", "Feed length", "length_m"),
)
_IDLE_INPUTS = (
    ("{target}/supply_v", "System voltage", "supply_v"),
    ("{option}/regulator/base_kpa", "Base pressure", "base_kpa"),
    ("{option}/regulator/part/capacity_l_h", "Regulator's wide-open flow", "capacity_l_h"),
    ("{option}/return_line/part/bore_mm", "Return bore", "bore_mm"),
    ("{option}/return_line/length_m", "Return length", "length_m"),
)


def _of(attribute: str, index: int = PEAK, scale: float = 1.0) -> Callable[[TargetVerdict], float]:
    return lambda verdict: float(getattr(verdict.points.hydraulics, attribute)[index]) * scale


def _peak(key: str, label: str, formula: str, attribute: str, scale: float = 1.0, note: str = "") -> SystemFigure:
    return SystemFigure(key, label, formula, _PEAK_INPUTS, _of(attribute, PEAK, scale), note=note)


def _idle(key: str, label: str, formula: str, attribute: str, scale: float = 1.0, note: str = "") -> SystemFigure:
    return SystemFigure(key, label, formula, _IDLE_INPUTS, _of(attribute, IDLE, scale), note=note)


def _line(which: str, index: int) -> Callable[[Context], Values]:
    def read(context: Context) -> Values:
        hyd, fuel, option = context.verdict.points.hydraulics, context.verdict.fuel, context.verdict.option
        flow = through_feed_m3_s(option, hyd) if which == "feed" else hyd.bypass_m3_s
        return {
            "V̇": float(flow[index]) * L_H,
            "d": getattr(option, which).part.bore_mm,
            "ρ": fuel.density_kg_m3,
            "μ": fuel.viscosity_mpa_s,
        }

    return read


def _speed(x: Values) -> float:
    return float(velocity_m_s(x["V̇"] * M3_S_PER_L_H, x["d"]))


def _set(index: int) -> Callable[[Context], Values]:
    def read(context: Context) -> Values:
        regulator = context.verdict.option.regulator
        return {
            "base": regulator.base_kpa,
            "r": regulator.reference_ratio,
            "p_man": float(reference_kpa(packed(context.verdict.option), context.verdict.points.manifold_kpa)[index]),
        }

    return read


def _wide_open(context: Context) -> Values:
    part = context.verdict.option.regulator.part
    return {
        "V̇": float(context.verdict.points.hydraulics.bypass_m3_s[IDLE]) * L_H,
        "V̇_r": part.capacity_l_h,
        "Δp_r": part.capacity_drop_kpa,
    }


_SET_INPUTS = (
    ("base", "Base pressure", "base_kpa"),
    ("r", "Reference ratio", "ratio"),
    ("p_man", "Pressure in the reference line", "manifold_kpa"),
)
_FLOW_INPUTS = (("V̇", "Flow", "flow_l_h"), ("d", "True bore", "bore_mm"))

FIGURES: tuple[AnyFigure, ...] = (
    _peak(
        "pump.rail_kpa",
        "Rail pressure",
        "p_rail = p_set (+ creep), unless overrun or starved",
        "rail_kpa",
        note="When the pumps cannot bring enough, the regulator shuts and the rail sinks until the injectors, at the "
        "pulse meant for the set pressure, pass just what the pumps bring.",
    ),
    _peak(
        "pump.supply_at_set_l_h",
        "Supply at the set pressure",
        "V̇ = Σ pumps at (p_set + feed + filter − p_tank), each at its own voltage",
        "supply_at_set_m3_s",
        L_H,
    ),
    _peak("pump.supply_l_h", "Flow through the pumps", "V̇ = Σ pumps at the rail found", "supply_m3_s", L_H),
    _peak("pump.delivered_l_h", "Fuel delivered", "V̇_eng = V̇ − V̇_bypass", "delivered_m3_s", L_H),
    _peak("pump.bypass_l_h", "Bypassed at peak", "V̇_bypass = V̇ − V̇_eng", "bypass_m3_s", L_H),
    _peak(
        "pump.rise_kpa",
        "Pressure rise across the pumps",
        "Δp = p_rail + feed + filter − p_tank",
        "pump_rise_kpa",
    ),
    _peak(
        "pump.lambda_factor",
        "Lean factor",
        "fuel asked ÷ fuel delivered",
        "lambda_factor",
        note="1 when satisfied; above 1 the mixture is leaner than meant by this factor.",
    ),
    _peak(
        "feed.drop_kpa",
        "Feed drop",
        "Δp = (f × L ÷ d + ΣK) × ρ v² ÷ 2 + ρ × a × L",
        "feed_kpa",
        note=DARCY + FITTINGS + ". The last term is the head lost while the car accelerates.",
    ),
    _peak(
        "feed.passages_kpa",
        "Small passages",
        "Δp = Σ (f × L ÷ d + K) × ρ v² ÷ 2, each at its own bore",
        "passages_kpa",
        note=DARCY,
    ),
    _peak(
        "feed.split_kpa",
        "Split and branches",
        "Δp = (f × L ÷ d + K) × ρ v² ÷ 2 of a branch at its share of the flow",
        "split_kpa",
        note=DARCY
        + ". Rails that meet again behind share the flow so that every branch loses the same; of dead ends the "
        "worst branch counts.",
    ),
    _peak(
        "feed.filter_kpa",
        "Filter drop",
        "Δp = clogging × Δp_r × (s q + (1 − s) q²), q = V̇ ÷ V̇_r",
        "filter_kpa",
    ),
    Figure(
        "feed.velocity_m_s",
        "Velocity in the feed",
        "v = 4 × V̇ ÷ (π × d²)",
        "continuity",
        _FLOW_INPUTS,
        _line("feed", PEAK),
        lambda c, x: _speed(x),
    ),
    Figure(
        "feed.reynolds",
        "Reynolds number in the feed",
        "Re = ρ × v × d ÷ μ",
        "laminar below 2040",
        (*_FLOW_INPUTS, ("ρ", "Density", "density_kg_m3"), ("μ", "Viscosity", "viscosity_mpa_s")),
        _line("feed", PEAK),
        lambda c, x: x["ρ"] * _speed(x) * x["d"] / x["μ"],
    ),
    *(
        Figure(
            key,
            label,
            "p_set = base + r × p_man",
            "reference ratio r: 0 atmosphere, 1 manifold, above 1 rising rate",
            _SET_INPUTS,
            _set(index),
            lambda c, x: float(set_pressure_kpa(x["base"], x["r"], x["p_man"])),
        )
        for key, label, index in (
            ("regulator.set_kpa", "Set pressure at peak", PEAK),
            ("regulator.idle_set_kpa", "Set pressure at idle", IDLE),
        )
    ),
    _idle(
        "regulator.idle_rail_kpa",
        "Rail pressure at idle",
        "p_rail = the higher of p_set and p_floor",
        "rail_kpa",
    ),
    _idle("regulator.idle_bypass_l_h", "Bypassed at idle", "V̇_bypass = V̇ − V̇_idle", "bypass_m3_s", L_H),
    _idle(
        "regulator.idle_floor_kpa",
        "Lowest rail at this bypass",
        "p_floor = p_tank + return + regulator wide open",
        "floor_kpa",
    ),
    _idle(
        "regulator.idle_return_kpa",
        "Return line at idle",
        "Δp = (f × L ÷ d + ΣK) × ρ v² ÷ 2",
        "return_kpa",
        note=DARCY,
    ),
    Figure(
        "regulator.wide_open_kpa",
        "Regulator wide open, at idle",
        "Δp = Δp_r × (V̇ ÷ V̇_r)²",
        "the regulator's own wide-open capacity",
        (
            ("V̇", "Bypassed at idle", "bypass_l_h"),
            ("V̇_r", "Wide-open flow", "capacity_l_h"),
            ("Δp_r", "at a drop of", "capacity_drop_kpa"),
        ),
        _wide_open,
        lambda c, x: float(wide_open_drop_kpa(x["V̇"] * M3_S_PER_L_H, wide_open_k(x["V̇_r"] * M3_S_PER_L_H, x["Δp_r"]))),
    ),
    Figure(
        "regulator.return_velocity_m_s",
        "Velocity in the return at idle",
        "v = 4 × V̇ ÷ (π × d²)",
        "continuity",
        _FLOW_INPUTS,
        _line("return_line", IDLE),
        lambda c, x: _speed(x),
    ),
)
