"""Fittings, pickup, splits and circuits as fitted, each against an independent figure."""

from typing import get_args

import numpy as np
import pytest
from fluids import dP_from_K, one_phase_dP
from fluids.fittings import Hooper2K, K_branch_diverging_Crane
from hypothesis import example, given
from hypothesis import strategies as st
from scipy.optimize import brentq

from iron_gulp.core.judge import circuit_load, circuit_of, circuits, faults, judge
from iron_gulp.core.model import (
    EditError,
    Filter,
    FilterPart,
    Fitting,
    Pickup,
    Rail,
    Wiring,
    apply,
    circuits_of,
    value_at,
)
from iron_gulp.core.physics import FittingKind, blend_lambda, current_a, fitting_loss, flow_l_h, on_bore
from iron_gulp.core.solve import (
    IDLE,
    PEAK,
    FluidState,
    Points,
    branch_loss_kpa,
    fittings_loss,
    fuel_state,
    line_loss_kpa,
    own_rise_kpa,
    pickup_loss_kpa,
    pump_doing,
    rail_drop_kpa,
    running_at,
    solve,
    solve_lift,
    split_flows_m3_s,
    split_loss_kpa,
    switch_carries_a,
    wiring_resistance_ohm,
)
from iron_gulp.core.solve.losses import filter_loss_kpa
from iron_gulp.core.study import legs, neighbours, operating_field, switches
from iron_gulp.shelf import load_shelf
from tests.draws import draws
from tests.systems import a_target, build, check_option, demo, fine_filter, fitted_line, lift_stage, line, pump, split

L_H = 1e-3 / 3600
RHO, MU = 765.0, 0.9
FLUID = FluidState(RHO, MU)


def reynolds(flow_l_h, bore_mm):
    return RHO * flow_l_h * L_H / (np.pi / 4 * (bore_mm * 1e-3) ** 2) * bore_mm * 1e-3 / (MU * 1e-3)


@pytest.mark.parametrize(
    ("kind", "published"),
    [
        ("swept elbow, 90°", "Elbow, 90°, Long-radius (R/D = 1.5), All types"),
        ("sharp elbow, 90°", "Elbow, 90°, Standard (R/D = 1), Screwed"),
        ("swept elbow, 45°", "Elbow, 45°, Long-radius (R/D 1.5), All types"),
        ("check valve, swing", "Valve, Check, Swing"),
    ],
)
@pytest.mark.parametrize("flow_l_h", [3.0, 80.0, 900.0])
def test_a_fitting_loses_what_the_published_method_says(kind, published, flow_l_h):
    bore, plain, fitted = 8.7, line(8.7, 2.0, 1.0), fitted_line(8.7, 2.0, (kind, 3), k_sum=1.0)
    flow = np.array([flow_l_h * L_H])
    added = float((line_loss_kpa(fitted, flow, RHO, MU) - line_loss_kpa(plain, flow, RHO, MU))[0])
    k = Hooper2K(Di=bore / 25.4, Re=reynolds(flow_l_h, bore), name=published)
    speed = flow_l_h * L_H / (np.pi / 4 * (bore * 1e-3) ** 2)
    assert added == pytest.approx(3 * dP_from_K(K=k, rho=RHO, V=speed) / 1000, rel=1e-9)


def test_every_kind_on_the_list_has_a_finite_loss():
    for kind in get_args(FittingKind):
        loss = fitting_loss(kind, 8.0)
        assert 0.0 < loss.at(5000.0) < 100.0
    with pytest.raises(KeyError, match="bolted flange"):
        fitting_loss("bolted flange", 8.0)


def test_small_fittings_lose_more_than_large_ones_and_slow_flow_more_than_fast():
    small, large = fitting_loss("swept elbow, 90°", 6.0), fitting_loss("swept elbow, 90°", 16.0)
    assert small.constant > large.constant
    assert small.at(500.0) > small.at(50_000.0)


def test_the_leg_of_a_y_is_the_published_loss_at_its_own_velocity():
    combined = K_branch_diverging_Crane(D_run=0.01, D_branch=0.01, Q_run=0.5, Q_branch=0.5, angle=45)
    # A leg with half the flow in the same bore runs at half the velocity: four times the K for the same drop.
    assert fitting_loss("Y, into a leg", 10.0).constant == pytest.approx(4 * combined)


