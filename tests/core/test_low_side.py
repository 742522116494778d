"""Arrangements, suction, lift stage, staging, circuits and mechanical pumps."""

import numpy as np
import pytest
from fluids import one_phase_dP
from hypothesis import given
from hypothesis import strategies as st

from iron_gulp.core.account import parts_list
from iron_gulp.core.advise import find
from iron_gulp.core.judge import circuits, judge, judge_all
from iron_gulp.core.model import Calibration, Passage, Pickup, Rail, Suction, Tank, Wiring, apply
from iron_gulp.core.physics import WIRE_SIZES_MM2, ampacity_a, awg_mm2, awg_of, next_fuse_a
from iron_gulp.core.solve import (
    FluidState,
    Points,
    State,
    fuel_state,
    inlet_pressure_kpa,
    passages_loss_kpa,
    pulsation_kpa,
    rail_drop_kpa,
    solve,
    solve_lift,
)
from iron_gulp.core.study import (
    Conditions,
    judge_at,
    legs,
    missing_stages,
    neighbours,
    of_target,
    operating_field,
    propose,
    surge_lap,
    switches,
)
from iron_gulp.shelf import load_shelf
from tests.draws import draws
from tests.systems import a_target, build, check_option, demo, fine_filter, fitted_line, lift_stage, line, pump, split

L_H = 1e-3 / 3600
RHO, MU = 780.0, 1.0


def at(option, manifold, demand_l_h, volts=13.5, **more):
    return solve(option, Points(manifold, np.asarray(demand_l_h) * L_H * RHO, volts, RHO, MU, **more))


def arranged(name, count=1, **changes):
    option = check_option(count, **changes)
    return option.model_copy(update={"regulator": option.regulator.model_copy(update={"arrangement": name})})


NEAR, NONE = "bypass near the tank", "returnless, speed-controlled"


@pytest.mark.parametrize("gauge", [-3, 0, 4, 10, 14, 20])
def test_gauges_follow_their_standard_and_there_and_back(gauge):
    """ASTM B258: 36 AWG is 0.127 mm, 0000 is 11.684 mm, 39 steps in equal ratio between them."""
    diameter = 0.127 * (11.684 / 0.127) ** ((36 - gauge) / 39)
    assert awg_mm2(gauge) == pytest.approx(np.pi / 4 * diameter**2)
    assert awg_of(awg_mm2(gauge)) == pytest.approx(gauge, abs=1e-9)


def test_where_wire_is_sold_by_gauge_gauges_are_proposed_and_listed():
    sold = WIRE_SIZES_MM2["AWG"]
    by_gauge = apply(demo("curlew"), [("rules/wires", "AWG")])
    option = by_gauge.option(None)
    verdicts = tuple(judge_all(by_gauge, option))
    for one in circuits(option, verdicts, by_gauge.rules):
        assert one.area_proposed_mm2 in sold
        assert one.relay_feed.area_mm2 in (*sold, one.wiring.area_mm2)
    remedies = [
        value
        for finding in find(by_gauge, option, list(verdicts), load_shelf().catalogue)
        for remedy in finding.remedies
        for path, value in remedy.edits
        if path.endswith("area_mm2")
    ]
    assert remedies
    assert set(remedies) <= {*sold, *(group.wiring.area_mm2 for group in option.pumps)}
    wired = apply(by_gauge, [("options/as-built/pumps/g1/wiring/area_mm2", awg_mm2(8))])
    sizes = {item.size for item in parts_list(wired, wired.option(None), verdicts) if item.part == "Wire"}
    assert sizes == {"8 AWG", "1.5 mm²"}


def test_near_the_tank_the_feed_carries_engine_flow_and_is_not_corrected():
    got = at(arranged(NEAR), 100.0, 300.0)
    feed = one_phase_dP(300 * L_H * RHO, RHO, MU * 1e-3, 11.1e-3, 1.5e-6, 4.5) / 1000
    speed = 300 * L_H / (np.pi / 4 * 11.1e-3**2)
    drop = feed + 4.0 * RHO * speed**2 / 2000
    # The rail stands below the set pressure by just this drop; it repeats, so the calibration has it in.
    assert got.set_kpa[0] - got.rail_kpa[0] == pytest.approx(drop, rel=1e-3)
    assert got.lambda_factor[0] == 1.0
    assert got.bypass_m3_s[0] > at(check_option(), 100.0, 300.0).bypass_m3_s[0]


