"""A state never contradicts its numbers: whatever the pumps, tables, voltages and arrangement."""

import numpy as np
import pytest
from hypothesis import assume, given
from hypothesis import strategies as st
from scipy.optimize import brentq

from bench.scalar_reference import tube_kpa
from iron_gulp.core.account import Context, value
from iron_gulp.core.judge import judge
from iron_gulp.core.model import (
    POWER_LIMITS,
    EditError,
    InjectorSet,
    PumpCurve,
    PumpPart,
    Regulator,
    RegulatorPart,
    Wiring,
    apply,
)
from iron_gulp.core.physics import PumpTable, flow_and_current
from iron_gulp.core.solve import IDLE, PEAK, Points, State, solve
from tests.draws import draws
from tests.systems import CHECK_CURVE, a_target, build, check_option, fitted_line, injectors, lift_stage, line, pump

L_H = 1e-3 / 3600
RHO, MU = 770.0, 0.9
NEAR, NONE = "bypass near the tank", "returnless, speed-controlled"
ARRANGEMENTS = ["bypass after the rail", NEAR, NONE]
PRESSURES = (0.0, 200.0, 400.0, 600.0)
ENDS = {
    "falling": (500.0, 440.0, 380.0, 300.0),
    "level": (500.0, 460.0, 420.0, 420.0),
    "not falling": (400.0, 400.0, 400.0, 400.0),
    "hardly falling": (400.0, 399.0, 398.0, 397.99),
    "to nothing": (500.0, 300.0, 100.0, 0.0),
    "to a residue": (500.0, 300.0, 100.0, 1e-9),
    "with a knee": (500.0, 480.0, 470.0, 20.0),
}


def arranged(name, **changes):
    option = check_option(**changes)
    return option.model_copy(update={"regulator": option.regulator.model_copy(update={"arrangement": name})})


def curve(end, volts=13.5, share=1.0):
    flow = tuple(share * one for one in ENDS[end])
    return PumpCurve(voltage_v=volts, pressure_kpa=PRESSURES, flow_l_h=flow, current_a=(7.0, 10.0, 13.0, 16.0))


@st.composite
def pump_parts(draw):
    end = draw(st.sampled_from(sorted(ENDS)))
    curves = [curve(end)] + ([curve(end, 12.0, draw(st.sampled_from([0.8, 0.99])))] if draw(st.booleans()) else [])
    kind = draw(st.sampled_from(["turbine", "gerotor", "brushless", "mechanical"]))
    return PumpPart(name="pump", kind=kind, curves=tuple(curves), relief_kpa=draw(st.sampled_from([None, None, 450.0])))


@st.composite
def systems(draw):
    """Pumps of any kind and table, with and without loop resistance, in every arrangement."""
    wire = Wiring(loop_m=draw(st.sampled_from([0.0, 0.0, 6.0])))
    groups = tuple(
        pump(id=f"g{n}", part=draw(pump_parts()), count=draw(st.integers(1, 2)), wiring=wire)
        for n in range(1, draw(st.integers(1, 2)) + 1)
    )
    if len(groups) > 1 and draw(st.booleans()):
        groups = (groups[0], groups[1].model_copy(update={"place": "in series, boosting the others"}))
    return arranged(
        draw(st.sampled_from(ARRANGEMENTS)),
        pumps=groups,
        feed=fitted_line(draw(st.floats(5.0, 12.0)), draw(st.floats(0.0, 6.0)), ("swept elbow, 90°", 2)),
    )


VOLTS = [9.0, 11.0, 12.0, 12.7, 13.5, 14.6]
HIGHEST = [-60.0, 0.0, 120.0, 320.0, 700.0]