@given(st.floats(4, 20), st.floats(4, 20), st.floats(10, 900))
def test_a_fitting_of_another_bore_loses_by_its_own_velocity(own, bore, flow_l_h):
    narrow = Fitting(id="f1", kind="sharp elbow, 90°", bore_mm=own)
    with_it = line(bore, 0.0, 0.0).model_copy(update={"fittings": (narrow,)})
    flow = np.array([flow_l_h * L_H])
    k = Hooper2K(Di=own / 25.4, Re=reynolds(flow_l_h, own), name="Elbow, 90°, Standard (R/D = 1), Screwed")
    speed = flow_l_h * L_H / (np.pi / 4 * (own * 1e-3) ** 2)
    assert float(line_loss_kpa(with_it, flow, RHO, MU)[0]) == pytest.approx(
        dP_from_K(K=k, rho=RHO, V=speed) / 1000, rel=1e-9
    )


def test_losses_on_another_bore_go_with_the_bore_ratio():
    loss = on_bore(fitting_loss("ball valve", 8.0), 8.0, 16.0)
    assert loss.constant == pytest.approx(fitting_loss("ball valve", 8.0).constant * 16)
    assert fittings_loss(line(8.0, 1.0, 2.0)).constant == 0.0


def test_two_fittings_of_one_id_are_refused():
    plain = build()
    twice = [{"id": "f1", "kind": "ball valve", "count": 1, "bore_mm": None}] * 2
    with pytest.raises(EditError, match="used twice"):
        apply(plain, [("options/o1/feed/fittings", twice)])


# Splits


def branch_kpa(one, kind, flow_m3_s):
    """One branch by the package's own functions."""
    bore = one.part.bore_mm * 1e-3
    speed = flow_m3_s / (np.pi / 4 * bore**2)
    friction = one_phase_dP(flow_m3_s * RHO, RHO, MU * 1e-3, bore, 1.5e-6, one.length_m) if flow_m3_s > 0 else 0.0
    k = 1.5201010126776666 if kind == "Y, into a leg" else 0.0
    return (friction + dP_from_K(K=one.k_sum + k, rho=RHO, V=speed)) / 1000


@draws(40)
@given(st.floats(20, 1200), st.floats(5, 14), st.floats(5, 14), st.floats(0.1, 3), st.floats(0.1, 3))
@example(145.0, 11.0, 10.0, 2.5, 1.5)  # just past where one branch turns turbulent
def test_joined_branches_share_flow_so_that_each_loses_the_same(flow_l_h, bore, other_bore, length, other_length):
    one, other = line(bore, length, 0.5), line(other_bore, other_length, 1.5)
    parted = split(one, other)
    total = np.array([flow_l_h * L_H])
    flows = split_flows_m3_s(parted, total, FLUID, joined=True)[:, 0]
    assert flows.sum() == pytest.approx(total[0], rel=1e-9)

    def difference(share):
        return branch_kpa(one, parted.fitting, share * total[0]) - branch_kpa(
            other, parted.fitting, (1 - share) * total[0]
        )

    share = brentq(difference, 1e-9, 1 - 1e-9, xtol=1e-14)
    assert flows[0] / total[0] == pytest.approx(share, rel=4e-3, abs=1e-3)
    if abs(difference(share)) < 1e-6:  # away from the jump between laminar and turbulent flow
        lost = float(split_loss_kpa(parted, total, FLUID, joined=True)[0])
        assert lost == pytest.approx(branch_kpa(one, parted.fitting, share * total[0]), rel=5e-3)


def test_equal_branches_halve_the_flow_joined_or_not():
    parted = split(line(8.0, 0.5, 1.0), line(8.0, 0.5, 1.0))
    total = np.array([400 * L_H])
    each = float(branch_loss_kpa(parted, parted.branches[0], total / 2, FLUID)[0])
    for joined in (True, False):
        assert split_flows_m3_s(parted, total, FLUID, joined)[:, 0] == pytest.approx([200 * L_H] * 2, rel=1e-4)
        assert float(split_loss_kpa(parted, total, FLUID, joined)[0]) == pytest.approx(each, rel=1e-3)


