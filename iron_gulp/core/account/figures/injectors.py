"""Figures of the injectors."""

from collections.abc import Callable

from ...model import InjectorSet
from ...physics import M3_S_PER_L_H
from ...physics import injectors as inj
from ...solve import IDLE, PEAK, injector_count, outlet_kpa, packed, pulsation_kpa, rail_drop_kpa, rails_joined
from .base import AnyFigure, Context, Figure, Values

J1832 = "SAE J1832 (rated on n-heptane, 684 kg/m³ at 20 °C); orifice law"


def _fitted(context: Context) -> InjectorSet:
    fitted = context.verdict.option.injectors
    if fitted is None:
        raise KeyError("a carburettor has no injectors")
    return fitted


def _flow(context: Context) -> Values:
    part = _fitted(context).part
    return {
        "Q": part.heptane_cc_min,
        "p_r": part.rated_pressure_kpa,
        "Δp": float(context.verdict.points.hydraulics.differential_kpa[PEAK]),
        "ρ": context.verdict.fuel.density_kg_m3,
    }


def _pulse(index: int) -> Callable[[Context], Values]:
    def read(context: Context) -> Values:
        points, count = (
            context.verdict.points,
            injector_count(context.build, _fitted(context)),
        )
        effective = float(points.effective_ms[index])
        per_cycle_g = float(points.first_kg_s[index]) * 1e3 / count * 120.0 / float(points.rpm[index])
        return {
            "ṁ": float(points.first_kg_s[index]) * 3600.0,
            "N": count,
            "n": float(points.rpm[index]),
            # The flow the pulse is meant for: the controller does not know of a sunk rail.
            "q": per_cycle_g / (effective * _fitted(context).squirts) * 1e3 if effective > 0 else 0.0,
            "s": _fitted(context).squirts,
            "t_d": float(points.dead_ms[index]),
        }

    return read


def _effective(x: Values) -> float:
    return float(inj.effective_pulse_ms(x["ṁ"] / 3600.0, x["N"], x["n"], x["q"] * 1e-3)) / x["s"]


def _required(context: Context) -> Values:
    part, engine = _fitted(context).part, context.build.engine
    flow = inj.open_flow_kg_s(
        part.heptane_cc_min,
        part.rated_pressure_kpa,
        context.verdict.option.regulator.base_kpa,
        context.verdict.fuel.density_kg_m3,
    )
    return {
        "V": engine.displacement_l,
        "N": engine.cylinders,
        "AFR": context.verdict.fuel.stoich_afr,
        "q": float(flow) * 1e3,
    }


_PULSE_INPUTS = (
    ("ṁ", "Fuel", "fuel_kg_h"),
    ("N", "Injectors", "count"),
    ("n", "Engine speed", "rpm"),
    ("q", "One injector held open, at the pressure meant", "open_g_s"),
    ("s", "Squirts a cycle", "count"),
)
_DEAD = ("t_d", "Dead time", "dead_ms")


def _across(context: Context) -> Values:
    verdict = context.verdict
    outlet = float(outlet_kpa(packed(verdict.option), verdict.points.manifold_kpa)[PEAK])
    # A regulator of the port rail's own holds less than the node it draws from.
    return {"p_rail": float(verdict.points.hydraulics.differential_kpa[PEAK]) + outlet, "p_outlet": outlet}


def _rail(context: Context) -> Values:
    rail, fuel, hyd = context.verdict.option.rail, context.verdict.fuel, context.verdict.points.hydraulics
    joined, direct = rails_joined(context.verdict.option), context.verdict.points.direct
    # What high-pressure pumps draw leaves at the node, before the port rail.
    drawn = 0.0 if direct is None else sum(float(one.delivered_kg_s[PEAK]) for one in direct.pumps) / fuel.density_kg_m3
    return {
        "V̇": (float((hyd.supply_m3_s if joined else hyd.delivered_m3_s)[PEAK]) - drawn) / M3_S_PER_L_H,
        "V̇_e": float(hyd.bypass_m3_s[PEAK]) / M3_S_PER_L_H if joined else 0.0,
        "d": rail.bore_mm,
        "L": rail.length_m,
        "ρ": fuel.density_kg_m3,
        "μ": fuel.viscosity_mpa_s,
    }


def _rail_drop(context: Context, x: Values) -> float:
    rail = context.verdict.option.rail.model_copy(update={"bore_mm": x["d"], "length_m": x["L"]})
    return float(rail_drop_kpa(rail, x["V̇"] * M3_S_PER_L_H, x["ρ"], x["μ"], x["V̇_e"] * M3_S_PER_L_H))


def _swing(context: Context) -> Values:
    points, rail = context.verdict.points, context.verdict.option.rail
    opened = float(points.effective_ms[PEAK]) / float(points.cycle_ms[PEAK])
    return {
        "q": float(points.open_kg_s[PEAK]) / context.verdict.fuel.density_kg_m3 / M3_S_PER_L_H,
        "N": float(injector_count(context.build, _fitted(context))),
        "D": min(opened, 1.0) * 100.0,
        "T": float(points.cycle_ms[PEAK]),
        "d": rail.bore_mm,
        "L": rail.length_m,
    }


