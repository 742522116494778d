"""A bare number out of range that is plain in another unit is asked back with that unit."""

import pytest

from iron_gulp.services.answers import meant_by
from iron_gulp.services.fields import BadValue, meant_at, read_field
from iron_gulp.units import PRESETS, BenchUnits

KEPT, US = BenchUnits(), BenchUnits(PRESETS["US"])


@pytest.mark.parametrize(
    ("path", "typed", "units", "meant"),
    [
        ("options/o1/regulator/base_kpa", "3", KEPT, "3 bar"),
        ("engine/displacement_l", "2500", KEPT, "2500 cc"),
        ("options/o1/feed/length_m", "156", KEPT, "156 ft"),
        ("engine/displacement_l", "2.5", US, "2.5 L"),  # cubic inches are chosen, and 41 cc are a build's to hold
    ],
)
def test_the_other_unit_is_named_and_read(path, typed, units, meant):
    with pytest.raises(BadValue, match=f"Was {meant} "):
        read_field(path, typed, units)
    assert read_field(path, meant, units) > 0
    assert meant_at(path, typed, units)[0] == meant


@pytest.mark.parametrize(
    ("path", "typed"),
    [
        ("options/o1/regulator/base_kpa", "3 kPa"),  # said, and wrong
        ("options/o1/regulator/base_kpa", "90000"),
        ("targets/t1/power_kw", "-5"),
        ("targets/t1/rpm", "2"),
    ],
)
def test_nothing_is_asked_where_a_unit_was_said_or_none_makes_sense_of_it(path, typed):
    with pytest.raises(BadValue) as refused:
        read_field(path, typed, US)
    assert "meant" not in str(refused.value)
    assert "must lie" in str(refused.value)


def test_a_comma_before_three_digits_is_asked_back_both_ways():
    assert meant_at("targets/t1/power_kw", "1,000 hp", US) == ("1000 hp", "1.000 hp")
    assert meant_by("power_kw", "1,000 hp", KEPT) == ("1000 hp", "1.000 hp")
    for one in ("1000 hp", "1.000 hp", "1,5 hp", "1,00 hp"):
        assert meant_at("targets/t1/power_kw", one, US) == ()


def test_what_a_said_unit_makes_small_is_taken_as_it_is():
    assert read_field("engine/displacement_l", "50 cc", US) == pytest.approx(0.05)
    assert read_field("engine/displacement_l", "150", US) == pytest.approx(150 * 0.016387064)
    assert meant_by("displacement_l", "2.5", US) == ("2.5 L",)
    assert meant_by("fuel", "2.5", US) == ()