def test_dead_ended_rails_take_equal_shares_and_the_worst_branch_counts():
    parted = split(line(8.0, 0.3, 0.5), line(6.0, 2.0, 0.5))
    total = np.array([300 * L_H])
    worst = float(branch_loss_kpa(parted, parted.branches[1], total / 2, FLUID)[0])
    assert float(split_loss_kpa(parted, total, FLUID, joined=False)[0]) == pytest.approx(worst)
    assert float(split_loss_kpa(None, total, FLUID, joined=True)[0]) == 0.0
    assert float(split_loss_kpa(parted, np.array([0.0]), FLUID, joined=True)[0]) == 0.0


@pytest.mark.parametrize("arrangement", ["bypass after the rail", "bypass near the tank", "returnless, speed-controlled"])
def test_a_narrow_split_costs_pressure_and_its_legs_are_listed(arrangement):
    option = check_option(split=split(line(5.0, 1.5, 1.0), line(5.0, 1.5, 1.0)), rail=Rail(count=2))
    option = option.model_copy(update={"regulator": option.regulator.model_copy(update={"arrangement": arrangement})})
    one = build(option, a_target(power_kw=330, boost_kpa=200))
    verdict = judge(one, option, one.targets[0])
    hyd = verdict.points.hydraulics
    assert hyd.split_kpa[0] > 2.0
    found = {leg.name: leg for leg in legs(verdict)}
    assert found["Branch 1"].flow_m3_s + found["Branch 2"].flow_m3_s == pytest.approx(
        float(hyd.delivered_m3_s[0] if "near" in arrangement else hyd.supply_m3_s[0]), rel=1e-6
    )
    assert found["Branch 2"].after_kpa == pytest.approx(float(hyd.rail_kpa[0]), rel=2e-3)
    without = build(check_option(regulator=option.regulator), one.targets[0])
    assert verdict.load("feed").load > judge(without, without.options[0], one.targets[0]).load("feed").load


def test_a_split_has_a_branch_for_each_rail():
    with pytest.raises(EditError, match="one goes to each rail"):
        apply(
            build(check_option(split=split(line(8, 1, 1), line(8, 1, 1)), rail=Rail(count=2))),
            [("options/o1/rail/count", 3)],
        )


# Rails, pickup, lift


def test_flow_through_a_rail_loses_up_to_three_times_a_dead_end():
    rail, flow = Rail(bore_mm=8.0), 500 * L_H
    dead = float(rail_drop_kpa(rail, flow, RHO, MU))
    assert float(rail_drop_kpa(rail, flow, RHO, MU, flow)) == pytest.approx(3 * dead)
    assert dead < float(rail_drop_kpa(rail, flow, RHO, MU, flow / 2)) < 3 * dead


def test_the_pickup_loses_at_its_own_bore():
    pickup, flow = Pickup(bore_mm=7.0, length_m=0.4, k_sum=2.0), 300 * L_H
    friction = one_phase_dP(flow * RHO, RHO, MU * 1e-3, 7e-3, 1.5e-6, 0.4)
    speed = flow / (np.pi / 4 * 7e-3**2)
    want = (friction + dP_from_K(K=2.0, rho=RHO, V=speed)) / 1000
    assert float(pickup_loss_kpa(pickup, np.array([flow]), FLUID)[0]) == pytest.approx(want, rel=5e-3)


def test_the_pickup_burdens_whoever_draws_from_the_tank():
    narrow = Pickup(bore_mm=5.0, length_m=0.5, k_sum=2.0)
    main = build(check_option(pickup=narrow))
    assert judge(main, main.options[0], main.targets[0]).points.hydraulics.inlet_kpa[0] < -5.0
    lifted = build(check_option(pickup=narrow, lift=lift_stage(2.0)))
    verdict = judge(lifted, lifted.options[0], lifted.targets[0])
    assert verdict.points.hydraulics.inlet_kpa[0] == pytest.approx(0.0, abs=1e-9)
    solved = solve_lift(lifted.options[0], lifted.targets[0], fuel_state(lifted, lifted.targets[0]))
    free = build(check_option(lift=lift_stage(2.0)))
    assert solved.flow_m3_s < solve_lift(free.options[0], free.targets[0], fuel_state(free, free.targets[0])).flow_m3_s
    assert solved.inlet_kpa < -5.0
    heads = verdict.heads_kpa
    assert heads[1][0] < heads[0][0]


def test_solving_a_lift_stage_that_is_not_there_is_refused():
    one = build()
    with pytest.raises(ValueError, match="no lift stage"):
        solve_lift(one.options[0], one.targets[0], fuel_state(one, one.targets[0]))


