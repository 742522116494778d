"""A fuel cooler in the feed or return: its drop at any flow, the heat it gives away, and the tank it keeps cool."""

import math

import pytest
from pydantic import ValidationError

from iron_gulp.core.account import Context, parts_list, value
from iron_gulp.core.judge import judge_all
from iron_gulp.core.model import Option, apply
from iron_gulp.core.solve import IDLE, PEAK, line_loss_kpa
from iron_gulp.core.study import legs
from tests.systems import a_target, build, check_option, demo

COOLER = {"bore_mm": 9, "air_c": 20, "rated_flow_l_h": 300, "rated_drop_kpa": 8}
COOLER |= {"rated_heat_w": 1500, "rated_difference_k": 25}


def judged(place, **changes):
    one = build(check_option(2), a_target(fuel_temp_c=55, ethanol_pct=0))
    plain = judge_all(one, one.options[0])[0]
    fitted = apply(one, [(f"options/{one.options[0].id}/{place}", COOLER | changes)])
    return fitted, plain, judge_all(fitted, fitted.options[0])[0]


def leg(verdict, index=PEAK):
    return next(one for one in legs(verdict, index) if one.name == "Fuel cooler")


@pytest.mark.parametrize("place", ["feed_cooler", "return_cooler"])
def test_its_drop_goes_with_the_square_of_flow_and_with_density(place):
    _, _, verdict = judged(place)
    found = leg(verdict)
    flow = found.flow_m3_s * 3.6e6
    assert found.drop_kpa == pytest.approx(8.0 * (flow / 300.0) ** 2 * verdict.fuel.density_kg_m3 / 750.0, rel=1e-6)


def test_in_the_return_it_raises_the_floor_and_leaves_the_feed_alone():
    one, plain, verdict = judged("return_cooler", rated_drop_kpa=100.0)
    before, after = plain.points.hydraulics, verdict.points.hydraulics
    fuel, flow = verdict.fuel, after.bypass_m3_s[IDLE : IDLE + 1]
    hose = line_loss_kpa(one.options[0].return_line, flow, fuel.density_kg_m3, fuel.viscosity_mpa_s)[0]
    assert after.return_kpa[IDLE] - hose == pytest.approx(leg(verdict, IDLE).drop_kpa, rel=1e-4)
    assert after.floor_kpa[IDLE] > before.floor_kpa[IDLE] + 50.0
    assert after.passages_kpa[PEAK] == before.passages_kpa[PEAK]


def test_in_the_feed_it_costs_supply():
    _, plain, verdict = judged("feed_cooler", rated_drop_kpa=100.0)
    before, after = plain.points.hydraulics, verdict.points.hydraulics
    assert after.supply_at_set_m3_s[PEAK] < before.supply_at_set_m3_s[PEAK]
    assert after.passages_kpa[PEAK] > before.passages_kpa[PEAK] + 50.0


def test_at_its_rated_point_it_gives_its_rated_heat():
    one = Option.model_validate({**demo("curlew").options[0].model_dump(mode="json"), "return_cooler": COOLER})
    stream = 750.0 * 2220.0 * 300.0 / 3.6e6
    cooler = one.return_cooler
    assert stream * 25.0 * (1.0 - math.exp(-cooler.ua_w_k / stream)) == pytest.approx(1500.0)


@pytest.mark.parametrize(("place", "key"), [("feed_cooler", "cooler.feed_w"), ("return_cooler", "cooler.return_w")])
def test_heat_is_that_of_the_effectiveness_method_and_cools_the_tank(place, key):
    one, plain, verdict = judged(place)
    context, hyd = Context(one, verdict), verdict.points.hydraulics
    flow = hyd.bypass_m3_s[IDLE] if place == "return_cooler" else hyd.supply_m3_s[IDLE]
    stream = float(flow) * verdict.fuel.density_kg_m3 * 2220.0
    rated = 750.0 * 2220.0 * 300.0 / 3.6e6
    transfer_units = -math.log(1.0 - 1500.0 / (rated * 25.0)) * rated / stream
    expected = stream * 35.0 * (1.0 - math.exp(-transfer_units))
    assert value(key, context) == pytest.approx(expected, rel=1e-9)
    volume = one.options[0].tank.volume_l
    capacity = verdict.fuel.density_kg_m3 * volume / 2000.0 * 2.22
    watts = sum(
        float(hyd.amps[i, IDLE] * hyd.volts[i, IDLE]) * group.count for i, group in enumerate(one.options[0].pumps)
    )
    assert value("suction.warming_k_h", context) == pytest.approx((watts - expected) * 3.6 / capacity, rel=1e-9)
    assert value("suction.warming_k_h", context) < value("suction.warming_k_h", Context(one, plain))


def test_without_one_nothing_is_given_away_and_hot_air_warms_the_fuel():
    one, plain, _ = judged("return_cooler")
    assert value("cooler.return_w", Context(one, plain)) == 0.0
    hot, _, verdict = judged("return_cooler", air_c=80.0)
    assert value("cooler.return_w", Context(hot, verdict)) < 0.0


def test_a_cooler_cannot_give_more_than_the_fuel_brings():
    data = demo("curlew").options[0].model_dump(mode="json")
    with pytest.raises(ValidationError, match="brings no more than"):
        Option.model_validate({**data, "return_cooler": COOLER | {"rated_heat_w": 5000}})


def test_it_stands_in_the_parts_list_of_its_line():
    one, _, verdict = judged("return_cooler")
    rows = [row for row in parts_list(one, one.options[0], (verdict,)) if row.part == "Fuel cooler"]
    assert [(row.section, row.count) for row in rows] == [("Return", 1)]