def test_returnless_holds_the_set_pressure_by_speed():
    got = at(arranged(NONE), [100.0, 100.0, 100.0], [100.0, 200.0, 300.0])
    assert got.rail_kpa == pytest.approx([400.0] * 3)
    assert got.bypass_m3_s.max() == 0.0
    assert np.all(np.diff(got.speed) > 0)
    assert got.speed.max() < 1.0
    # Slower pumps draw less and see less voltage.
    assert np.all(np.diff(got.volts[0]) > 0)


def test_returnless_at_full_speed_starves_like_any_other():
    ordinary, closed = at(check_option(), 150.0, 420.0), at(arranged(NONE), 150.0, 420.0)
    assert closed.state[0] == State.STARVED
    assert closed.rail_kpa[0] == pytest.approx(ordinary.rail_kpa[0], rel=1e-6)
    assert closed.speed[0] == 1.0


def test_returnless_too_fast_at_its_slowest_overruns():
    option = arranged(NONE)
    fast = option.model_copy(update={"regulator": option.regulator.model_copy(update={"slowest_pct": 95.0})})
    got = at(fast, -60.0, 4.0)
    assert got.state[0] == State.OVERRUN
    assert got.rail_kpa[0] > 300.0


@draws(50)
@given(
    st.sampled_from(["bypass after the rail", NEAR, NONE]),
    st.floats(-80, 250),
    st.floats(0, 900),
    st.floats(6, 15),
    st.floats(-1, 2),
)
def test_every_arrangement_conserves_mass_and_has_an_answer(name, manifold, demand, volts, accel):
    got = at(arranged(name, 2), manifold, demand, volts, accel_g=accel)
    assert got.supply_m3_s[0] == pytest.approx(got.delivered_m3_s[0] + got.bypass_m3_s[0], rel=1e-6, abs=1e-12)
    for column in ("rail_kpa", "feed_kpa", "inlet_kpa", "volts", "speed"):
        assert np.all(np.isfinite(getattr(got, column)))
    assert got.lambda_factor[0] >= 1 - 1e-9


def test_acceleration_costs_its_head():
    still, pulling = (at(check_option(), 100.0, 300.0, accel_g=g) for g in (0.0, 1.2))
    head = RHO * 4.5 * 1.2 * 9.80665 / 1000
    assert pulling.feed_kpa[0] - still.feed_kpa[0] == pytest.approx(head, rel=0.02)
    assert pulling.supply_at_set_m3_s[0] < still.supply_at_set_m3_s[0]
    assert pulling.rail_kpa[0] == pytest.approx(400.0)


def test_inlet_pressure_of_level_line_and_filter():
    suction = Suction(place="external", head_m=0.5, line=line(8.7, 1.0, 2.0), filter=fine_filter())
    flow = np.array([0.0, 400 * L_H])
    got = inlet_pressure_kpa(suction, 2.0, flow, FluidState(RHO, MU))
    assert got[0] == pytest.approx(2.0 + RHO * 9.80665 * 0.5 / 1000)
    friction = one_phase_dP(400 * L_H * RHO, RHO, MU * 1e-3, 8.7e-3, 1.5e-6, 1.0) / 1000
    speed = 400 * L_H / (np.pi / 4 * 8.7e-3**2)
    assert got[0] - got[1] == pytest.approx(8.0 + friction + 2.0 * RHO * speed**2 / 2000, rel=5e-3)


def test_a_small_passage_counts_at_its_own_bore():
    tube = Passage(id="p1", name="tube", bore_mm=5.0, k_sum=1.5)
    lost = passages_loss_kpa((tube,), np.array([300 * L_H]), FluidState(RHO, MU))[0]
    speed = 300 * L_H / (np.pi / 4 * 5e-3**2)
    assert lost == pytest.approx(1.5 * RHO * speed**2 / 2000, rel=1e-6)
    assert at(check_option(feed_passages=(tube,)), 100.0, 300.0).passages_kpa[0] > lost