# Circuits as fitted


def test_a_painted_ground_adds_its_resistance():
    good, bad = Wiring(), Wiring(ground="painted or shared point")
    assert wiring_resistance_ohm(bad) - wiring_resistance_ohm(good) == pytest.approx(0.050)
    one, other = (build(check_option(pumps=(pump(wiring=w),))) for w in (good, bad))
    volts = [judge(b, b.options[0], b.targets[0]).points.hydraulics.volts[0, 0] for b in (one, other)]
    assert 0.4 < volts[0] - volts[1] < 1.0


def test_heat_derates_a_switch_and_loads_the_circuit():
    cool, hot = Wiring(switch_a=30.0), Wiring(switch_a=30.0, switch_place="in the heat, unventilated")
    assert switch_carries_a(hot) < switch_carries_a(cool) == 30.0
    assert circuit_load(circuit_of(hot), *[np.array([17.0])] * 3)[0] == pytest.approx(17.0 / switch_carries_a(hot))


def test_a_wire_too_hot_for_its_insulation_carries_nothing():
    burnt = circuit_load(circuit_of(Wiring(copper_temp_c=106.0)), *[np.array([5.0, 0.0])] * 3)
    assert burnt.tolist() == [float("inf"), 0.0]


def test_coils_count_for_relays_only():
    def coils(**wiring):
        return circuits_of(check_option(pumps=(pump(count=3, wiring=Wiring(coil_a=0.2, **wiring)),)))[0].coils_a

    assert coils() == pytest.approx(0.6)
    assert coils(switch="solid-state relay") == 0.0
    assert coils(relay="R1") == pytest.approx(0.2)


@pytest.mark.parametrize(
    ("wiring", "amps", "fault"),
    [
        (Wiring(), 10.0, "no fuse entered"),
        (Wiring(fuse_a=7.5), 10.0, "fuse below the current"),
        (Wiring(fuse_a=10.0), 10.0, "fuse run above 80 %"),
        (Wiring(fuse_a=30.0, area_mm2=1.0), 10.0, "fuse larger than the wire carries"),
        (Wiring(area_mm2=0.5), 18.0, "wire too thin"),
        (Wiring(switch_a=8.0), 10.0, "switch too weak"),
        (Wiring(switch_a=15.0, switch_place="in the heat, unventilated"), 10.0, "switch too hot where it sits"),
        (Wiring(switch="factory feed", connectors_mohm=40.0), 10.0, "factory feed loses too much"),
        (Wiring(ground="painted or shared point"), 10.0, "painted or shared ground"),
        (Wiring(coil_a=1.5), 10.0, "relay coils too much for their circuit"),
    ],
)
def test_each_fault_of_a_circuit_is_named_alone(wiring, amps, fault):
    assert faults(Wiring(fuse_a=15.0), 10.0, 0.2) == ()
    assert fault in faults(wiring, amps, wiring.coil_a)
    assert set(faults(wiring, amps, wiring.coil_a)) <= {fault, "no fuse entered"}


def test_a_factory_feed_loses_too_much_by_the_shops_own_rule():
    thin = Wiring(switch="factory feed", fuse_a=15.0)  # loses 0.41 V of 10 A
    assert faults(thin, 10.0, 0.2, allowed_v=0.5) == ()
    assert faults(thin, 10.0, 0.2, allowed_v=0.3) == ("factory feed loses too much",)


# Stages on the way down; groups at full speed; blends


def staged_build(**changes):
    groups = (pump(), pump(id="g2", on_above_kpa=100.0, **changes))
    return build(check_option(pumps=groups), a_target(boost_kpa=200, power_kw=300))


def test_a_stage_leaves_below_where_it_joined():
    one = staged_build(hysteresis_pct=20.0)
    boost = np.array([75.0, 85.0, 99.0, 101.0])
    option, wanted = one.options[0], one.targets[0]
    leaving = running_at(one, option, wanted, 5000.0, boost, 0.02, leaving=True)
    assert leaving[1].tolist() == [False, True, True, True]
    coming = solve(option, Points(boost, 0.02, 13.5, RHO, MU)).running
    assert coming[1].tolist() == [False, False, False, True]


