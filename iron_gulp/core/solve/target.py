"""One duty on one option: demand by all schools, the coupled solution at peak and at idle, and sweeps for charts."""

from dataclasses import dataclass

import numpy as np
from numpy.typing import NDArray

from ..model import Build, Duty, InjectorSet, Option, base_fuel, bsfc_kg_kwh, driveline_loss
from ..physics import (
    ATM_KPA,
    Floats,
    Number,
    air_kg_s,
    blend_bsfc_kg_kwh,
    crank_power_kw,
    floats,
    fuel_from_air_kg_s,
    fuel_from_measured_kg_s,
    fuel_from_power_kg_s,
    set_pressure_kpa,
)
from ..physics import injectors as inj
from .carburettors import needle_flow_kg_s
from .fuel_state import FuelState, blend_state, fuel_state
from .hydraulics import Hydraulics, Points, State, running_groups, signals_at, solve
from .systems import packed


@dataclass(frozen=True)
class Demand:
    """Fuel demand of a duty by each school, kg/s, and what leads to it; `chosen_kg_s` sizes the system."""

    loss: float
    crank_kw: float
    gasoline_bsfc_kg_kwh: float
    blend_bsfc_kg_kwh: float
    consumption_kg_s: float
    ve: float
    manifold_kpa_abs: float
    air_kg_s: float
    air_school_kg_s: float
    measured_kg_s: float | None
    chosen_kg_s: float
    air_limited_crank_kw: float
    air_limited_power_kw: float
    disagreement: float
    idle_kg_s: float


@dataclass(frozen=True)
class PointSolution:
    """Hydraulics and injectors at operating points; arrays of shape (points,)."""

    rpm: Floats
    manifold_kpa: Floats
    demand_kg_s: Floats
    hydraulics: Hydraulics
    open_at_set_kg_s: Floats
    open_kg_s: Floats
    dead_ms: Floats
    effective_ms: Floats
    pulse_ms: Floats
    cycle_ms: Floats
    duty: Floats


def demand(build: Build, duty: Duty) -> Demand:
    """Demand of a duty by the three schools (physics §2)."""
    fuel, engine = fuel_state(build, duty), build.engine
    loss = driveline_loss(build.car)
    crank = float(crank_power_kw(duty.power_kw, loss)) if duty.power_at == "wheels" else duty.power_kw
    base_bsfc = bsfc_kg_kwh(duty, engine)
    bsfc = float(blend_bsfc_kg_kwh(base_bsfc, fuel.base_lhv_mj_kg, fuel.lhv_mj_kg, duty.efficiency_credit_pct / 100.0))
    by_power = float(fuel_from_power_kg_s(crank, bsfc))
    ve = (engine.ve_pct if duty.ve_pct is None else duty.ve_pct) / 100.0
    manifold_abs = ATM_KPA + duty.boost_kpa
    air = float(air_kg_s(engine.displacement_l, duty.rpm, ve, manifold_abs, duty.charge_temp_c))
    by_air = float(fuel_from_air_kg_s(air, duty.lambda_, fuel.stoich_afr))
    by_measure = _measured_kg_s(build, duty, fuel, crank)
    chosen = {"consumption": by_power, "air": by_air, "measured": by_measure}[duty.school]
    idle_air = air_kg_s(
        engine.displacement_l,
        engine.idle_rpm,
        engine.idle_ve_pct / 100.0,
        ATM_KPA + engine.idle_manifold_kpa,
        duty.charge_temp_c,
    )
    return Demand(
        loss=loss,
        crank_kw=crank,
        gasoline_bsfc_kg_kwh=base_bsfc,
        blend_bsfc_kg_kwh=bsfc,
        consumption_kg_s=by_power,
        ve=ve,
        manifold_kpa_abs=manifold_abs,
        air_kg_s=air,
        air_school_kg_s=by_air,
        measured_kg_s=by_measure,
        chosen_kg_s=by_power if chosen is None else chosen,
        air_limited_crank_kw=by_air / bsfc * 3600.0,
        air_limited_power_kw=by_air / by_power * duty.power_kw,
        disagreement=by_air / by_power - 1.0,
        idle_kg_s=float(fuel_from_air_kg_s(idle_air, 1.0, fuel.stoich_afr)),
    )


def _measured_kg_s(build: Build, duty: Duty, fuel: FuelState, crank_kw: float) -> float | None:
    run = build.measured
    if run is None:
        return None
    then = blend_state(base_fuel(build, duty.base_fuel), run.ethanol_pct, run.fuel_temp_c)
    flow = inj.open_flow_kg_s(run.injector_cc_min, run.injector_rated_kpa, run.differential_kpa, then.density_kg_m3)
    logged_crank = float(crank_power_kw(run.power_kw, driveline_loss(build.car)))
    return float(
        fuel_from_measured_kg_s(
            flow,
            run.duty_pct / 100.0,
            run.dead_time_ms / inj.cycle_ms(run.rpm),
            build.engine.cylinders,
            crank_kw / logged_crank,
            then.lhv_mj_kg / fuel.lhv_mj_kg,
        )
    )


def mixture_at(duty: Duty, manifold_kpa: Floats) -> Floats:
    """λ over the operating field: 1 up to atmospheric, going over to the duty's λ at its boost."""
    enriched = np.clip(manifold_kpa / max(duty.boost_kpa, 1.0), 0.0, 1.0)
    return floats(1.0 + (duty.lambda_ - 1.0) * enriched)