def test_relief_valve_caps_the_rail():
    part = pump().part.model_copy(update={"relief_kpa": 450.0})
    got = at(check_option(pumps=(pump(part=part),)), 300.0, 100.0)
    assert got.state[0] == State.STARVED
    assert got.rail_kpa[0] < 450 * 1.08


def test_check_valve_costs_its_opening_pressure():
    free, valved = (at(check_option(pumps=(pump(check_valve_kpa=k),)), 100.0, 300.0) for k in (0.0, 20.0))
    assert valved.supply_at_set_m3_s[0] < free.supply_at_set_m3_s[0]


def test_mechanical_pump_follows_the_engine():
    part = pump().part.model_copy(update={"kind": "mechanical", "rated_rpm": 6000.0})
    got = at(check_option(pumps=(pump(part=part),), feed=line(30, 0, 0)), 0.0, 1.0, rpm=[1500.0, 3000.0, 6000.0])
    assert got.supply_at_set_m3_s / L_H == pytest.approx([112.5, 225.0, 450.0], rel=1e-3)
    assert got.amps.max() == 0.0


def test_tank_pressure_helps_at_both_ends():
    got = at(check_option(tank=Tank(pressure_kpa=10.0)), -60.0, 4.0)
    assert got.rail_kpa[0] > at(check_option(), -60.0, 4.0).rail_kpa[0]


# Lift stage


def test_lift_flow_meets_its_line():
    one = build(check_option(lift=lift_stage(2.0)))
    solved = solve_lift(
        one.options[0], one.targets[0].model_copy(update={"supply_v": 13.5}), fuel_state(one, one.targets[0])
    )
    assert 180 < solved.flow_m3_s / L_H < 200
    assert 0 < solved.rise_kpa < 20


def test_returning_to_the_main_tank_needs_all_pump_flow_lifted():
    loads = [
        judge(one, one.options[0], one.targets[0]).load("lift").load
        for one in (build(check_option(lift=lift_stage(5.0, return_to=place))) for place in ("surge tank", "main tank"))
    ]
    assert loads[1] > 1.5 * loads[0]


# Staging: what practitioners know


def test_staged_the_base_holds_at_idle_all_on_it_does_not():
    saltern = demo("saltern")
    all_on = judge(saltern, saltern.option("three-on"), saltern.target("record"))
    staged = judge(saltern, saltern.option("staged"), saltern.target("record"))
    hyd = (all_on.points.hydraulics, staged.points.hydraulics)
    assert hyd[0].rail_kpa[1] - hyd[0].set_kpa[1] > 100
    assert abs(hyd[1].rail_kpa[1] - hyd[1].set_kpa[1]) < 10
    assert hyd[0].rail_kpa[0] == pytest.approx(hyd[1].rail_kpa[0], rel=0.01)
    assert (all_on.load("regulator").status, staged.load("regulator").status) == ("over", "ok")


def test_operating_field_covers_idle_overrun_and_peak():
    curlew = demo("curlew")
    option, hill = curlew.option(None), curlew.target("hill")
    field = operating_field(curlew, option, hill)
    assert field.demand_l_h.shape == (field.manifold_kpa.size, field.rpm.size) == (32, 40)
    assert field.demand_l_h[0, -1] == 0.0
    assert field.demand_l_h[0, 0] > 0.0
    assert set(np.unique(field.stages)) == {1, 2}
    assert np.all(field.stages[field.manifold_kpa > 40.0] == 2)
    peak = judge(curlew, option, hill)
    column = int(np.argmin(np.abs(field.rpm - hill.rpm)))
    need = peak.demand.chosen_kg_s / peak.fuel.density_kg_m3 / L_H
    assert field.demand_l_h[-1, column] == pytest.approx(need, rel=0.03)
    # Down to idle's vacuum, and 20 kPa of it at least: there fuel is cut.
    assert field.manifold_kpa[0] == curlew.engine.idle_manifold_kpa < -20.0
    strong = curlew.model_copy(update={"engine": curlew.engine.model_copy(update={"idle_manifold_kpa": -12.0})})
    assert operating_field(strong, option, hill, 4, 4).manifold_kpa[0] == -20.0