@draws(25)
@given(systems(), st.floats(5, 900), st.sampled_from([np.inf, 600.0]))
def test_a_state_never_contradicts_its_numbers(option, demand_l_h, opened_l_h):
    manifold, volts = (axis.ravel() for axis in np.meshgrid(HIGHEST, VOLTS))
    asked, opened = demand_l_h * L_H * RHO, opened_l_h * L_H * RHO
    got = solve(option, Points(manifold, asked, volts, RHO, MU, open_limit_kg_s=opened, rpm=3000.0))
    lean, fed = got.lambda_factor > 1 + 1e-9, got.delivered_m3_s > 0
    working = (got.state == State.REGULATING) | (got.state == State.OVERRUN)
    for column in ("rail_kpa", "supply_m3_s", "delivered_m3_s", "speed", "feed_kpa"):
        assert np.all(np.isfinite(getattr(got, column))), column
    # Working means differential pressure at the engine, fuel delivered, and pumps that can bring it.
    assert np.all(got.differential_kpa[working] > 0)
    assert np.all(fed[working])
    assert np.all(got.supply_at_set_m3_s[working] >= got.delivered_m3_s[working] * (1 - 1e-9))
    if not np.isfinite(opened_l_h):
        assert not np.any(lean & working & (got.meant_kpa > 1.0))
        enough = got.supply_at_set_m3_s * (1 + 1e-3) >= got.delivered_m3_s  # to within the curves' steps
        assert np.all((lean | enough)[got.state == State.STARVED])
    # Regulating is at the set pressure (near the tank: less the drop to the engine), overrun above it.
    lost = got.feed_kpa + got.passages_kpa + got.split_kpa if option.regulator.arrangement == NEAR else 0.0
    above = got.rail_kpa + lost - got.set_kpa
    assert np.all(np.abs(above[got.state == State.REGULATING]) < 1e-3)
    assert np.all(above[got.state == State.OVERRUN] > 0)
    assert np.all(above[got.state == State.STARVED] < 1e-3)
    # Without differential pressure nothing is delivered to speak of.
    assert np.all(got.differential_kpa[~fed] <= 1e-6)


@draws(40)
@given(systems(), st.floats(80, 600), st.floats(-60, 250), st.sampled_from(VOLTS))
def test_a_clear_verdict_has_fuel_and_pressure(option, power, boost, volts):
    one = build(option, a_target(power_kw=power, boost_kpa=boost, supply_v=volts))
    verdict = judge(one, option, one.targets[0])
    hyd, loads = verdict.points.hydraulics, {load.component: load.load for load in verdict.loads}
    passes = loads["pumps"] <= 1 and loads["injectors"] <= 1
    if passes:
        assert hyd.state[PEAK] in (State.REGULATING, State.OVERRUN)
        assert hyd.lambda_factor[PEAK] == pytest.approx(1.0, abs=1e-9)
        assert hyd.differential_kpa[PEAK] > 0
    if hyd.state[PEAK] in (State.STARVED, State.NO_DIFFERENTIAL):
        assert max(loads[name] for name in POWER_LIMITS if name in loads) > 1
    if hyd.lambda_factor[PEAK] > 1.001:
        assert verdict.status == "over"


LOW = PumpCurve(
    voltage_v=12.0,
    pressure_kpa=CHECK_CURVE.pressure_kpa,
    flow_l_h=(455, 410, 375, 330, 270, 190),
    current_a=CHECK_CURVE.current_a,
)


@pytest.mark.parametrize(
    ("kind", "rise", "volts", "l_h", "amps"),
    [
        ("turbine", 450, 12, 299.3, 13.74),
        ("turbine", 450, 11, 225.9, 12.98),
        ("gerotor", 450, 12, 337.2, 15.0),
        ("gerotor", 450, 11, 298.7, None),
        ("gerotor", 450, 10, 260.2, None),
        ("gerotor", 700, 9, 91.7, None),
        ("brushless", 450, 12, 395.0, 16.88),
        ("brushless", 450, 11, 395.0, 18.41),
        ("brushless", 450, 10, 318.7, 17.13),
    ],
)
def test_beyond_its_table_a_pump_goes_by_its_kind(kind, rise, volts, l_h, amps):
    flow, current = flow_and_current([CHECK_CURVE.table(kind, 11.0)], rise, volts)
    assert float(flow) == pytest.approx(l_h, rel=1e-3)
    if amps is not None:
        assert float(current) == pytest.approx(amps, rel=1e-3)


@pytest.mark.parametrize("kind", ["turbine", "gerotor", "brushless"])
def test_between_two_tables_the_kind_does_not_count(kind):
    tables = [CHECK_CURVE.table(kind, 11.0), LOW.table(kind, 11.0)]
    assert float(flow_and_current(tables, 450, 12.75)[0]) == pytest.approx(347.5, abs=0.05)
    if kind == "turbine":
        assert float(flow_and_current(tables, 450, 11)[0]) == pytest.approx(221.4, rel=1e-3)


@pytest.mark.parametrize("end", ["level", "not falling", "hardly falling"])
def test_a_table_that_hardly_falls_is_carried_on_and_ends_somewhere(end):
    table = PumpTable.of(13.5, PRESSURES, ENDS[end], (7, 10, 13, 16), "turbine", 11.0)
    assert float(table.flow(900.0)) == pytest.approx(ENDS[end][-1], rel=0.01)
    assert 600 < float(table.stall_kpa) <= 2600
    far = solve(check_option(pumps=(pump(part=PumpPart(name="p", curves=(curve(end),))),)), _point(2000.0))
    assert far.state[0] == State.STARVED or far.rail_kpa[0] > 2000.0


