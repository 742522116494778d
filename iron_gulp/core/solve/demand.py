"""What a target asks: its fuel, engine and limits as arrays of numbers, and fuel demand by every school (physics §2)."""

from dataclasses import dataclass
from typing import Any, Generic, TypeVar

import numpy as np

from ..model import (
    EXPECTED_LAMBDA,
    Build,
    Target,
    base_fuel,
    bsfc_kg_kwh,
    driveline_share,
    expected_bsfc_kg_kwh,
    logged_run,
    remembered_of,
)
from ..physics import (
    GASOLINE,
    Floats,
    air_kg_s,
    array,
    blend_bsfc_kg_kwh,
    crank_power_kw,
    floats,
    fuel_from_air_kg_s,
    fuel_from_measured_kg_s,
    fuel_from_power_kg_s,
    mapped,
)
from ..physics import injectors as inj
from .fuel_state import FuelState, blend_state, fuel_state

CONSUMPTION, AIR_SCHOOL, MEASURED = 0.0, 1.0, 2.0
SCHOOLS = {"consumption": CONSUMPTION, "air": AIR_SCHOOL, "measured": MEASURED}


@dataclass(frozen=True)
class Targets:
    """Targets and what they mean for the fuel system; every array of shape (targets,).

    `logged_kg_s` is the fuel of a logged run a kilowatt at the crank, brought to this fuel; NaN without one, as are the
    logged fuel and air at idle. `expected_kg_kwh` is what the engine should burn on gasoline, at `expected_mixture`.
    Five are the shop's own: shares, kPa and V; the last two the compressor's, NaN where none is said.
    """

    power_kw: Floats
    loss: Floats
    at_crank: Floats
    bsfc_kg_kwh: Floats
    credit: Floats
    boost_kpa: Floats
    rpm: Floats
    mixture: Floats
    ve: Floats
    charge_temp_c: Floats
    supply_v: Floats
    accel_g: Floats
    school: Floats
    logged_kg_s: Floats
    stoich_afr: Floats
    lhv_mj_kg: Floats
    density_kg_m3: Floats
    viscosity_mpa_s: Floats
    vapour_kpa_abs: Floats
    displacement_l: Floats
    idle_rpm: Floats
    idle_manifold_kpa: Floats
    idle_ve: Floats
    idle_mixture: Floats
    idle_logged_kg_s: Floats
    idle_air_kg_s: Floats
    barometer_kpa: Floats
    expected_kg_kwh: Floats
    expected_mixture: Floats
    duty_limit: Floats
    headroom: Floats
    feed_drop_kpa: Floats
    return_drop_kpa: Floats
    wire_drop_v: Floats
    compressor_kg_s: Floats
    intake_c: Floats


Kept = TypeVar("Kept")


@dataclass(frozen=True)
class Demand(Generic[Kept]):
    """Fuel demand of a target by each school, kg/s, and what leads to it; `chosen_kg_s` sizes the system.

    Plain numbers for one target, arrays of shape (targets,) for many; `measured_kg_s` is None (NaN among many) without a
    log.
    """

    loss: Kept
    crank_kw: Kept
    gasoline_bsfc_kg_kwh: Kept
    blend_bsfc_kg_kwh: Kept
    consumption_kg_s: Kept
    ve: Kept
    manifold_kpa_abs: Kept
    air_kg_s: Kept
    air_needed_kg_s: Kept
    air_school_kg_s: Kept
    measured_kg_s: Kept | None
    chosen_kg_s: Kept
    air_limited_power_kw: Kept
    disagreement: Kept
    idle_kg_s: Kept


def one_demand(rows: Demand[Floats], index: int) -> Demand[float]:
    """One target of many, as plain numbers."""
    values: dict[str, Any] = {name: float(getattr(rows, name)[index]) for name in rows.__dataclass_fields__}
    if np.isnan(values["measured_kg_s"]):
        values["measured_kg_s"] = None
    return Demand(**values)


def targets_of(build: Build, target: Target) -> Targets:
    """A target of a build as a set of one."""
    kept = remembered_of(target, _asking(build), "rows", lambda: _targets_of(build, target))
    # Sets are joined by identity: what is the very same in all of them counts as one.
    return mapped(kept, np.copy)


def _asking(build: Build) -> tuple[object, ...]:
    """All of a build that has a part in what a target asks for: its fuel systems have none."""
    return build.car, build.engine, build.rules, build.fuels, build.measured, build.pulls


