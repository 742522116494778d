"""Speed and boost that a new build assumes: found together, target by target, and a cap is called a cap."""

import pytest

from iron_gulp.core.plan import Answers
from iron_gulp.services.asking import asked_build
from iron_gulp.services.breathing import fastest_rpm, most_boost_kpa
from iron_gulp.services.sizing_words import in_words
from iron_gulp.shelf import load_shelf
from iron_gulp.units import PRESETS, BenchUnits

SHELF = load_shelf()


def asked(power_hp, **more):
    build, assumed = asked_build(SHELF, Answers(power_kw=power_hp * 0.7457, **more))
    return build, [in_words(one, BenchUnits()) for one in assumed]


def test_boost_comes_first_and_speed_where_boost_is_at_its_cap():
    rows = []
    for hp in (265, 390, 450, 750, 950):
        build, told = asked(hp)
        (one,) = build.targets
        assert build.engine.max_rpm == one.rpm + 700
        assert ("on Pump fuel that is the most assumed" in " ".join(told)) == (one.boost_kpa == most_boost_kpa(one))
        rows.append((one.boost_kpa, one.rpm))
    assert rows == sorted(rows)
    assert rows[0][1] == rows[1][1] == 6500  # boost alone does it
    assert rows[2] == (250.0, 7000.0)
    assert rows[3] == rows[4] == (250.0, 7500.0)  # no more is assumed: the air is told short


def test_each_target_has_what_its_own_fuel_and_power_take():
    build, _ = asked(550, fuel="strong blend, E85", pump_fuel_kw=200.0, later_kw=450.0)
    strong, pump, later = build.targets
    assert pump.boost_kpa < strong.boost_kpa <= later.boost_kpa
    assert pump.rpm == 6500 <= strong.rpm <= later.rpm
    assert most_boost_kpa(pump) < most_boost_kpa(strong)


@pytest.mark.parametrize(("litres", "cylinders"), [(0.5, 1), (1.6, 4), (2.7, 6), (4.9, 8), (8.2, 8)])
def test_no_engine_is_taken_to_turn_faster_than_racing_engines_of_its_size(litres, cylinders):
    build, told = asked(900.0, displacement_l=litres, cylinders=cylinders, induction="naturally aspirated")
    stroke_m = (4e-3 * litres / cylinders / 3.14159 / 1.15**2) ** (1 / 3)
    assert fastest_rpm(build.engine) - 250.0 < build.targets[0].rpm <= fastest_rpm(build.engine) <= 9500.0
    assert 2 * stroke_m * build.targets[0].rpm / 60 <= (25.0 if cylinders < 3 else 22.0)
    assert "is the most assumed" in told[0]


def test_what_is_said_is_left_as_it_is():
    build, told = asked(950, rpm=6000.0)
    assert build.targets[0].rpm == 6000
    assert not any("peaks" in one for one in told)
    build, told = asked(950, boost_kpa=80.0)
    assert build.targets[0].boost_kpa == 80
    assert not any("Boost" in one for one in told)


def test_what_is_assumed_is_told_in_bench_units():
    _, assumed = asked_build(SHELF, Answers(power_kw=200.0))
    told = " ".join(in_words(one, BenchUnits(PRESETS["US"])) for one in assumed)
    assert "psi on Pump fuel" in told
    assert "kPa" not in told
