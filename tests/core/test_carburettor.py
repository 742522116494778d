"""Carburettor systems: needles, deadhead and bypass regulators, and what goes wrong with them."""

import numpy as np
import pytest
from hypothesis import given
from hypothesis import strategies as st
from pydantic import ValidationError

from iron_gulp.core.advise import find
from iron_gulp.core.judge import judge, judge_all
from iron_gulp.core.model import Carburettor, Option, apply
from iron_gulp.core.solve import Points, State, needle_flow_kg_s, solve
from iron_gulp.core.study import legs
from iron_gulp.shelf import load_shelf
from tests.draws import draws
from tests.systems import check_option, demo

L_H = 1e-3 / 3600
RHO, MU = 745.0, 0.6


@pytest.fixture
def fieldfare():
    return demo("fieldfare")


def at(option, demand_l_h, volts=13.5):
    return solve(option, Points(0.0, np.asarray(demand_l_h) * L_H * RHO, volts, RHO, MU))


def codes(build, option_id):
    option = build.option(option_id)
    return {one.code for one in find(build, option, judge_all(build, option), load_shelf().catalogue)}


def test_needle_flow_is_the_orifice_law():
    fitted = Carburettor(needles=2, needle_mm=2.0)
    area = 2 * np.pi / 4 * 0.002**2
    assert float(needle_flow_kg_s(fitted, 25.0, RHO)) == pytest.approx(0.7 * area * np.sqrt(2 * RHO * 25_000))
    assert float(needle_flow_kg_s(fitted, -5.0, RHO)) == 0.0


def test_deadhead_droops_with_flow_and_returns_nothing(fieldfare):
    option = fieldfare.option("deadhead")
    got = at(option, [1.0, 20.0])
    droop = option.regulator.part.droop_kpa / 100
    assert got.rail_kpa == pytest.approx([28 - droop * 1.0, 28 - droop * 20.0], rel=0.03)
    assert got.bypass_m3_s.max() == 0.0
    assert got.supply_m3_s == pytest.approx(got.delivered_m3_s)


def test_bypass_holds_its_pressure_and_returns_the_rest(fieldfare):
    got = at(fieldfare.option("bypass"), [1.0, 20.0, 40.0])
    assert got.rail_kpa == pytest.approx([23.9, 23.7, 23.5], abs=0.5)
    assert np.all(got.bypass_m3_s > 0)
    assert got.supply_m3_s == pytest.approx(got.delivered_m3_s + got.bypass_m3_s)


def test_floats_take_what_they_need_until_the_needles_are_wide_open(fieldfare):
    option = fieldfare.option("bypass")
    got = at(option, [30.0, 400.0])
    assert got.lambda_factor[0] == 1.0
    assert got.state[1] == State.STARVED
    passes = needle_flow_kg_s(option.carburettor, got.rail_kpa[1], RHO) / RHO
    assert got.delivered_m3_s[1] == pytest.approx(float(passes), rel=1e-3)


@draws(40)
@given(st.sampled_from(["deadhead", "bypass"]), st.floats(0, 500), st.floats(5, 15))
def test_carburettor_systems_conserve_mass_and_have_an_answer(name, demand, volts):
    got = at(demo("fieldfare").option(name), demand, volts)
    assert got.supply_m3_s[0] == pytest.approx(got.delivered_m3_s[0] + got.bypass_m3_s[0], rel=1e-6, abs=1e-12)
    assert np.isfinite(got.rail_kpa[0])
    assert got.lambda_factor[0] >= 1 - 1e-9


def test_what_ails_the_car_as_found_and_what_cures_it(fieldfare):
    found = codes(fieldfare, "deadhead")
    assert {"float-flooded", "external-pump-pulls", "pre-filter-fine", "deadhead-drift"} <= found
    assert not found & {"fixed-reference", "no-differential", "injectors-small", "filter-coarse"}
    cured = codes(fieldfare, "bypass")
    assert not cured & {"float-flooded", "external-pump-pulls", "pre-filter-fine", "deadhead-drift"}


def test_low_pressure_and_small_needles_are_named(fieldfare):
    dry = apply(fieldfare, [("options/bypass/regulator/base_kpa", 16.0), ("options/bypass/carburettor/lowest_kpa", 20.0)])
    assert "float-dry" in codes(dry, "bypass")
    narrow = apply(fieldfare, [("options/bypass/carburettor/needle_mm", 1.0)])
    assert "needles-small" in codes(narrow, "bypass")
    assert judge(narrow, narrow.option("bypass"), narrow.target("stage")).first_out.component == "needles"


def test_a_system_meters_one_way_only():
    plain = check_option().model_dump()
    for changes in (
        {"carburettor": {}},
        {"injectors": None},
        {"injectors": None, "carburettor": {}},
        {"regulator": {**plain["regulator"], "arrangement": "carburettor, bypass"}},
    ):
        with pytest.raises(ValidationError, match="carburettor"):
            Option.model_validate({**plain, **changes})


@pytest.mark.parametrize("name", ["deadhead", "bypass"])
def test_legs_end_at_the_floats(name):
    fieldfare = demo("fieldfare")
    verdict = judge(fieldfare, fieldfare.option(name), fieldfare.target("liaison"))
    found = legs(verdict)
    inlet = float(verdict.points.hydraulics.rail_kpa[0])
    if name == "deadhead":
        assert [leg.name for leg in found][-2:] == ["Feed", "Regulator"]
        assert found[-1].after_kpa == pytest.approx(inlet)
        assert found[-1].drop_kpa > 5.0
    else:
        assert [leg.name for leg in found][-2:] == ["Regulator", "Return"]
        assert next(leg for leg in found if leg.name == "Feed").after_kpa == pytest.approx(inlet, rel=5e-3)
        assert found[-1].after_kpa == pytest.approx(0.0, abs=0.01)


def test_a_smaller_feed_is_not_offered_where_floats_would_miss_it():
    fieldfare = demo("fieldfare")
    for option in fieldfare.options:
        found = find(fieldfare, option, judge_all(fieldfare, option), load_shelf().catalogue)
        assert "feed-large" not in {finding.code for finding in found}


def test_a_float_chamber_that_gets_nothing_is_past_its_limit_and_not_an_error(fieldfare):
    """Under an acceleration that takes more than the regulator sets, no power at all can be fed."""
    option = fieldfare.options[0]
    option = option.model_copy(update={"feed": option.feed.model_copy(update={"length_m": 20.0})})
    launched = fieldfare.targets[0].model_copy(update={"accel_g": 2.5, "power_kw": 1e-3})
    with np.errstate(divide="raise", invalid="raise"):
        verdict = judge(fieldfare, option, launched)
    needles = verdict.load("needles")
    assert needles.load > 1e3
    assert needles.status == "over"
    assert needles.ceiling_kw is None or 0 <= needles.ceiling_kw <= launched.power_kw