def test_switch_step_is_the_difference_of_its_two_sides():
    curlew = demo("curlew")
    option, later = curlew.option(None), curlew.target("later")
    (switch,) = switches(curlew, option, later)
    assert switch.step_kpa == pytest.approx(switch.after_rail_kpa - switch.before_rail_kpa)
    assert switch.after_bypass_l_h > switch.before_bypass_l_h
    assert switch.joins.rpm == switch.leaves.rpm == later.rpm
    assert switch.joins.manifold_kpa == pytest.approx(40.0, abs=0.01)
    assert switch.leaves.manifold_kpa == pytest.approx(34.0, abs=0.01)


@pytest.mark.parametrize(
    ("conditions", "rpm", "manifold"),
    [
        ({"on_above_rpm": 4800.0}, 4800.0, 200.0),
        ({"on_above_kpa": 120.0, "on_above_rpm": 4800.0, "when": "all"}, None, 120.0),
        ({"on_below_lambda": 0.9}, None, None),
        ({"on_above_l_h": 150.0}, None, None),
    ],
)
def test_a_switch_is_found_whatever_the_condition(conditions, rpm, manifold):
    curlew, later = demo("curlew"), demo("curlew").target("later")
    edits = [("options/as-built/pumps/g2/on_above_kpa", None)]
    edits += [(f"options/as-built/pumps/g2/{name}", value) for name, value in conditions.items()]
    curlew = apply(curlew, edits)
    (switch,) = switches(curlew, curlew.option(None), later)
    assert switch.joins.rpm == pytest.approx(rpm or later.rpm, rel=1e-3)
    if manifold is not None:
        assert switch.joins.manifold_kpa == pytest.approx(manifold, abs=0.05)
    assert -62.0 < switch.joins.manifold_kpa <= later.boost_kpa
    assert switch.after_bypass_l_h > switch.before_bypass_l_h


def test_a_stage_that_never_comes_has_no_switch():
    curlew = apply(demo("curlew"), [("options/as-built/pumps/g2/on_above_kpa", 400.0)])
    assert switches(curlew, curlew.option(None), curlew.target("later")) == []


def test_a_stage_that_joins_a_pump_with_nothing_to_give_still_has_a_switch():
    """Before it joins nothing is delivered: what is asked of the pumps is not read off what they bring."""
    weak = (0.0, 20.0), (200.0, 0.0), (5.0, 6.0)
    curlew = demo("curlew")
    option = curlew.option(None)
    part = option.pumps[0].part
    table = dict(zip(("pressure_kpa", "flow_l_h", "current_a"), weak, strict=True))
    curve = part.curves[0].model_copy(update=table)
    first = option.pumps[0].model_copy(update={"part": part.model_copy(update={"curves": (curve,)})})
    option = option.model_copy(update={"pumps": (first, *option.pumps[1:])})
    with np.errstate(invalid="raise", divide="raise"):
        (switch,) = switches(curlew, option, curlew.target("later"))
    assert switch.before_rail_kpa < 100.0
    assert switch.share_before > 5.0


def test_a_silent_stage_leans_out():
    curlew = demo("curlew")
    (gone,) = missing_stages(curlew, curlew.option(None), curlew.target("later"))
    assert gone.lambda_factor > 1.1
    assert gone.safe_power_kw < curlew.target("later").power_kw


def test_a_late_stage_is_proposed_earlier_and_cured():
    curlew = apply(demo("curlew"), [("options/as-built/pumps/g2/on_above_kpa", 190.0)])
    option, later = curlew.option(None), curlew.target("later")
    assert switches(curlew, option, later)[0].share_before > 1.0
    (proposal,) = propose(curlew, option, later)
    assert proposal.on_above_kpa < 190
    cured = apply(curlew, [("options/as-built/pumps/g2/on_above_kpa", proposal.on_above_kpa)])
    (switch,) = switches(cured, cured.option(None), later)
    assert switch.share_before < 0.9
    assert abs(switch.step_kpa) < 10