def _point(manifold, demand_l_h=200.0, **more):
    return Points(manifold, demand_l_h * L_H * RHO, 13.5, RHO, MU, **more)


@pytest.mark.parametrize(("demand_l_h", "opened_l_h"), [(300.0, np.inf), (400.0, 380.0), (470.0, np.inf), (470.0, 520.0)])
def test_near_the_tank_pulses_are_for_what_is_left_at_the_engine(demand_l_h, opened_l_h):
    option = arranged(NEAR, feed=line(7.0, 4.5, 4.0))
    got = solve(option, _point(100.0, demand_l_h, open_limit_kg_s=opened_l_h * L_H * RHO))

    def drop(l_h):
        return tube_kpa(l_h * L_H, 7.0e-3, 4.5, 4.0, 1.5e-6, RHO, MU)

    def brought(node):
        return float(flow_and_current([CHECK_CURVE.table("turbine", 11.0)], node, 13.5)[0])

    meant = 400.0 - drop(demand_l_h) - 100.0
    per_root = min(demand_l_h / np.sqrt(meant), opened_l_h / np.sqrt(300.0))
    taken = brentq(lambda q: q - min(demand_l_h, per_root * np.sqrt(max(300.0 - drop(q), 0.0))), 0.0, demand_l_h)
    node = 400.0
    if brought(400.0) < taken:
        node = brentq(lambda p: brought(p) - per_root * np.sqrt(max(p - drop(brought(p)) - 100.0, 0.0)), 100.0, 400.0)
        taken = brought(node)
    assert got.delivered_m3_s[0] / L_H == pytest.approx(taken, rel=2e-3)
    assert got.rail_kpa[0] == pytest.approx(node - drop(taken), abs=0.5)
    assert got.lambda_factor[0] == pytest.approx(demand_l_h / taken, rel=2e-3)
    assert got.meant_kpa[0] == pytest.approx(meant, abs=0.3)


def test_near_the_tank_one_story_of_pulse_duty_mixture_and_load():
    option = arranged(NEAR, feed=line(6.0, 4.5, 4.0))
    one = build(option, a_target(power_kw=150))
    verdict = judge(one, option, one.targets[0])
    points, hyd = verdict.points, verdict.points.hydraulics
    assert hyd.differential_kpa[PEAK] < 295  # the feed's drop is there
    assert hyd.lambda_factor[PEAK] == pytest.approx(1.0)
    # What passes at this target is what is asked.
    share = float(points.effective_ms[PEAK] / points.cycle_ms[PEAK])
    assert share * 5 * float(points.open_kg_s[PEAK]) == pytest.approx(verdict.demand.chosen_kg_s, rel=1e-6)
    most = float(points.open_kg_s[PEAK]) * 5 * (0.85 - float(points.dead_ms[PEAK] / points.cycle_ms[PEAK]))
    assert verdict.load("injectors").load == pytest.approx(verdict.demand.chosen_kg_s / most, rel=1e-6)


@pytest.mark.parametrize("demand_l_h", [20.0, 150.0, 330.0])
def test_returnless_speed_is_the_one_that_brings_just_the_demand(demand_l_h):
    option = arranged(NONE, feed=line(9.0, 4.5, 4.0))
    got = solve(option, _point(100.0, demand_l_h))
    rise = 400.0 + tube_kpa(demand_l_h * L_H, 9.0e-3, 4.5, 4.0, 1.5e-6, RHO, MU)
    speed = brentq(
        lambda s: float(flow_and_current([CHECK_CURVE.table("turbine", 11.0)], rise, 13.5 * s)[0]) - demand_l_h, 0.5, 1.0
    )
    assert got.speed[0] == pytest.approx(speed, rel=1e-3)
    assert got.pump_rise_kpa[0] == pytest.approx(rise, abs=0.5)
    # The battery gives the motor's power over what its controller passes on, at the controller's volts (physics §4).
    motor = float(flow_and_current([CHECK_CURVE.table("turbine", 11.0)], rise, 13.5 * speed)[1])
    assert got.amps[0, 0] == pytest.approx(speed * motor / 0.95, rel=5e-3)