def _targets_of(build: Build, target: Target) -> Targets:
    fuel, engine, rules = fuel_state(build, target), build.engine, build.rules
    return Targets(
        power_kw=array(target.power_kw),
        loss=array(driveline_share(build)),
        at_crank=array(float(target.power_at == "crank")),
        bsfc_kg_kwh=array(bsfc_kg_kwh(target, engine)),
        credit=array(target.efficiency_credit_pct / 100.0),
        boost_kpa=array(target.boost_kpa),
        rpm=array(target.rpm),
        mixture=array(target.lambda_),
        ve=array((engine.ve_pct if target.ve_pct is None else target.ve_pct) / 100.0),
        charge_temp_c=array(target.charge_temp_c),
        supply_v=array(target.supply_v),
        accel_g=array(target.accel_g),
        school=array(SCHOOLS[target.school]),
        logged_kg_s=array(_logged_kg_s(build, target, fuel)),
        stoich_afr=array(fuel.stoich_afr),
        lhv_mj_kg=array(fuel.lhv_mj_kg),
        density_kg_m3=array(fuel.density_kg_m3),
        viscosity_mpa_s=array(fuel.viscosity_mpa_s),
        vapour_kpa_abs=array(fuel.vapour_kpa_abs),
        displacement_l=array(engine.displacement_l),
        idle_rpm=array(engine.idle_rpm),
        idle_manifold_kpa=array(engine.idle_manifold_kpa),
        idle_ve=array(engine.idle_ve_pct / 100.0),
        idle_mixture=array(engine.idle_lambda),
        idle_logged_kg_s=array(np.nan if engine.idle_fuel_kg_h is None else engine.idle_fuel_kg_h / 3600.0),
        idle_air_kg_s=array(np.nan if engine.idle_air_g_s is None else engine.idle_air_g_s / 1000.0),
        barometer_kpa=array(build.car.barometer_kpa),
        expected_kg_kwh=array(expected_bsfc_kg_kwh(target, engine)),
        expected_mixture=array(EXPECTED_LAMBDA[engine.induction]),
        duty_limit=array(rules.duty_limit_pct / 100.0),
        headroom=array(rules.headroom_pct / 100.0),
        feed_drop_kpa=array(rules.feed_drop_kpa),
        return_drop_kpa=array(rules.return_drop_kpa),
        wire_drop_v=array(rules.wire_drop_v),
        compressor_kg_s=array(np.nan if engine.compressor_kg_s is None else engine.compressor_kg_s),
        intake_c=array(engine.intake_c),
    )


def _logged_kg_s(build: Build, target: Target, fuel: FuelState) -> float:
    """Fuel of the logged run a kilowatt at the crank, brought to this fuel's heating value; NaN without one."""
    run = logged_run(build)
    if run is None:
        return float("nan")
    then = blend_state(base_fuel(build, run.base_fuel), run.ethanol_pct, run.fuel_temp_c)
    flow = inj.open_flow_kg_s(run.injector_cc_min, run.injector_rated_kpa, run.differential_kpa, then.density_kg_m3)
    logged_crank = float(crank_power_kw(run.power_kw, driveline_share(build)))
    dead_share = run.squirts * run.dead_time_ms / inj.cycle_ms(run.rpm)
    lhv_ratio = then.lhv_mj_kg / fuel.lhv_mj_kg
    duty_share, count = run.duty_pct / 100.0, build.engine.cylinders
    return float(fuel_from_measured_kg_s(flow, duty_share, dead_share, count, 1.0 / logged_crank, lhv_ratio))


def demand_of(targets: Targets) -> Demand[Floats]:
    """Demand of many targets by the three schools."""
    crank = np.where(targets.at_crank > 0, targets.power_kw, crank_power_kw(targets.power_kw, targets.loss))
    bsfc = blend_bsfc_kg_kwh(targets.bsfc_kg_kwh, GASOLINE.lhv_mj_kg, targets.lhv_mj_kg, targets.credit)
    by_power = fuel_from_power_kg_s(crank, bsfc)
    manifold_abs = floats(targets.barometer_kpa + targets.boost_kpa)
    air = air_kg_s(targets.displacement_l, targets.rpm, targets.ve, manifold_abs, targets.charge_temp_c)
    expected = blend_bsfc_kg_kwh(targets.expected_kg_kwh, GASOLINE.lhv_mj_kg, targets.lhv_mj_kg, targets.credit)
    needed = floats(fuel_from_power_kg_s(crank, expected) * targets.expected_mixture * targets.stoich_afr)
    by_air = fuel_from_air_kg_s(air, targets.mixture, targets.stoich_afr)
    by_log = targets.logged_kg_s * crank
    chosen = np.where(targets.school == AIR_SCHOOL, by_air, by_power)
    chosen = np.where((targets.school == MEASURED) & np.isfinite(by_log), by_log, chosen)
    idle_abs = targets.barometer_kpa + targets.idle_manifold_kpa
    idle_air = air_kg_s(targets.displacement_l, targets.idle_rpm, targets.idle_ve, idle_abs, targets.charge_temp_c)
    idle_air = np.where(np.isfinite(targets.idle_air_kg_s), targets.idle_air_kg_s, idle_air)
    idle = fuel_from_air_kg_s(idle_air, targets.idle_mixture, targets.stoich_afr)
    idle = np.where(np.isfinite(targets.idle_logged_kg_s), targets.idle_logged_kg_s, idle)
    values: dict[str, Any] = {
        "loss": targets.loss,
        "crank_kw": floats(crank),
        "gasoline_bsfc_kg_kwh": targets.bsfc_kg_kwh,
        "blend_bsfc_kg_kwh": bsfc,
        "consumption_kg_s": by_power,
        "ve": targets.ve,
        "manifold_kpa_abs": manifold_abs,
        "air_kg_s": air,
        "air_needed_kg_s": needed,
        "air_school_kg_s": by_air,
        "measured_kg_s": by_log,
        "chosen_kg_s": floats(chosen),
        "air_limited_power_kw": floats(air / needed * targets.power_kw),
        "disagreement": by_air / by_power - 1.0,
        "idle_kg_s": floats(idle),
    }
    return Demand(**values)


def demand(build: Build, target: Target) -> Demand[float]:
    """Demand of one target of a build by the three schools."""
    return remembered_of(target, _asking(build), "demand", lambda: one_demand(demand_of(targets_of(build, target)), 0))