def injector_count(build: Build, fitted: InjectorSet) -> int:
    """Injectors fitted: one a cylinder unless a count is given."""
    return build.engine.cylinders if fitted.count is None else fitted.count


def solve_points(
    build: Build,
    option: Option,
    duty: Duty,
    rpm: Number,
    manifold_kpa: Number,
    demand_kg_s: Number,
    without: frozenset[str] = frozenset(),
) -> PointSolution:
    """Solve the option at operating points on the duty's fuel and voltage; the three arrays broadcast.

    Pump groups named in `without` do not come. Acceleration counts from the duty's boost on.
    """
    meter = _Meter(build, option, duty, fuel_state(build, duty).density_kg_m3)
    points, at_set = _points(meter, rpm, manifold_kpa, demand_kg_s)
    hydraulics = solve(option, points, without)
    speed, manifold, wanted = floats(points.rpm), floats(points.manifold_kpa), floats(points.demand_kg_s)
    actual_dp = hydraulics.differential_kpa
    actual = meter.open_kg_s(actual_dp)
    # A starved system keeps the pulse meant for the set pressure: the controller does not know the rail has sunk.
    starved = (hydraulics.state == State.STARVED) & (option.carburettor is None)
    effective = inj.effective_pulse_ms(wanted, meter.count, speed, np.where(starved, at_set, actual))
    dead = meter.dead_ms(actual_dp)
    return PointSolution(
        rpm=speed,
        manifold_kpa=manifold,
        demand_kg_s=wanted,
        hydraulics=hydraulics,
        open_at_set_kg_s=at_set,
        open_kg_s=actual,
        dead_ms=dead,
        effective_ms=effective,
        pulse_ms=floats(effective + dead),
        cycle_ms=inj.cycle_ms(speed),
        duty=inj.duty(effective, dead, speed),
    )


def running_at(
    build: Build,
    option: Option,
    duty: Duty,
    rpm: Number,
    manifold_kpa: Number,
    demand_kg_s: Number,
    leaving: bool = False,
) -> NDArray[np.bool_]:
    """Which pump groups run at operating points, shape (groups, points), coming up or (`leaving`) on the way down."""
    meter = _Meter(build, option, duty, fuel_state(build, duty).density_kg_m3)
    points, _ = _points(meter, rpm, manifold_kpa, demand_kg_s)
    return running_groups(packed(option), signals_at(points), leaving)


def _points(meter: "_Meter", rpm: Number, manifold_kpa: Number, demand_kg_s: Number) -> tuple[Points, Floats]:
    """The points to solve, all of one shape, and what one injector (or the needles) passes at the set pressure."""
    option, duty = meter.option, meter.duty
    speed, manifold, wanted = (
        floats(np.atleast_1d(array))
        for array in np.broadcast_arrays(floats(rpm), floats(manifold_kpa), floats(demand_kg_s))
    )
    fuel = fuel_state(meter.build, duty)
    # The car accelerates when it pulls, not when it idles.
    pull_g = np.where(manifold >= duty.boost_kpa - 1e-9, duty.accel_g, 0.0)
    if option.carburettor is not None:
        # Float chambers are open to the air: what the manifold does not reach is held at zero.
        manifold = floats(np.zeros_like(manifold))
    regulator = option.regulator
    at_set = meter.open_kg_s(set_pressure_kpa(regulator.base_kpa, regulator.reference_ratio, manifold) - manifold)
    points = Points(
        manifold,
        wanted,
        duty.supply_v,
        fuel.density_kg_m3,
        fuel.viscosity_mpa_s,
        at_set * meter.count,
        speed,
        pull_g,
        mixture_at(duty, manifold),
    )
    return points, at_set


@dataclass(frozen=True)
class _Meter:
    """What meters the fuel: injectors, or float needles (then the duty is the share of their opening)."""

    build: Build
    option: Option
    duty: Duty
    density_kg_m3: float

    @property
    def count(self) -> int:
        fitted = self.option.injectors
        return 1 if fitted is None else injector_count(self.build, fitted)

    def open_kg_s(self, differential_kpa: Floats) -> Floats:
        fitted = self.option.injectors
        if fitted is None:
            assert self.option.carburettor is not None
            return needle_flow_kg_s(self.option.carburettor, differential_kpa, self.density_kg_m3)
        part = fitted.part
        return inj.open_flow_kg_s(part.rated_flow_cc_min, part.rated_pressure_kpa, differential_kpa, self.density_kg_m3)

    def dead_ms(self, differential_kpa: Floats) -> Floats:
        if self.option.injectors is None:
            return floats(np.zeros_like(differential_kpa))
        part = self.option.injectors.part
        return inj.dead_time_ms(
            part.dead_time_v,
            part.dead_time_ms,
            self.duty.supply_v,
            differential_kpa,
            part.dead_time_at_kpa,
            part.dead_time_ms_per_100_kpa,
        )


PEAK, IDLE = 0, 1


def solve_duty(build: Build, option: Option, duty: Duty) -> tuple[Demand, PointSolution]:
    """Demand and the coupled solution at two points: index PEAK (0) and IDLE (1)."""
    engine, wanted = build.engine, demand(build, duty)
    solution = solve_points(
        build,
        option,
        duty,
        [duty.rpm, engine.idle_rpm],
        [duty.boost_kpa, engine.idle_manifold_kpa],
        [wanted.chosen_kg_s, wanted.idle_kg_s],
    )
    return wanted, solution
