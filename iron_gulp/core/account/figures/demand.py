"""Figures of fuel demand by the three schools."""

from ...model import base_fuel, credit_share, expected_lambda, injects_directly, logged_run
from ...physics import GASOLINE, blend
from ...physics import demand as dem
from ...physics import injectors as inj
from ...solve import air_bsfc_kg_kwh
from .base import AnyFigure, Context, Figure, Values

SOURCE = "Heywood, Internal Combustion Engine Fundamentals, ch. 2"


def _crank(context: Context) -> Values:
    target, demand = context.verdict.target, context.verdict.demand
    return {"P": target.power_kw, "loss": demand.loss * 100.0 if target.power_at == "wheels" else 0.0}


def _bsfc(context: Context) -> Values:
    demand, fuel = context.verdict.demand, context.verdict.fuel
    return {
        "b_gasoline": demand.gasoline_bsfc_kg_kwh,
        "LHV_gasoline": GASOLINE.lhv_mj_kg,
        "LHV": fuel.lhv_mj_kg,
        "credit": demand.credit * 100.0,
    }


def _air(context: Context) -> Values:
    target, demand = context.verdict.target, context.verdict.demand
    return {
        "VE": demand.ve * 100.0,
        "p": demand.manifold_kpa_abs,
        "V": context.build.engine.displacement_l,
        "n": target.rpm,
        "t": target.charge_temp_c,
    }


def _air_power(context: Context) -> Values:
    verdict, engine = context.verdict, context.build.engine
    direct = injects_directly(verdict.option)
    target, demand, fuel = verdict.target, verdict.demand, verdict.fuel
    plain = air_bsfc_kg_kwh(context.build, target, direct)
    return {
        "P": target.power_kw,
        "ṁ_air": demand.air_kg_s * 3600.0,
        "P_crank": demand.crank_kw,
        "b": float(dem.blend_bsfc_kg_kwh(plain, GASOLINE.lhv_mj_kg, fuel.lhv_mj_kg, demand.credit)),
        "λ": expected_lambda(engine, direct),
        "AFR": fuel.stoich_afr,
        "P_done": _done_kw(context),
    }


def _done_kw(context: Context) -> float:
    """Power, as the target quotes it, that a pull has shown at its pressure and speed, kW; 0 without one."""
    target, demand = context.verdict.target, context.verdict.demand
    return demand.done_kw / demand.crank_kw * target.power_kw


def _idle(context: Context) -> Values:
    engine = context.build.engine
    return {
        "VE": engine.idle_ve_pct,
        "p": context.build.car.barometer_kpa + engine.idle_manifold_kpa,
        "V": engine.displacement_l,
        "n": engine.idle_rpm,
        "t": context.verdict.target.charge_temp_c,
        "λ": engine.idle_lambda,
        "AFR": context.verdict.fuel.stoich_afr,
    }


def _idle_kg_h(context: Context, x: Values) -> float:
    """Fuel at idle: what was logged stands for what is computed."""
    engine = context.build.engine
    if engine.idle_fuel_kg_h is not None:
        return engine.idle_fuel_kg_h
    air = _air_kg_h(x) if engine.idle_air_g_s is None else engine.idle_air_g_s * 3.6
    return air / x["λ"] / x["AFR"]


def _air_kg_h(x: Values) -> float:
    return float(dem.air_kg_s(x["V"], x["n"], x["VE"] / 100.0, x["p"], x["t"])) * 3600.0