@pytest.mark.parametrize(
    ("condition", "value", "below"),
    [({"on_above_rpm": 5000.0}, "rpm", 4600.0), ({"on_below_lambda": 0.9}, "mixture", 0.95)],
)
def test_hysteresis_holds_every_kind_of_condition(condition, value, below):
    from iron_gulp.core.solve import Signals, limits_met, limits_of

    group = pump(hysteresis_pct=10.0, **condition)
    given_ = {"manifold_kpa": 0.0, "rpm": 1000.0, "flow_l_h": 1.0, "duty_pct": 1.0, "mixture": 1.0, value: below}
    at = Signals(**{name: np.array([one]) for name, one in given_.items()})
    assert not limits_met(limits_of(group), at)[0]
    assert limits_met(limits_of(group), at, leaving=True)[0]


def test_the_field_knows_both_ways():
    one = staged_build(hysteresis_pct=30.0)
    field = operating_field(one, one.options[0], one.targets[0], 8, 30)
    assert np.all(field.stages_leaving >= field.stages)
    assert (field.stages_leaving > field.stages).any()


def test_lift_off_with_a_stage_held_on_raises_the_rail():
    one = staged_build()
    (switch,) = switches(one, one.options[0], one.targets[0])
    assert switch.lift_off_rail_kpa > switch.lift_off_set_kpa + 100.0
    both = solve(check_option(2), Points(-60.0, 0.0, 13.8, RHO, MU))
    assert switch.lift_off_rail_kpa == pytest.approx(float(both.rail_kpa[0]), rel=0.02)


def test_a_group_at_full_speed_does_not_follow_the_rail():
    option = check_option(pumps=(pump(), pump(id="g2", drive="always full speed")))
    option = option.model_copy(
        update={"regulator": option.regulator.model_copy(update={"arrangement": "returnless, speed-controlled"})}
    )
    got = solve(option, Points(100.0, 600 * L_H * RHO, 13.5, RHO, MU))
    assert got.rail_kpa[0] == pytest.approx(400.0)
    assert got.speed[0] < 1.0
    assert got.volts[1, 0] == pytest.approx(13.5)
    assert got.volts[0, 0] == pytest.approx(13.5 * got.speed[0], rel=1e-3)
    assert got.group_flow_m3_s[1, 0] == pytest.approx(415 * L_H, rel=0.05)


def test_another_blend_in_the_tank_moves_the_mixture():
    one = build()
    e85, e60 = (fuel_state(one, a_target(ethanol_pct=pct)) for pct in (85, 60))
    rich = blend_lambda(0.85, e85.stoich_afr, e85.density_kg_m3, e60.stoich_afr, e60.density_kg_m3)
    assert float(rich) == pytest.approx(0.85 * 9.81 / 11.23 * (776.4 / 762.2) ** 0.5, rel=5e-3)
    back = blend_lambda(rich, e60.stoich_afr, e60.density_kg_m3, e85.stoich_afr, e85.density_kg_m3)
    assert float(back) == pytest.approx(0.85)


# What pumps do, and what another feed or size would change


@pytest.mark.parametrize(
    ("changes", "rail", "doing"),
    [
        ({}, 100.0, "running"),
        ({"on_above_kpa": 250.0}, 100.0, "off"),
        ({"part": {"relief_kpa": 380.0}}, 100.0, "relief valve open"),
        ({"part": {"relief_kpa": 800.0}}, 100.0, "running"),
    ],
)
def test_what_a_pump_does_is_named(changes, rail, doing):
    part = pump().part.model_copy(update=changes.pop("part", {}))
    option = check_option(pumps=(pump(), pump(id="g2", part=part, **changes)))
    hyd = solve(option, Points(rail, 100 * L_H * RHO, 13.5, RHO, MU))
    assert pump_doing(option, hyd, 1, 0) == doing
    assert pump_doing(option, hyd, 0, 0) == "running"


def test_a_weak_pump_beside_a_strong_one_stalls():
    curve = pump().part.curves[0]
    weak = curve.model_copy(update={"pressure_kpa": tuple(p * 0.3 for p in curve.pressure_kpa)})
    option = check_option(pumps=(pump(), pump(id="g2", part=pump().part.model_copy(update={"curves": (weak,)}))))
    hyd = solve(option, Points(150.0, 100 * L_H * RHO, 13.5, RHO, MU))
    assert pump_doing(option, hyd, 1, 0) == "stalled"
    assert own_rise_kpa(option, hyd, 1, 0) == pytest.approx(float(hyd.pump_rise_kpa[0]))
    boosted = check_option(pumps=(pump(), pump(id="g2", place="in series, boosting the others")))
    assert own_rise_kpa(boosted, solve(boosted, Points(150.0, 0.02, 13.5, RHO, MU)), 0, 0) is None


