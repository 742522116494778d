"""Every regulator arrangement on one system: the square-root law, the feed's drop, and what goes round."""

import numpy as np
import pytest

from iron_gulp.core.judge import judge
from iron_gulp.core.model import apply
from iron_gulp.core.study import every_arrangement
from tests.systems import a_target, build, check_option, demo


@pytest.fixture(scope="module")
def found():
    one = build(check_option(2), a_target(boost_kpa=150, power_kw=200))
    return {kind.name: kind for kind in arranged(one)}


def arranged(one):
    return every_arrangement(one, one.options[0], one.targets[0])


def test_one_is_as_fitted_and_equals_the_system_itself(found):
    one = build(check_option(2), a_target(boost_kpa=150, power_kw=200))
    verdict = judge(one, one.options[0], one.targets[0])
    (fitted,) = [kind for kind in found.values() if kind.fitted]
    assert fitted.name == "Manifold"
    assert fitted.rail_kpa[1] == pytest.approx(float(verdict.points.hydraulics.rail_kpa[0]))
    assert fitted.duty_pct == pytest.approx(float(verdict.points.duty[0]) * 100)
    assert fitted.pump_load == pytest.approx(verdict.load("pumps").load)


def test_a_fixed_reference_follows_the_square_root_law():
    """At a rail that is held, 300 kPa base: 150 kPa of boost leaves half the pressure, 60 kPa of vacuum adds a fifth."""
    one = build(check_option(1), a_target(boost_kpa=150, power_kw=150), engine={"displacement_l": 2.5, "cylinders": 5})
    large = one.options[0].regulator.part.model_copy(update={"capacity_l_h": 5000.0})
    one = apply(one, [("options/o1/regulator/part", large.model_dump(mode="json"))])
    one = apply(one, [("options/o1/return_line/part/bore_mm", 20.0)])
    kinds = {kind.name: kind for kind in arranged(one)}
    fixed, followed = kinds["Atmosphere"], kinds["Manifold"]
    assert fixed.open_g_s[1] / followed.open_g_s[1] == pytest.approx(np.sqrt(150 / 300), rel=1e-3)
    assert fixed.open_g_s[0] / followed.open_g_s[0] == pytest.approx(np.sqrt(360 / 300), rel=5e-3)


def test_a_rising_rate_loads_pumps_more_and_injectors_less():
    kinds = {kind.name: kind for kind in arranged(build(check_option(1), a_target(boost_kpa=120, power_kw=130)))}
    rising, followed = kinds["Rising rate"], kinds["Manifold"]
    assert rising.rail_kpa[1] == pytest.approx(followed.rail_kpa[1] + 0.7 * 120, abs=2.0)
    assert rising.pump_load > followed.pump_load
    assert rising.duty_pct < followed.duty_pct
    assert rising.current_a[1] > followed.current_a[1]


def test_by_pump_speed_nothing_goes_round_at_idle(found):
    speed, plain = found["By pump speed"], found["Manifold"]
    assert speed.heat_w[0] < 0.5 * plain.heat_w[0]
    assert speed.current_a[0] < plain.current_a[0]


def test_a_chosen_rising_ratio_is_kept():
    one = apply(build(None, a_target(boost_kpa=100)), [("options/o1/regulator/rising_ratio", 2.0)])
    rising = next(kind for kind in arranged(one) if kind.name == "Rising rate")
    assert rising.rail_kpa[1] == pytest.approx(300 + 2 * 100, abs=2.0)


def test_a_carburettor_has_none_of_this():
    fieldfare = demo("fieldfare")
    assert every_arrangement(fieldfare, fieldfare.options[0], fieldfare.targets[0]) == []


def test_turndown_and_what_the_pumps_have_left():
    curlew = demo("curlew")
    verdict = judge(curlew, curlew.options[0], curlew.targets[-1])
    fitted = next(one for one in every_arrangement(curlew, verdict.option, verdict.target) if one.fitted)
    points = verdict.points
    assert fitted.turndown == pytest.approx(float(points.effective_ms[0] / points.effective_ms[1]))
    at_set = float(points.hydraulics.supply_at_set_m3_s[0])
    need = verdict.demand.chosen_kg_s / verdict.fuel.density_kg_m3
    assert fitted.left_m3_s == pytest.approx(at_set - need, rel=1e-6)
    assert fitted.pump_load == pytest.approx(need / at_set)