def test_stage_conditions_any_and_all():
    both = pump(id="g2", on_above_kpa=50.0, on_above_rpm=3000.0)
    points = {"rpm": [2000.0, 4000.0, 4000.0]}
    for when, expected in (("any", [False, True, True]), ("all", [False, False, True])):
        option = check_option(pumps=(pump(), both.model_copy(update={"when": when})))
        got = at(option, [0.0, 0.0, 100.0], [50.0, 50.0, 50.0], **points)
        assert got.running[1].tolist() == expected


# Circuits


@pytest.mark.parametrize(("area", "outer_mm"), [(1.0, 2.1), (2.5, 3.0), (6.0, 4.3), (16.0, 7.2)])
def test_ampacity_is_what_free_convection_and_radiation_carry_away(area, outer_mm):
    """The heat balance once more: air by Sutherland's law in its other form, Churchill and Chu written out."""
    limit, air, outer = 105.0 + 273.15, 40.0 + 273.15, outer_mm * 1e-3
    film = (limit + air) / 2
    viscosity = 1.458e-6 * film**1.5 / (film + 110.4)
    density, prandtl = 101_325 / (287.05 * film), 0.71
    conductivity = viscosity * 1005 / prandtl
    rayleigh = 9.80665 / film * (limit - air) * outer**3 / (viscosity / density) ** 2 * prandtl
    nusselt = (0.60 + 0.387 * rayleigh ** (1 / 6) / (1 + (0.559 / prandtl) ** (9 / 16)) ** (8 / 27)) ** 2
    radiated = 0.9 * 5.670e-8 * (limit**4 - air**4)
    lost_w_m = (nusselt * conductivity / outer * (limit - air) + radiated) * np.pi * outer
    ohm_m = 0.01724 / area * (1 + 0.00393 * (105.0 - 20.0))  # annealed copper
    assert ampacity_a(area) == pytest.approx(np.sqrt(lost_w_m / ohm_m), rel=0.005)


def test_ampacity_table_and_fuses():
    for ambient, carried in ((40.0, (29, 41, 55, 72)), (85.0, (16, 22, 30, 39))):
        for area, amps in zip((1.5, 2.5, 4.0, 6.0), carried, strict=True):
            assert ampacity_a(area, ambient) == pytest.approx(amps, rel=0.10)
    assert ampacity_a(2.5, 105.0) == 0.0
    assert ampacity_a(2.5, 85.0, "cross-linked") > 1.2 * ampacity_a(2.5, 85.0)
    assert ampacity_a(2.5, 40.0, loom=True, bundled=4) == pytest.approx(ampacity_a(2.5, 40.0) * 0.8 / 2)
    assert (next_fuse_a(14.1), next_fuse_a(500.0)) == (15.0, 100.0)


def test_circuits_list_every_pump_with_its_worst_current():
    curlew = demo("curlew")
    verdicts = tuple(judge_all(curlew, curlew.option(None)))
    found = circuits(curlew.option(None), verdicts)
    assert [one.name for one in found] == ["Main pump, group 1", "Main pump, group 2", "Lift pump"]
    most = max(float(v.points.hydraulics.amps[0].max()) for v in verdicts)
    assert found[0].current_a == pytest.approx(most)
    assert found[0].drop_v == pytest.approx(found[0].current_a * found[0].loop_mohm / 1e3, rel=1e-3)
    assert "fuse larger than the wire carries" in found[1].problems
    painted = apply(curlew, [("options/as-built/pumps/g1/wiring/ground", "painted or shared point")])
    worse = circuits(painted.options[0], tuple(judge_all(painted, painted.options[0])))[0]
    assert worse.falls_v[3] == pytest.approx(worse.current_a * 0.050)
    for one in (*found, worse):
        joints, there, back, _ = one.falls_v
        assert sum(one.falls_v) == pytest.approx(one.drop_v)
        assert there == pytest.approx(back)
        assert joints == pytest.approx(one.current_a * one.wiring.connectors_mohm / 1e3)


