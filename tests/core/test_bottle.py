"""A pump measured into a bottle: the table it gives, and how it stands against the one it was sold by."""

from types import SimpleNamespace

import pytest

from iron_gulp.core.model import PumpCurve, PumpPart
from iron_gulp.core.study import Reading, bottle_test
from iron_gulp.core.study.bottle import BottleTest


def reading(pressure_kpa, flow_l_h, volts=13.5, amps=9.0):
    """A litre caught, in the time this flow takes."""
    return Reading(pressure_kpa, 1.0, 3600.0 / flow_l_h, volts, amps)


def sold(*flow_l_h):
    curve = PumpCurve(voltage_v=13.5, pressure_kpa=(0, 200, 400), flow_l_h=flow_l_h, current_a=(6, 8, 11))
    return PumpPart(name="sold", curves=(curve,))


def test_readings_in_any_order_make_a_table_that_never_rises():
    """101 after 100 is within what a stopwatch errs by: the table holds the lower one."""
    found = bottle_test([reading(400, 80, 13.2, 11), reading(200, 101, 13.4, 9), reading(0, 100, 13.6, 7)]).curve
    assert found.pressure_kpa == (0, 200, 400)
    assert found.flow_l_h == pytest.approx((100, 100, 80))
    assert found.current_a == (7, 9, 11)
    assert found.voltage_v == pytest.approx(13.4)


@pytest.mark.parametrize(("share", "fits"), [(0.901, True), (0.899, False)])
def test_the_worst_reading_tells_whether_it_is_what_it_was_sold_as(share, fits):
    found = bottle_test([reading(0, 200), reading(200, 150 * share), reading(400, 100)], sold(200, 150, 100))
    assert [one.claimed_l_h for one in found.points] == pytest.approx([200, 150, 100])
    assert found.worst_share == pytest.approx(share)
    assert found.matches is fits
    assert bottle_test([reading(0, 200), reading(400, 100)]).matches is None


def test_nine_tenths_of_what_was_sold_is_what_was_sold():
    for shares, fits in (((1.0, 0.9), True), ((0.9, 0.8999), False), ((None, 0.95), True), ((None,), None)):
        assert BottleTest(None, tuple(SimpleNamespace(share=one) for one in shares)).matches is fits


@pytest.mark.parametrize(
    ("readings", "words"),
    [
        ([reading(0, 200)], "two readings"),
        ([reading(0, 200), Reading(300, 1.0, 0.0, 13.5, 9.0)], "time above zero"),
        ([reading(0, 200), reading(300, 205)], "rises with pressure"),
    ],
)
def test_what_makes_no_table_is_refused(readings, words):
    with pytest.raises(ValueError, match=words):
        bottle_test(readings)
    assert bottle_test([reading(0, 200), reading(300, 203)]).curve.flow_l_h == (200, 200)
