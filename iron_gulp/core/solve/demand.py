"""What a target asks: its fuel, engine and limits as arrays of numbers, and fuel demand by every school (physics §2)."""

from dataclasses import dataclass
from typing import Any, Generic, TypeVar

import numpy as np

from ..model import (
    LOAD_SHARE,
    Build,
    Option,
    Target,
    base_fuel,
    bsfc_kg_kwh,
    credit_share,
    credit_terms,
    driveline_share,
    expected_bsfc_kg_kwh,
    expected_lambda,
    injects_directly,
    logged_run,
    remembered_of,
    time_at_load_s,
)
from ..physics import (
    GASOLINE,
    Floats,
    Number,
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
from .breathing import MOST_MORE, air_bsfc_kg_kwh, bounding_pull
from .fuel_state import blend_state, fuel_state
from .keeping import of_few

CONSUMPTION, AIR_SCHOOL, MEASURED = 0.0, 1.0, 2.0
OF_PULLS = ("air_kg_kwh", "done_kw", "done_kpa_abs", "done_rpm")  # of a target by the pulls that count
SCHOOLS = {"consumption": CONSUMPTION, "air": AIR_SCHOOL, "measured": MEASURED}


@dataclass(frozen=True)
class Targets:
    """Targets and what they mean for the fuel system; every array of shape (targets,).

    `bsfc_kg_kwh` is what systems are sized for, `expected_kg_kwh` what the engine should burn, both on gasoline, and
    `air_kg_kwh` at `expected_mixture` what it is taken to burn where the air is asked about: fitted to a pull where one
    counts, whose `done_` power, pressure and speed bound what it breathes. The credit on alcohol is `credit` and
    `as_run` times the `ethanol_share` of the mass. `logged_mj_s` is the energy of a logged run's fuel a kilowatt at the
    crank, its credit on it; NaN without one, as are `done_` and the logged fuel and air at idle.
    Five are the shop's own: shares, kPa and V; two the compressor's, NaN where none is said; the last two say how much of
    the time the car is at this load, and for how long at a time.
    """

    power_kw: Floats
    loss: Floats
    at_crank: Floats
    bsfc_kg_kwh: Floats
    credit: Floats
    as_run: Floats
    ethanol_share: Floats
    boost_kpa: Floats
    rpm: Floats
    mixture: Floats
    ve: Floats
    charge_temp_c: Floats
    supply_v: Floats
    accel_g: Floats
    school: Floats
    logged_mj_s: Floats
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
    air_kg_kwh: Floats
    done_kw: Floats
    done_kpa_abs: Floats
    done_rpm: Floats
    duty_limit: Floats
    headroom: Floats
    feed_drop_kpa: Floats
    return_drop_kpa: Floats
    wire_drop_v: Floats
    compressor_kg_s: Floats
    intake_c: Floats
    load_share: Floats
    load_s: Floats


Kept = TypeVar("Kept")


@dataclass(frozen=True)
class Demand(Generic[Kept]):
    """Fuel demand of a target by each school, kg/s, and what leads to it; `chosen_kg_s` sizes the system.

    `expected_kg_s` is what the engine is expected to burn: the same where air or a log size it. `air_needed_kg_s` is
    asked of the air this boost brings, by a pull where one counts; `air_expected_kg_s` is the same by the expected
    consumption alone. `done_kw` is crank power that a pull has shown at this pressure and speed, 0 without one.
    Plain numbers for one target, arrays of shape (targets,) for many; `measured_kg_s` is None (NaN among many) without a
    log.
    """

    loss: Kept
    crank_kw: Kept
    gasoline_bsfc_kg_kwh: Kept
    blend_bsfc_kg_kwh: Kept
    expected_bsfc_kg_kwh: Kept
    credit: Kept
    consumption_kg_s: Kept
    ve: Kept
    manifold_kpa_abs: Kept
    air_kg_s: Kept
    air_needed_kg_s: Kept
    air_expected_kg_s: Kept
    air_school_kg_s: Kept
    measured_kg_s: Kept | None
    chosen_kg_s: Kept
    expected_kg_s: Kept
    done_kw: Kept
    air_limited_power_kw: Kept
    disagreement: Kept
    idle_kg_s: Kept


def one_demand(rows: Demand[Floats], index: int) -> Demand[float]:
    """One target of many, as plain numbers."""
    values: dict[str, Any] = {name: float(getattr(rows, name)[index]) for name in rows.__dataclass_fields__}
    if np.isnan(values["measured_kg_s"]):
        values["measured_kg_s"] = None
    return Demand(**values)


def targets_of(build: Build, target: Target, option: Option | None = None) -> Targets:
    """A target of a build on an option (its first) as a set of one; its way of injecting alone has a part in it."""
    direct = injects_directly(option or build.options[0])
    kept = remembered_of(target, _asking(build), f"rows {direct}", lambda: _targets_of(build, target, direct))
    # Sets are joined by identity: what is the very same in all of them counts as one.
    return mapped(kept, np.ndarray.copy)


def _asking(build: Build) -> tuple[object, ...]:
    """All of a build that has a part in what a target asks for, but for its fuel systems."""
    return build.car, build.engine, build.rules, build.fuels, build.measured, build.pulls


def _targets_of(build: Build, target: Target, direct: bool) -> Targets:
    fuel, engine, rules = fuel_state(build, target), build.engine, build.rules
    credit, as_run = credit_terms(target)
    done = bounding_pull(build, target)
    return Targets(
        power_kw=array(target.power_kw),
        loss=array(driveline_share(build)),
        at_crank=array(float(target.power_at == "crank")),
        bsfc_kg_kwh=array(bsfc_kg_kwh(target, engine, direct)),
        credit=array(credit),
        as_run=array(as_run),
        ethanol_share=array(fuel.mass_fraction),
        boost_kpa=array(target.boost_kpa),
        rpm=array(target.rpm),
        mixture=array(target.lambda_),
        ve=array((engine.ve_pct if target.ve_pct is None else target.ve_pct) / 100.0),
        charge_temp_c=array(target.charge_temp_c),
        supply_v=array(target.supply_v),
        accel_g=array(target.accel_g),
        school=array(SCHOOLS[target.school]),
        logged_mj_s=array(_logged_mj_s(build, target)),
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
        expected_kg_kwh=array(expected_bsfc_kg_kwh(target, engine, direct)),
        expected_mixture=array(expected_lambda(engine, direct)),
        air_kg_kwh=array(air_bsfc_kg_kwh(build, target, direct)),
        done_kw=array(np.nan if done is None else done.crank_kw),
        done_kpa_abs=array(np.nan if done is None else done.kpa_abs),
        done_rpm=array(np.nan if done is None else done.rpm),
        duty_limit=array(rules.duty_limit_pct / 100.0),
        headroom=array(rules.headroom_pct / 100.0),
        feed_drop_kpa=array(rules.feed_drop_kpa),
        return_drop_kpa=array(rules.return_drop_kpa),
        wire_drop_v=array(rules.wire_drop_v),
        compressor_kg_s=array(np.nan if engine.compressor_kg_s is None else engine.compressor_kg_s),
        intake_c=array(engine.intake_c),
        load_share=array(LOAD_SHARE[build.car.use]),
        load_s=array(time_at_load_s(target, build.car)),
    )


def _logged_mj_s(build: Build, target: Target) -> float:
    """Energy of the logged run's fuel a kilowatt at the crank, with its credit, MJ/s; NaN without one."""
    run = logged_run(build)
    if run is None:
        return float("nan")
    then = blend_state(base_fuel(build, run.base_fuel), run.ethanol_pct, run.fuel_temp_c)
    flow = inj.open_flow_kg_s(run.injector_cc_min, run.injector_rated_kpa, run.differential_kpa, then.density_kg_m3)
    logged_crank = float(crank_power_kw(run.power_kw, driveline_share(build)))
    dead_share = run.squirts * run.dead_time_ms / inj.cycle_ms(run.rpm)
    duty_share, count = run.duty_pct / 100.0, build.engine.cylinders
    energy = then.lhv_mj_kg * (1.0 + credit_share(target, then.mass_fraction))
    return float(fuel_from_measured_kg_s(flow, duty_share, dead_share, count, 1.0 / logged_crank, energy))


def demand_of(targets: Targets) -> Demand[Floats]:
    """Demand of many targets by the three schools; kept where they are few, for most edits leave targets as they were."""
    return of_few("demand", targets, targets.power_kw.size, lambda: _demand_of(targets))


def _demand_of(targets: Targets) -> Demand[Floats]:
    crank = np.where(targets.at_crank > 0, targets.power_kw, crank_power_kw(targets.power_kw, targets.loss))
    credit = floats(targets.credit + targets.as_run * targets.ethanol_share)

    def on_blend(gasoline_kg_kwh: Floats) -> Floats:
        return blend_bsfc_kg_kwh(gasoline_kg_kwh, GASOLINE.lhv_mj_kg, targets.lhv_mj_kg, credit)

    bsfc, expected_bsfc = on_blend(targets.bsfc_kg_kwh), on_blend(targets.expected_kg_kwh)
    by_power = fuel_from_power_kg_s(crank, bsfc)
    manifold_abs = floats(targets.barometer_kpa + targets.boost_kpa)
    air = air_kg_s(targets.displacement_l, targets.rpm, targets.ve, manifold_abs, targets.charge_temp_c)
    expected = fuel_from_power_kg_s(crank, expected_bsfc)
    burning = floats(targets.expected_mixture * targets.stoich_afr)
    needed = floats(fuel_from_power_kg_s(crank, on_blend(targets.air_kg_kwh)) * burning)
    done = _done_kw(targets, manifold_abs)
    breathes = floats(np.maximum(air / needed * crank, done) / crank)
    by_air = fuel_from_air_kg_s(air, targets.mixture, targets.stoich_afr)
    by_log = floats(targets.logged_mj_s * crank / (targets.lhv_mj_kg * (1.0 + credit)))

    def by_school(by_consumption: Floats) -> Floats:
        chosen = np.where(targets.school == AIR_SCHOOL, by_air, by_consumption)
        return floats(np.where((targets.school == MEASURED) & np.isfinite(by_log), by_log, chosen))

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
        "expected_bsfc_kg_kwh": expected_bsfc,
        "credit": credit,
        "consumption_kg_s": by_power,
        "ve": targets.ve,
        "manifold_kpa_abs": manifold_abs,
        "air_kg_s": air,
        "air_needed_kg_s": needed,
        "air_expected_kg_s": floats(expected * burning),
        "air_school_kg_s": by_air,
        "measured_kg_s": by_log,
        "chosen_kg_s": by_school(by_power),
        "expected_kg_s": by_school(expected),
        "done_kw": done,
        "air_limited_power_kw": floats(breathes * targets.power_kw),
        "disagreement": by_air / by_power - 1.0,
        "idle_kg_s": floats(idle),
    }
    return Demand(**values)


