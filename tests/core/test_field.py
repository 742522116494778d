"""Demand over the operating field, altitude, and air against power (physics §2 and §6)."""

import numpy as np
import pytest
from hypothesis import given
from hypothesis import strategies as st

from iron_gulp.core.advise import find
from iron_gulp.core.judge import judge
from iron_gulp.core.model import CustomFuel, MeasuredRun, apply
from iron_gulp.core.solve import demand, fuel_state, mixture_at
from iron_gulp.core.study.staging import field_demand_kg_s
from iron_gulp.shelf import load_shelf
from tests.draws import draws
from tests.systems import a_target, build, demo

SCHOOLS = ["consumption", "air"]


@draws(60)
@given(st.floats(-60, 300), st.sampled_from(SCHOOLS), st.floats(0.65, 1.1), st.floats(60, 104), st.floats(-80, 0))
def test_the_field_at_the_targets_own_point_gives_the_targets_demand(boost, school, mixture, barometer, idle):
    one = build(
        None,
        a_target(boost_kpa=max(boost, 5 - barometer), school=school, lambda_=mixture),
        car={"barometer_kpa": barometer},
        engine={"displacement_l": 2.5, "cylinders": 5, "idle_manifold_kpa": max(idle, 5 - barometer)},
    )
    target = one.targets[0]
    here = field_demand_kg_s(one, one.options[0], target, np.array([target.rpm]), np.array([target.boost_kpa]))
    assert here[0] == pytest.approx(demand(one, target).chosen_kg_s, rel=1e-9)


@pytest.mark.parametrize("boost", [-30.0, 0.0, 0.5, 120.0])
def test_no_step_in_demand_between_neighbouring_points(boost):
    one = build(None, a_target(boost_kpa=boost, lambda_=0.8))
    manifold = np.linspace(-80, boost, 2000)
    wanted = field_demand_kg_s(one, one.options[0], one.targets[0], np.full(2000, 6500.0), manifold)
    assert np.all(np.diff(wanted) > 0)
    assert np.diff(wanted).max() < 6 * wanted[-1] / 2000


@pytest.mark.parametrize(("kpa_abs", "mixture"), [(60, 1.0), (125, 1.0), (187.5, 0.90), (250, 0.80), (300, 0.80)])
def test_mixture_goes_over_on_absolute_pressure(kpa_abs, mixture):
    target = a_target(boost_kpa=150, lambda_=0.80)
    assert float(mixture_at(target, np.array(kpa_abs - 100.0), 100.0)) == pytest.approx(mixture)


def test_a_naturally_aspirated_target_goes_over_too():
    assert float(mixture_at(a_target(boost_kpa=0, lambda_=0.8), np.array(-25.0), 100.0)) == pytest.approx(0.9)


def test_consumption_is_gasoline_equivalent_whatever_the_base():
    one = build(None, a_target(base_fuel="methanol", ethanol_pct=0, bsfc_kg_kwh=0.6 * 0.608277))
    assert demand(one, one.targets[0]).blend_bsfc_kg_kwh == pytest.approx(0.796, rel=1e-3)
    mine = CustomFuel(id="mine", name="Mine", density_15c_kg_m3=760, stoich_afr=12.0, lhv_mj_kg=38.0)
    one = build(None, a_target(base_fuel="mine", ethanol_pct=0, bsfc_kg_kwh=0.365), fuels=(mine,))
    assert demand(one, one.targets[0]).blend_bsfc_kg_kwh == pytest.approx(0.365 * 43.4 / 38.0)


def test_a_logged_run_carries_its_own_fuel():
    run = MeasuredRun(power_kw=150, rpm=6000, injector_cc_min=1000, differential_kpa=300, duty_pct=80)
    then = build(None, a_target(base_fuel="methanol", ethanol_pct=0, school="measured"), measured=run)
    was = build(None, a_target(ethanol_pct=0, school="measured"), measured=run)
    # Logged on gasoline: methanol takes more by heating value.
    more = demand(then, then.targets[0]).chosen_kg_s / demand(was, was.targets[0]).chosen_kg_s
    assert more == pytest.approx(43.4 / 19.9)