def _measured(context: Context) -> Values:
    run = logged_run(context.build)
    if run is None:
        raise KeyError("no measured run is entered")
    then = blend(run.ethanol_pct / 100.0, run.fuel_temp_c, base_fuel(context.build, run.base_fuel))
    flow = inj.open_flow_kg_s(run.injector_cc_min, run.injector_rated_kpa, run.differential_kpa, then.density_kg_m3)
    return {
        "q": float(flow) * 3600.0,
        "D": run.duty_pct,
        "t_d": run.squirts * run.dead_time_ms,
        "n": run.rpm,
        "N": context.build.engine.cylinders,
        "P": context.verdict.demand.crank_kw,
        "credit_log": credit_share(context.verdict.target, float(then.mass_fraction)) * 100.0,
        "credit": context.verdict.demand.credit * 100.0,
        "P_log": float(dem.crank_power_kw(run.power_kw, context.verdict.demand.loss)),
        "LHV_log": float(then.lhv_mj_kg),
        "LHV": context.verdict.fuel.lhv_mj_kg,
    }


def _scaled(x: Values) -> float:
    return float(
        dem.fuel_from_measured_kg_s(
            x["q"],
            x["D"] / 100.0,
            x["t_d"] / inj.cycle_ms(x["n"]),
            x["N"],
            x["P"] / x["P_log"],
            x["LHV_log"] / x["LHV"] * (1.0 + x["credit_log"] / 100.0) / (1.0 + x["credit"] / 100.0),
        )
    )


_AIR_INPUTS = (
    ("VE", "Volumetric efficiency", "ve_pct"),
    ("p", "Manifold pressure, absolute", "manifold_kpa_abs"),
    ("V", "Displacement", "displacement_l"),
    ("n", "Engine speed", "rpm"),
    ("t", "Charge temperature", "charge_temp_c"),
)