CRUISE_SPEED, CRUISE_KPA = 0.36, -38.0  # of the target's speed; gauge (physics §9)


def enriched_at(target_kpa_abs: Number, manifold_kpa_abs: Number) -> Floats:
    """How far mixture and demand have gone over to the target's at an absolute pressure, 0…1 (physics §6)."""
    return floats(np.clip(2.0 * floats(manifold_kpa_abs) / floats(target_kpa_abs) - 1.0, 0.0, 1.0))


def cruise_kg_s(targets: Targets, wanted: Demand[Floats]) -> Floats:
    """Fuel at cruise by the operating field, kg/s (physics §6, §9)."""

    def cruise() -> Floats:
        return field_kg_s(targets, wanted, floats(CRUISE_SPEED * targets.rpm), floats(CRUISE_KPA))

    return of_few("cruise", (targets, wanted.chosen_kg_s, wanted.air_school_kg_s), targets.power_kw.size, cruise)


def field_kg_s(targets: Targets, wanted: Demand[Floats], rpm: Floats, manifold_kpa: Floats) -> Floats:
    """Fuel wanted by targets at a speed and a manifold pressure by the operating field, kg/s (physics §6)."""
    pressure = floats(targets.barometer_kpa + manifold_kpa)
    idle_abs = targets.barometer_kpa + targets.idle_manifold_kpa
    span = wanted.manifold_kpa_abs - idle_abs
    way = np.where(span > 0, np.clip((pressure - idle_abs) / np.where(span > 0, span, 1.0), 0.0, 1.0), 1.0)
    ve = targets.idle_ve + (targets.ve - targets.idle_ve) * way * way * (3.0 - 2.0 * way)
    enriched = enriched_at(wanted.manifold_kpa_abs, pressure)
    air = air_kg_s(targets.displacement_l, rpm, floats(ve), pressure, targets.charge_temp_c)
    plain = fuel_from_air_kg_s(air, floats(1.0 + (targets.mixture - 1.0) * enriched), targets.stoich_afr)
    return floats(plain * (1.0 + (wanted.chosen_kg_s / wanted.air_school_kg_s - 1.0) * enriched))


def _done_kw(targets: Targets, manifold_abs: Floats) -> Floats:
    """Crank power that a pull has shown at this pressure and speed, kW; 0 without one. Scaled up by little only."""
    pressure = np.minimum(manifold_abs / targets.done_kpa_abs, MOST_MORE)
    return floats(np.nan_to_num(targets.done_kw * pressure * np.minimum(targets.rpm / targets.done_rpm, MOST_MORE)))


def demand(build: Build, target: Target, option: Option | None = None) -> Demand[float]:
    """Demand of one target of a build on an option (its first) by the three schools."""
    direct = injects_directly(option or build.options[0])
    return remembered_of(
        target,
        _asking(build),
        f"demand {direct}",
        lambda: one_demand(demand_of(targets_of(build, target, option)), 0),
    )