def test_altitude_takes_air_and_suction_head():
    low = build(None, a_target(boost_kpa=0))
    high = apply(low, [("car/barometer_kpa", 79.5)])
    verdicts = [judge(one, one.options[0], one.targets[0]) for one in (low, high)]
    assert verdicts[1].demand.air_kg_s / verdicts[0].demand.air_kg_s == pytest.approx(79.5 / 101.325)
    assert verdicts[0].heads_kpa[0][0] - verdicts[1].heads_kpa[0][0] == pytest.approx(101.325 - 79.5)


@pytest.mark.parametrize(
    ("changes", "kg_h"),
    [
        ({}, None),
        ({"idle_lambda": 0.9}, "richer"),
        ({"idle_air_g_s": 3.0}, 3.0 * 3.6 / 14.7),
        ({"idle_fuel_kg_h": 0.9, "idle_air_g_s": 3.0}, 0.9),
    ],
)
def test_idle_may_be_entered_as_logged(changes, kg_h):
    engine = {"displacement_l": 2.5, "cylinders": 5}
    plain, one = (build(None, a_target(ethanol_pct=0), engine=engine | more) for more in ({}, changes))
    found, computed = (demand(each, each.targets[0]).idle_kg_s * 3600 for each in (one, plain))
    expected = {None: computed, "richer": computed / 0.9}.get(kg_h, kg_h)
    assert found == pytest.approx(expected)


def test_a_measured_vapour_pressure_replaces_the_computed_one():
    one = build(None, a_target(vapour_kpa_abs=81.0))
    assert fuel_state(one, one.targets[0]).vapour_kpa_abs == 81.0
    assert fuel_state(one, one.targets[0]).rvp_kpa == fuel_state(one, a_target()).rvp_kpa


CHECK = a_target(
    ethanol_pct=60, power_kw=480 * 0.74569987, boost_kpa=250 - 101.325, rpm=6800, ve_pct=98, charge_temp_c=48, lambda_=0.8
)


def test_air_against_power_goes_by_what_engines_are_expected_to_burn():
    one = build(None, CHECK.model_copy(update={"bsfc_kg_kwh": 0.58 * 0.608277}), car={"loss_pct": 22})
    found = judge(one, one.options[0], one.targets[0])
    lb_min = 60 / 0.45359237
    assert found.demand.air_kg_s * lb_min == pytest.approx(49.8, rel=2e-3)
    assert found.demand.air_needed_kg_s * lb_min == pytest.approx(60.05, rel=2e-3)
    assert found.demand.air_limited_power_kw / found.target.power_kw * 615.4 == pytest.approx(510, rel=2e-3)
    assert found.load("engine").status == "over"
    limited = next(f for f in find(one, one.options[0], [found], load_shelf().catalogue) if f.code == "air-limited")
    assert limited.values["needed_kpa"] == pytest.approx(301.5 - 101.325, abs=0.3)
    assert not any("boost_kpa" in path for remedy in limited.remedies for path, _ in remedy.edits)


@pytest.mark.parametrize(
    ("kpa_abs", "status"), [(250, "over"), (277, "over"), (277.6, "close"), (301, "close"), (302, "ok")]
)
def test_air_within_the_band_is_plausible(kpa_abs, status):
    target = CHECK.model_copy(update={"boost_kpa": kpa_abs - 101.325})
    one = build(None, target, car={"loss_pct": 22})
    assert judge(one, one.options[0], target).load("engine").status == status


def test_a_cause_common_to_all_targets_is_said_once():
    curlew = demo("curlew")
    doubled = apply(curlew, [(f"targets/{one.id}/power_kw", 1000.0) for one in curlew.targets])
    option = doubled.options[0]
    verdicts = [judge(doubled, option, one) for one in doubled.targets]
    found = [f for f in find(doubled, option, verdicts, load_shelf().catalogue) if f.code == "air-limited"]
    assert len(found) == 1
    assert len(found[0].targets) == len(curlew.targets)