def test_a_relay_feed_is_set_against_the_wiring_as_it_is():
    poor = Wiring(loop_m=6.0, area_mm2=1.0, connectors_mohm=60.0, switch="factory feed", fuse_a=20.0)
    one = build(check_option(pumps=(pump(wiring=poor),)))
    (circuit,) = circuits(one.options[0], (judge(one, one.options[0], one.targets[0]),))
    feed = circuit.relay_feed
    assert feed.area_mm2 >= 4.0
    # Fixed-point by hand: 8 mΩ of joints and the same loop in the larger wire.
    volts, tables = 13.8, pump().part.tables()
    ohm = 1.724e-8 * 6.0 / (feed.area_mm2 * 1e-6) + 0.008
    for _ in range(50):
        volts = 13.8 - ohm * float(current_a(tables, feed.rise_kpa, volts))
    assert feed.fed_v == pytest.approx(volts, abs=1e-4)
    assert feed.fed_l_h == pytest.approx(float(flow_l_h(tables, feed.rise_kpa, volts)), rel=1e-4)
    assert feed.fed_l_h > feed.wired_l_h + 30.0


@pytest.mark.parametrize(
    "path",
    [
        "lift/part",
        "lift/line/part",
        "suction/filter/part",
        "filter/part",
        "feed/part",
        "return_line/part",
        "pumps/g1/part",
    ],
)
def test_every_part_has_neighbours_of_its_own_kind(path):
    curlew, catalogue = demo("curlew"), load_shelf().catalogue
    verdict = judge(curlew, curlew.option(None), curlew.target("hill"))
    fitted = value_at(curlew, f"options/as-built/{path}")
    found = neighbours(curlew, verdict, f"options/as-built/{path}", catalogue)
    assert found
    for one in found:
        assert one.part.shelf_id != fitted["shelf_id"]
        assert one.part.shelf_id.split("-")[0] == fitted["shelf_id"].split("-")[0]
        assert any(abs(change) > 0 for change in (one.supply_change_m3_s, one.lift_change_m3_s, one.return_change_kpa))


def test_a_larger_lift_pump_lifts_more():
    curlew, catalogue = demo("curlew"), load_shelf().catalogue
    verdict = judge(curlew, curlew.option(None), curlew.target("hill"))
    changes = {one.way: one for one in neighbours(curlew, verdict, "options/as-built/lift/part", catalogue)}
    assert changes["Up"].part.shelf_id == "pump-lift-315"
    assert changes["Up"].lift_change_m3_s > 0 > changes["Down"].lift_change_m3_s


@pytest.mark.parametrize(("linear_pct", "share"), [(0.0, 0.25), (40.0, 0.35), (70.0, 0.425), (100.0, 0.5)])
def test_a_filter_at_half_its_rated_flow_drops_by_its_linear_share(linear_pct, share):
    part = FilterPart(name="f", rated_flow_l_h=400.0, rated_drop_kpa=12.0, linear_share_pct=linear_pct)
    at_half = filter_loss_kpa(Filter(part=part, clogging=2.0), np.array([200.0 * L_H]))
    assert float(at_half[0]) == pytest.approx(2.0 * 12.0 * share)


@pytest.mark.parametrize("index", [PEAK, IDLE])
def test_near_the_tank_the_regulator_stands_before_the_feed_and_behind_the_filter(index):
    option = check_option(filter=fine_filter())
    option = apply(build(option), [("options/o1/regulator/arrangement", "bypass near the tank")]).options[0]
    one = build(option, a_target(power_kw=200, boost_kpa=100))
    verdict = judge(one, option, one.targets[0])
    found, hyd = {leg.name: leg for leg in legs(verdict, index)}, verdict.points.hydraulics
    assert hyd.filter_kpa[index] > 1.0
    behind = float(hyd.return_kpa[index]) + option.tank.pressure_kpa
    node = float(hyd.rail_kpa[index]) + found["Feed"].drop_kpa
    assert found["Regulator"].drop_kpa == pytest.approx(node - behind, rel=2e-3)
    assert found["Regulator"].after_kpa == pytest.approx(behind)