FIGURES: tuple[AnyFigure, ...] = (
    Figure(
        "demand.crank_kw",
        "Crank power",
        "P_crank = P ÷ (1 − loss)",
        "driveline loss by layout (FWD 14, RWD 16, AWD 21 %) unless measured",
        (("P", "Power wanted", "power_kw"), ("loss", "Driveline loss", "loss_pct")),
        _crank,
        lambda c, x: float(dem.crank_power_kw(x["P"], x["loss"] / 100.0)),
    ),
    Figure(
        "demand.blend_bsfc_kg_kwh",
        "Consumption on this blend",
        "b = b_gasoline × LHV_gasoline ÷ LHV ÷ (1 + credit)",
        SOURCE,
        (
            ("b_gasoline", "Consumption on gasoline", "bsfc_kg_kwh"),
            ("LHV_gasoline", "Heating value of gasoline", "lhv_mj_kg"),
            ("LHV", "Heating value of the blend", "lhv_mj_kg"),
            ("credit", "Efficiency credit", "credit_pct"),
        ),
        _bsfc,
        lambda c, x: float(dem.blend_bsfc_kg_kwh(x["b_gasoline"], x["LHV_gasoline"], x["LHV"], x["credit"] / 100.0)),
    ),
    Figure(
        "demand.expected_kg_h",
        "Fuel expected",
        "ṁ = P_crank × b_expected",
        "what such engines are found to burn, ± 8 %; the sizing figure holds a reserve on it",
        (("P_crank", "Crank power", "crank_kw"), ("b_expected", "Expected consumption on this blend", "bsfc_kg_kwh")),
        lambda c: {"P_crank": c.verdict.demand.crank_kw, "b_expected": c.verdict.demand.expected_bsfc_kg_kwh},
        lambda c, x: float(dem.fuel_from_power_kg_s(x["P_crank"], x["b_expected"])) * 3600.0,
    ),
    Figure(
        "demand.consumption_kg_h",
        "Fuel by consumption, sizing",
        "ṁ = P_crank × b",
        SOURCE,
        (("P_crank", "Crank power", "crank_kw"), ("b", "Consumption on this blend", "bsfc_kg_kwh")),
        lambda c: {"P_crank": c.verdict.demand.crank_kw, "b": c.verdict.demand.blend_bsfc_kg_kwh},
        lambda c, x: float(dem.fuel_from_power_kg_s(x["P_crank"], x["b"])) * 3600.0,
    ),
    Figure(
        "demand.air_kg_h",
        "Air swallowed",
        "ṁ_air = VE × p × V × n ÷ (2 × R × (t + 273.15))",
        SOURCE + "; R = 287.05 J/(kg K)",
        _AIR_INPUTS,
        _air,
        lambda c, x: _air_kg_h(x),
    ),
    Figure(
        "demand.air_school_kg_h",
        "Fuel by air mass",
        "ṁ = ṁ_air ÷ (λ × AFR)",
        SOURCE,
        (
            ("ṁ_air", "Air swallowed", "air_kg_h"),
            ("λ", "Mixture", "lambda"),
            ("AFR", "Stoichiometric ratio", "stoich_afr"),
        ),
        lambda c: {
            "ṁ_air": c.verdict.demand.air_kg_s * 3600.0,
            "λ": c.verdict.target.lambda_,
            "AFR": c.verdict.fuel.stoich_afr,
        },
        lambda c, x: float(dem.fuel_from_air_kg_s(x["ṁ_air"], x["λ"], x["AFR"])),
    ),
    Figure(
        "demand.measured_kg_h",
        "Fuel from the logged run",
        "ṁ = q × (D − t_d ÷ (120 ÷ n)) × N × P ÷ P_log × LHV_log ÷ LHV × (1 + credit_log) ÷ (1 + credit)",
        "scaled from a log of this car; injector flow after SAE J1832",
        (
            ("q", "One injector held open, then", "open_kg_h"),
            ("D", "Logged duty", "duty_pct"),
            ("t_d", "Dead time, all openings of a cycle", "dead_ms"),
            ("n", "Logged engine speed", "rpm"),
            ("N", "Injectors", "count"),
            ("P", "Crank power wanted", "crank_kw"),
            ("P_log", "Crank power logged", "crank_kw"),
            ("LHV_log", "Heating value then", "lhv_mj_kg"),
            ("LHV", "Heating value now", "lhv_mj_kg"),
            ("credit_log", "Efficiency credit then", "credit_pct"),
            ("credit", "Efficiency credit now", "credit_pct"),
        ),
        _measured,
        lambda c, x: _scaled(x),
    ),
    Figure(
        "demand.volume_l_h",
        "Volume at fuel temperature",
        "V̇ = ṁ ÷ ρ",
        "by the school chosen for this target",
        (("ṁ", "Fuel sized for", "fuel_kg_h"), ("ρ", "Density", "density_kg_m3")),
        lambda c: {"ṁ": c.verdict.demand.chosen_kg_s * 3600.0, "ρ": c.verdict.fuel.density_kg_m3},
        lambda c, x: x["ṁ"] / x["ρ"] * 1000.0,
    ),
    Figure(
        "demand.air_power_kw",
        "Power this air supports",
        "P_air = max(P × ṁ_air ÷ (P_crank × b × λ × AFR), P_done)",
        "expected consumption ± 8 % and the mixture that makes power, by engine; fitted to a pull where one counts",
        (
            ("P", "Power wanted", "power_kw"),
            ("ṁ_air", "Air swallowed", "air_kg_h"),
            ("P_crank", "Crank power", "crank_kw"),
            ("b", "Expected consumption on this blend", "bsfc_kg_kwh"),
            ("λ", "Mixture that makes power", "lambda"),
            ("AFR", "Stoichiometric ratio", "stoich_afr"),
            ("P_done", "Shown by a pull at this pressure and speed", "power_kw"),
        ),
        _air_power,
        lambda c, x: max(x["P"] * x["ṁ_air"] / (x["P_crank"] * x["b"] * x["λ"] * x["AFR"]), x["P_done"]),
    ),
    Figure(
        "demand.idle_kg_h",
        "Fuel at idle",
        "ṁ = VE × p × V × n ÷ (2 × R × (t + 273.15)) ÷ (λ × AFR), unless logged",
        SOURCE,
        (*_AIR_INPUTS, ("λ", "Mixture", "lambda"), ("AFR", "Stoichiometric ratio", "stoich_afr")),
        _idle,
        _idle_kg_h,
    ),
)
