"""A bare number out of range that is plain in another unit is asked back with that unit."""

import pytest

from iron_gulp.services.fields import BadValue, read_field
from iron_gulp.units import PRESETS, BenchUnits

KEPT, US = BenchUnits(), BenchUnits(PRESETS["US"])


@pytest.mark.parametrize(
    ("path", "typed", "units", "meant"),
    [
        ("options/o1/regulator/base_kpa", "3", KEPT, "3 bar"),
        ("engine/displacement_l", "2500", KEPT, "2500 cc"),
        ("options/o1/feed/length_m", "156", KEPT, "156 ft"),
    ],
)
def test_the_other_unit_is_named_and_read(path, typed, units, meant):
    with pytest.raises(BadValue, match=f"Was {meant} meant"):
        read_field(path, typed, units)
    assert read_field(path, meant, units) > 0


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