def test_a_lossy_factory_feed_is_named():
    one = build(check_option(pumps=(pump(wiring=Wiring(loop_m=9, area_mm2=1.0, switch="factory feed", fuse_a=20)),)))
    (circuit,) = circuits(one.options[0], tuple(judge_all(one, one.options[0])))
    assert "factory feed loses too much" in circuit.problems


# Operating points away from a target


def test_a_targets_own_point_is_the_target():
    curlew = demo("curlew")
    option, hill = curlew.option(None), curlew.target("hill")
    here = judge_at(curlew, option, hill, of_target(hill))
    assert here.points.hydraulics.rail_kpa[0] == pytest.approx(judge(curlew, option, hill).points.hydraulics.rail_kpa[0])
    light = judge_at(curlew, option, hill, Conditions(2500, -40, 70, 13.6, 0.0))
    assert light.demand.chosen_kg_s < 0.2 * here.demand.chosen_kg_s
    assert light.points.hydraulics.set_kpa[0] == pytest.approx(260.0)


def test_hot_fuel_and_duty_edges_keep_an_answer():
    one = build(check_option(lift=lift_stage(3.0)), a_target(fuel_temp_c=90, ethanol_pct=10, accel_g=6))
    verdict = judge(one, one.options[0], one.targets[0])
    assert verdict.load("suction").load > 1
    assert np.isfinite(verdict.points.hydraulics.rail_kpa).all()


# Series stages, conditions, neighbours, rails


def test_series_stages_add_pressure_at_equal_flow():
    one = at(check_option(feed=line(30, 0, 0)), 0.0, 0.0)
    option = check_option(pumps=(pump(), pump(id="g2", place="in series, boosting the others")), feed=line(30, 0, 0))
    option = option.model_copy(update={"regulator": option.regulator.model_copy(update={"base_kpa": 600.0})})
    both = at(option, 0.0, 0.0)
    # Two equal pumps in series at 600 kPa each make 300 kPa, at the flow of one pump there.
    assert both.supply_at_set_m3_s[0] / L_H == pytest.approx(450.0, rel=2e-3)
    assert one.supply_at_set_m3_s[0] / L_H == pytest.approx(450.0, rel=2e-3)
    assert both.group_flow_m3_s[:, 0] == pytest.approx([both.supply_m3_s[0]] * 2, rel=5e-3)


def test_a_small_booster_limits_the_flow():
    option = check_option(
        2, pumps=(pump(count=3), pump(id="g2", place="in series, boosting the others")), feed=line(30, 0, 0)
    )
    assert at(option, 0.0, 0.0).supply_at_set_m3_s[0] / L_H <= 520.01


@pytest.mark.parametrize(
    ("condition", "signals", "expected"),
    [
        ({"on_above_duty_pct": 50.0}, {"open_limit_kg_s": 200 * L_H * RHO}, [False, True]),
        ({"on_below_lambda": 0.9}, {"mixture": [0.95, 0.8]}, [False, True]),
        ({"on_above_l_h": 100.0}, {}, [False, True]),
    ],
)
def test_stages_join_on_duty_mixture_and_flow(condition, signals, expected):
    option = check_option(pumps=(pump(), pump(id="g2", **condition)))
    assert at(option, [50.0, 50.0], [80.0, 150.0], **signals).running[1].tolist() == expected


def test_neighbours_are_the_next_sizes_and_say_what_changes():
    curlew = demo("curlew")
    verdict = judge(curlew, curlew.option(None), curlew.target("hill"))
    catalogue = load_shelf().catalogue
    down, up = neighbours(curlew, verdict, "options/as-built/feed/part", catalogue)
    assert (down.part.size, up.part.size) == ("dash 4", "dash 8")
    assert down.loss_change_kpa > 0 > up.loss_change_kpa
    assert down.supply_change_m3_s < 0 < up.supply_change_m3_s
    smaller, larger = neighbours(curlew, verdict, "options/as-built/pumps/g1/part", catalogue)
    assert (smaller.part.shelf_id, larger.part.shelf_id) == ("pump-250", "pump-400")
    assert {one.way for one in neighbours(curlew, verdict, "options/as-built/filter/part", catalogue)} <= {"Up", "Down"}