def test_a_boosting_stage_is_solved_alike_one_by_one_and_together():
    groups = (pump(), pump(id="g2", place="in series, boosting the others"))
    for name in ARRANGEMENTS:
        option, volts = arranged(name, pumps=groups), np.linspace(10.0, 14.0, 24)
        together = solve(option, Points(150.0, 0.08, volts, RHO, MU)).rail_kpa
        alone = [solve(option, Points(150.0, 0.08, one, RHO, MU)).rail_kpa[0] for one in volts]
        assert together == pytest.approx(alone, rel=1e-9)


@pytest.mark.parametrize("slowest", [30.0, 100.0])
def test_full_speed_as_slowest_is_overrun_not_starvation(slowest):
    option = arranged(NONE)
    option = option.model_copy(update={"regulator": option.regulator.model_copy(update={"slowest_pct": slowest})})
    got = solve(option, _point(-60.0, 4.0))
    assert got.state[0] == (State.OVERRUN if slowest == 100 else State.REGULATING)
    assert got.lambda_factor[0] == 1.0


def test_near_the_tank_the_feeds_figures_are_of_the_engines_flow():
    option = arranged(NEAR, feed=line(6.0, 4.5, 4.0))
    one = build(option, a_target(power_kw=150))
    verdict = judge(one, option, one.targets[0])
    flow = verdict.demand.chosen_kg_s / verdict.fuel.density_kg_m3
    assert verdict.points.hydraulics.bypass_m3_s[PEAK] > 0.2 * flow
    assert value("feed.velocity_m_s", Context(one, verdict)) == pytest.approx(flow / (np.pi / 4 * 6e-3**2), rel=1e-6)


@st.composite
def limited_systems(draw):
    """Systems whose limits do not move in proportion with power, and some whose limits do."""
    staged = draw(
        st.sampled_from(
            [{}, {"on_above_l_h": 150.0}, {"on_above_duty_pct": 40.0}, {"on_below_lambda": 0.9}, {"on_above_kpa": 50.0}]
        )
    )
    lifted = draw(st.sampled_from([None, "main tank", "surge tank"]))
    return arranged(
        draw(st.sampled_from(ARRANGEMENTS)),
        pumps=(pump(), pump(id="g2", **staged)),
        feed=fitted_line(draw(st.floats(5.0, 10.0)), draw(st.floats(1.0, 5.0)), ("swept elbow, 90°", 2)),
        lift=None if lifted is None else lift_stage(draw(st.floats(2.0, 6.0)), return_to=lifted),
    )


@draws(8)
@given(
    limited_systems(),
    st.floats(60, 500),
    st.floats(-10, 220),
    st.sampled_from([0, 60, 85]),
    st.sampled_from(POWER_LIMITS),
)
def test_a_target_at_a_components_ceiling_loads_it_to_one(option, power, boost, ethanol, component):
    one = build(option, a_target(power_kw=power, boost_kpa=boost, ethanol_pct=ethanol))
    ceiling = judge(one, option, one.targets[0]).load(component).ceiling_kw
    assume(ceiling is not None and 1 < ceiling < 4999)

    def at(power_kw):
        target = one.targets[0].model_copy(update={"power_kw": power_kw})
        return judge(one.model_copy(update={"targets": (target,)}), option, target).load(component).load

    here = at(ceiling)
    if here != pytest.approx(1.0, rel=0.01):
        assert at(ceiling * 0.999) < 1 < at(ceiling * 1.001)
    assert at(ceiling * 0.98) <= 1.0


def test_demand_by_air_has_no_power_ceiling():
    one = build(None, a_target(school="air"))
    verdict = judge(one, one.options[0], one.targets[0])
    assert {load.component: load.ceiling_kw for load in verdict.loads if load.component in POWER_LIMITS} == {
        "injectors": None,
        "pumps": None,
    }
    assert verdict.power_limit.load == max(verdict.load(name).load for name in POWER_LIMITS)


def test_a_ceiling_before_a_stage_joins_counts():
    """One pump runs out before the flow that calls the second: that is the ceiling, whatever two pumps could carry."""
    option = check_option(pumps=(pump(), pump(id="g2", on_above_l_h=520.0)))
    one = build(option, a_target(power_kw=150, boost_kpa=150, ethanol_pct=85))
    alone = build(check_option(), one.targets[0])
    found, single = (judge(each, each.options[0], one.targets[0]).load("pumps").ceiling_kw for each in (one, alone))
    assert found == pytest.approx(single, rel=1e-3)