def _swing_kpa(context: Context, x: Values) -> float:
    rail = context.verdict.option.rail.model_copy(update={"bore_mm": x["d"], "length_m": x["L"]})
    return float(pulsation_kpa(rail, x["q"] * M3_S_PER_L_H, x["N"], x["D"] / 100.0, x["T"] / 1e3))


FIGURES: tuple[AnyFigure, ...] = (
    Figure(
        "injector.rail_drop_kpa",
        "Along the rail",
        "Δp = f × L ÷ d × ρ v² ÷ 2 × (1 + r + r²) ÷ 3, r = V̇_e ÷ V̇",
        "Darcy–Weisbach with flow leaving evenly; a centre entry halves flow and length",
        (
            ("V̇", "Flow into the rails", "flow_l_h"),
            ("V̇_e", "leaving at their ends", "flow_l_h"),
            ("d", "Rail bore", "bore_mm"),
            ("L", "Rail length", "length_m"),
            ("ρ", "Density", "density_kg_m3"),
            ("μ", "Viscosity", "viscosity_mpa_s"),
        ),
        _rail,
        _rail_drop,
    ),
    Figure(
        "injector.pulsation_kpa",
        "Pulsation, rough estimate",
        "Δp = q × T ÷ N × x (1 − x) ÷ (π ÷ 4 × d² × L) × 30 MPa, x = fraction of N × D",
        "steady supply, evenly spaced injectors of one rail against its volume; the stiffness is a class figure",
        (
            ("q", "One injector held open", "flow_l_h"),
            ("N", "Injectors", "count"),
            ("D", "Open without dead time", "duty_pct"),
            ("T", "Cycle", "cycle_ms"),
            ("d", "Rail bore", "bore_mm"),
            ("L", "Rail length", "length_m"),
        ),
        _swing,
        _swing_kpa,
        "A rough estimate: wave effects, dampers and hose stiffness decide. Measure before acting on it.",
    ),
    Figure(
        "injector.differential_kpa",
        "Pressure across the injectors",
        "Δp = p_rail − p_outlet",
        "gauge pressures",
        (("p_rail", "Rail pressure", "rail_kpa"), ("p_outlet", "Pressure sprayed into", "manifold_kpa")),
        _across,
        lambda c, x: x["p_rail"] - x["p_outlet"],
    ),
    Figure(
        "injector.open_g_s",
        "One injector held open",
        "q = Q × 684 × √(Δp ÷ p_r) × √(ρ ÷ 684)",
        J1832,
        (
            ("Q", "Rated flow, as n-heptane", "rated_flow_cc_min"),
            ("p_r", "Rated at", "rated_kpa"),
            ("Δp", "Pressure across it", "differential_kpa"),
            ("ρ", "Density of the fuel", "density_kg_m3"),
        ),
        _flow,
        lambda c, x: float(inj.open_flow_kg_s(x["Q"], x["p_r"], x["Δp"], x["ρ"])) * 1e3,
    ),
    Figure(
        "injector.pulse_ms",
        "Pulse width",
        "t = ṁ ÷ N × (120 ÷ n) ÷ q ÷ s + t_d",
        J1832 + "; four-stroke cycle",
        (*_PULSE_INPUTS, _DEAD),
        _pulse(PEAK),
        lambda c, x: _effective(x) + x["t_d"],
    ),
    Figure(
        "injector.duty_pct",
        "Injector duty",
        "D = s × (ṁ ÷ N × (120 ÷ n) ÷ q ÷ s + t_d) ÷ (120 ÷ n)",
        J1832 + "; four-stroke cycle",
        (*_PULSE_INPUTS, _DEAD),
        _pulse(PEAK),
        lambda c, x: float(inj.duty(_effective(x) * x["s"], x["t_d"] * x["s"], x["n"])) * 100.0,
        "Dead time is part of the duty: size for the limit with it in.",
    ),
    Figure(
        "injector.idle_pulse_ms",
        "Pulse at idle, without dead time",
        "t = ṁ ÷ N × (120 ÷ n) ÷ q ÷ s",
        J1832 + "; four-stroke cycle",
        _PULSE_INPUTS,
        _pulse(IDLE),
        lambda c, x: _effective(x),
        "Must exceed the injector's smallest repeatable pulse on the fuel that needs the least.",
    ),
    Figure(
        "injector.required_fuel_ms",
        "Full-cylinder pulse",
        "t = p₀ × V ÷ N ÷ (R × T₀) ÷ AFR ÷ q",
        "speed–density scalar: one filling at 100 % VE, p₀ 101.325 kPa, T₀ 21.1 °C, λ 1, without dead time",
        (
            ("V", "Displacement", "displacement_l"),
            ("N", "Cylinders", "count"),
            ("AFR", "Stoichiometric ratio", "stoich_afr"),
            ("q", "One injector held open, at base pressure", "open_g_s"),
        ),
        _required,
        lambda c, x: float(inj.required_fuel_ms(x["V"] / x["N"], x["q"] * 1e-3, x["AFR"])),
        "For the controller's base scalar; the strongest sanity check after an injector change.",
    ),
)