def test_rail_drop_and_pulsation():
    end, centre = Rail(bore_mm=8.0), Rail(bore_mm=8.0, entry="in the centre")
    full = one_phase_dP(300 * L_H * RHO, RHO, MU * 1e-3, 8e-3, 1.5e-6, 0.45) / 1000
    assert float(rail_drop_kpa(end, 300 * L_H, RHO, MU)) == pytest.approx(full / 3, rel=5e-3)
    assert float(rail_drop_kpa(centre, 300 * L_H, RHO, MU)) < float(rail_drop_kpa(end, 300 * L_H, RHO, MU)) / 4


def test_pulsation_is_the_ripple_of_evenly_spaced_injectors():
    narrow, wide = Rail(bore_mm=8.0, length_m=0.5), Rail(bore_mm=16.0, length_m=0.5)
    one = float(pulsation_kpa(narrow, 15e-6, 4, 0.3, 0.018))
    assert one == pytest.approx(4 * float(pulsation_kpa(wide, 15e-6, 4, 0.3, 0.018)))
    # By hand: 1.2 injectors open on average, so one more than one for a fifth of each 4.5 ms spacing.
    volume = np.pi / 4 * 0.008**2 * 0.5
    assert one == pytest.approx(15e-6 * 0.0045 * 0.2 * 0.8 / volume * 30e6 / 1e3)
    # Whole numbers of injectors open at a time, or always open: nothing swings.
    for duty_share in (0.25, 0.5, 1.0, 1.4):
        assert float(pulsation_kpa(narrow, 15e-6, 4, duty_share, 0.018)) == pytest.approx(0.0, abs=1e-9)
    # The same by counting open injectors through a cycle.
    time = (np.arange(200_000) + 0.5) / 200_000
    opened = sum(((time - n / 4) % 1.0) < 0.3 for n in range(4)).astype(float)
    held = np.cumsum(opened.mean() - opened) * 15e-6 * 0.018 / 200_000
    assert one == pytest.approx((held.max() - held.min()) / volume * 30e6 / 1e3, rel=1e-3)


@draws(4)
@given(
    st.sampled_from(["bypass after the rail", NEAR, NONE]),
    st.sampled_from(["in parallel", "in series, boosting the others"]),
    st.sampled_from([None, 0.0, 150.0]),
    st.sampled_from(["turbine", "mechanical"]),
    st.sampled_from([None, 200.0]),
    st.sampled_from([-2.0, 0.0, 1.0]),
    st.booleans(),
    st.sampled_from([-60.0, 0.0, 300.0]),
    st.sampled_from(["follows the rail", "always full speed"]),
    st.sampled_from([0, 2, 4]),
    st.sampled_from(["exit into a tank", "check valve, lift", "drilled block, 90°"]),
)
def test_no_combination_the_interface_allows_can_crash(
    name, place, joins, kind, relief, head, lifted, boost, drive, rails, fitting
):
    part = pump().part.model_copy(update={"kind": kind, "relief_kpa": relief})
    option = arranged(
        name,
        pumps=(pump(part=part), pump(id="g2", place=place, on_above_kpa=joins, part=part, drive=drive)),
        suction=Suction(place="external", head_m=head, line=line(8.7, 1, 2), filter=fine_filter()),
        feed_passages=(Passage(id="p1", name="tube", bore_mm=5.0),),
        return_passages=(Passage(id="p2", name="fitting", bore_mm=5.0),),
        lift=lift_stage(2.0) if lifted else None,
        pickup=Pickup(bore_mm=4.0),
        feed=fitted_line(8.0, 3.0, (fitting, 5)),
        split=split(*(line(4.0 + n, 0.0 if n == 1 else 1.0, 0.0) for n in range(rails))) if rails else None,
        rail=Rail(count=max(rails, 1), bore_mm=5.0),
        calibration=Calibration(
            map_range_kpa_abs=100.0, injector_cc_min=400.0, dead_time_ms=0.0, blend="entered by hand"
        ),
    )
    one = build(option, a_target(boost_kpa=boost, accel_g=1.0))
    (verdict,) = judge_all(one, one.options[0])
    assert np.isfinite(verdict.points.hydraulics.rail_kpa).all()
    assert verdict.first_out.title
    found = find(one, one.options[0], [verdict], load_shelf().catalogue)
    assert all(finding.remedies is not None for finding in found)
    assert np.isfinite(operating_field(one, one.options[0], one.targets[0], 6, 5).rail_error_kpa).all()
    assert circuits(one.options[0], (verdict,)) is not None
    assert all(np.isfinite(leg.drop_kpa) for leg in legs(verdict))
    assert switches(one, one.options[0], one.targets[0]) is not None