def _firing(squirts):
    """The car of physics §3: at dp 300, 211.7 kg/h over five injectors of 1000 cc/min at 6800 rpm."""
    wide = Regulator(part=RegulatorPart(name="wide", capacity_l_h=9000), base_kpa=300)
    fitted = InjectorSet(part=injectors(1000), squirts=squirts)
    option = check_option(3, regulator=wide, return_line=line(30, 1, 0), injectors=fitted)
    target = a_target(
        ethanol_pct=60, power_kw=480 * 0.74569987, boost_kpa=150, rpm=6800, bsfc_kg_kwh=0.58 * 0.608277, fuel_temp_c=30
    )
    one = build(option, target, car={"loss_pct": 22}, engine={"displacement_l": 2.5, "cylinders": 5, "max_rpm": 7500})
    return one, judge(one, option, target)


@pytest.mark.parametrize(("squirts", "duty_pct", "each_ms"), [(1, 102.8, 17.25), (2, 107.9, 8.623)])
def test_dead_time_counts_each_squirt(squirts, duty_pct, each_ms):
    one, verdict = _firing(squirts)
    assert float(verdict.points.duty[PEAK]) * 100 == pytest.approx(duty_pct, rel=2e-3)
    assert float(verdict.points.effective_ms[PEAK]) == pytest.approx(each_ms, rel=2e-3)
    assert value("injector.duty_pct", Context(one, verdict)) == pytest.approx(duty_pct, rel=2e-3)
    assert value("injector.pulse_ms", Context(one, verdict)) == pytest.approx(each_ms + 0.9, rel=2e-3)
    share = 0.85 - squirts * 0.9 / (120_000 / 6800)
    passes = 5 * float(verdict.points.open_at_set_kg_s[PEAK]) * share
    assert verdict.load("injectors").load == pytest.approx(verdict.demand.chosen_kg_s / passes, rel=1e-6)


@pytest.mark.parametrize(("squirts", "load"), [(1, 0.562), (2, 1.124)])
def test_each_squirt_must_exceed_the_smallest_pulse(squirts, load):
    option = check_option(1, injectors=InjectorSet(part=injectors(1000), squirts=squirts))
    target = a_target(ethanol_pct=0, power_kw=120, boost_kpa=0, fuel_temp_c=30)
    engine = {"displacement_l": 2.0, "cylinders": 4, "idle_rpm": 850, "idle_fuel_kg_h": 0.75}
    option = option.model_copy(update={"regulator": option.regulator.model_copy(update={"base_kpa": 320.0})})
    one = build(option, target, engine=engine)
    verdict = judge(one, option, target)
    at_300 = float(np.sqrt(300.0 / verdict.points.hydraulics.differential_kpa[1]))
    assert verdict.load("injector idle").load * at_300 == pytest.approx(load, rel=3e-3)


@pytest.mark.parametrize(
    ("cc", "kpa", "ms"),
    [(630, 300, 0.30), (631, 300, 0.35), (726, 400, 0.30), (729, 400, 0.35), (1962, 400, 0.42), (1963, 400, 0.45)],
)
def test_the_smallest_pulse_goes_by_size_where_none_is_published(cc, kpa, ms):
    assert injectors(cc, rated_pressure_kpa=kpa).smallest_pulse_ms == ms
    assert injectors(cc, min_pulse_ms=0.8).smallest_pulse_ms == 0.8


@pytest.mark.parametrize("cycle", ["two-stroke", "rotary", "diesel", "gas"])
def test_engines_that_are_not_computed_are_refused_in_plain_words(cycle):
    with pytest.raises(EditError, match="not computed"):
        apply(build(), [("engine/cycle", cycle)])


@pytest.mark.parametrize(
    ("limit", "runs"),
    [
        ({"on_above_duty_pct": 55.0}, {"peak": True, "idle": False}),
        ({"on_above_duty_pct": 95.0}, {"peak": False, "idle": False}),
        ({"on_below_lambda": 0.9}, {"peak": True, "idle": False}),
        ({"on_below_lambda": 0.7}, {"peak": False, "idle": False}),
    ],
)
def test_a_stage_runs_where_its_signal_says(limit, runs):
    """Injectors open some 60 to 90 % of the time, λ 0.8: a limit below or above that decides, and idle calls nobody."""
    option = check_option(pumps=(pump(), pump(id="g2", **limit)))
    one = build(option, a_target(power_kw=290, boost_kpa=140, lambda_=0.8))
    verdict = judge(one, option, one.targets[0])
    assert 0.55 < float(verdict.points.duty[PEAK]) < 0.95
    stage = verdict.points.hydraulics.running[1]
    assert {"peak": bool(stage[PEAK]), "idle": bool(stage[IDLE])} == runs