@pytest.mark.parametrize("name", ["bypass after the rail", NEAR])
def test_legs_add_up_from_tank_to_rail(name):
    curlew = apply(demo("curlew"), [("options/as-built/regulator/arrangement", name)])
    verdict = judge(curlew, curlew.option(None), curlew.target("hill"))
    found = {leg.name: leg for leg in legs(verdict)}
    assert list(found)[:6] == ["Pickup", "Lift pump", "Lift line", "Pre-filter", "Pumps", "Filter"]
    assert found["Feed"].after_kpa == pytest.approx(verdict.points.hydraulics.rail_kpa[0], rel=1e-3)
    assert found["Regulator"].flow_m3_s == pytest.approx(verdict.points.hydraulics.bypass_m3_s[0])
    assert found["Feed"].velocity_m_s == pytest.approx(found["Feed"].flow_m3_s / (np.pi / 4 * 7.9e-3**2))


@pytest.mark.parametrize("return_to", ["surge tank", "main tank"])
def test_the_surge_tank_over_a_lap_follows_the_balance_by_hand(return_to):
    """Each second of a lap added up in small steps, against the bends the lap gives."""
    one = build(check_option(lift=lift_stage(6.0, surge_l=2.0, covered_s=6.0, uncovered_s=9.0, return_to=return_to)))
    verdict = judge(one, one.options[0], one.targets[0])
    lap = surge_lap(verdict)
    hyd = verdict.points.hydraulics
    drawn = float((hyd.delivered_m3_s if return_to == "surge tank" else hyd.supply_m3_s)[0])
    assert (lap.drawn_m3_s, lap.lifted_m3_s) == (pytest.approx(drawn), verdict.lift.flow_m3_s)
    step, at, levels = 0.002, 2.0, []
    for number in range(int(4 * 15 / step)):
        lifted = verdict.lift.flow_m3_s if (number * step) % 15.0 < 6.0 else 0.0
        at = min(max(at + (lifted - drawn) * 1e3 * step, 0.0), 2.0)
        levels.append(at)
    seconds = (np.arange(len(levels)) + 1) * step
    assert np.interp(seconds, *zip(*lap.level, strict=True)) == pytest.approx(np.array(levels), abs=0.01)
    assert lap.least_l == pytest.approx(min(levels), abs=0.01)
    assert (lap.empty_s is None) == (min(levels) > 0)
    assert lap.dry[:4] == tuple((15.0 * turn + 6.0, 15.0 * turn + 15.0) for turn in range(4))


def test_a_surge_tank_that_runs_dry_says_when():
    one = build(check_option(lift=lift_stage(6.0, surge_l=1.0, uncovered_s=60.0)))
    verdict = judge(one, one.options[0], one.targets[0])
    lap = surge_lap(verdict)
    assert lap.empty_s == pytest.approx(15.0 + 1.0 / (lap.drawn_m3_s * 1e3))
    rarely = build(check_option(lift=lift_stage(6.0, surge_l=1.0, covered_s=600.0, uncovered_s=60.0)))
    assert surge_lap(judge(rarely, rarely.options[0], rarely.targets[0]), 60.0).empty_s is None
    assert surge_lap(judge(build(), build().options[0], build().targets[0])) is None
