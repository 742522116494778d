"""Speed controllers on one rail: crossovers against a loop written out in complex numbers, and who is told."""

import numpy as np
import pytest
from hypothesis import given
from hypothesis import strategies as st

from iron_gulp.core.advise import find
from iron_gulp.core.judge import judge, judge_all
from iron_gulp.core.model import apply
from iron_gulp.core.physics import crossover_rad_s, flow_l_h, lag_s
from iron_gulp.core.study import line_volume_m3, loops
from iron_gulp.shelf import load_shelf
from tests.systems import build, check_option, pump


def controlled(first, second):
    """Two equal groups on one rail, each with its gain and reset."""
    one = build(check_option(pumps=(pump(), pump(id="g2"))))
    edits = [("options/o1/regulator/arrangement", "returnless, speed-controlled")]
    for group, (gain, reset) in zip(one.options[0].pumps, (first, second), strict=True):
        path = f"options/o1/pumps/{group.id}"
        edits += [(f"{path}/gain_pct_per_kpa", gain), (f"{path}/reset_s", reset)]
    return apply(one, edits)


def heard(one):
    found = find(one, one.options[0], judge_all(one, one.options[0]), load_shelf().catalogue)
    return {finding.code: finding for finding in found}.get("controllers-fight")


@given(st.floats(0.05, 50), st.floats(0.02, 20), st.floats(0.05, 50), st.floats(1e-3, 1))
def test_a_loop_gain_of_one_stands_at_its_crossover(gain, reset, plant, lag):
    at = 1j * float(crossover_rad_s(gain, reset, plant, lag))
    assert abs(gain * (1 + 1 / (at * reset)) * plant / (1 + at * lag)) == pytest.approx(1.0, rel=1e-6)


def test_the_lag_is_volume_over_stiffness_and_slope():
    assert float(lag_s(2.5e-4, 150e6, 1.4e-10)) == pytest.approx(0.0119, rel=1e-2)


def test_volume_is_that_of_feed_and_rails():
    option = check_option()
    feed, rail = option.feed, option.rail
    bores = [(feed.part.bore_mm, feed.length_m), *[(rail.bore_mm, rail.length_m)] * rail.count]
    assert line_volume_m3(option) == pytest.approx(sum(np.pi / 4 * (d / 1e3) ** 2 * length for d, length in bores))


@pytest.mark.parametrize("count", [1, 2])
def test_the_loop_of_a_group_is_that_of_its_own_pumps(count):
    """Slope and gain of the group worked out off its table at the volts its controller leaves it."""
    one = apply(controlled((0.5, 0.2), (0.5, 0.2)), [("options/o1/pumps/g2/count", count)])
    verdict = judge(one, one.options[0], one.targets[0])
    found, hyd = loops(verdict)[1], verdict.points.hydraulics
    table = one.options[0].pumps[1].part.tables()
    rise, speed, volts = float(hyd.pump_rise_kpa[0]), float(hyd.speed[0]), float(hyd.volts[1, 0])

    def brought_m3_s(kpa, share):
        return count * float(flow_l_h(table, kpa, volts * share / speed)) / 3.6e6

    slope = (brought_m3_s(rise - 1, speed) - brought_m3_s(rise + 1, speed)) / 2e3
    gained = (brought_m3_s(rise, speed + 0.001) - brought_m3_s(rise, speed - 0.001)) / 0.2
    lag = float(lag_s(line_volume_m3(one.options[0]), 150e6, slope))
    assert found.lag_s == pytest.approx(lag, rel=1e-2)
    crossover = float(crossover_rad_s(0.5, 0.2, gained / slope / 1e3, lag)) / (2 * np.pi)
    assert found.crossover_hz == pytest.approx(crossover, rel=2e-2)


def test_equal_loops_fight_and_loops_apart_do_not():
    equal, apart = controlled((0.5, 0.2), (0.5, 0.2)), controlled((2.0, 0.2), (0.3, 0.2))
    one, other = loops(judge(equal, equal.options[0], equal.targets[0]))
    assert one.crossover_hz == pytest.approx(other.crossover_hz, rel=1e-6)
    assert "answers the other" in heard(equal).text
    slow, fast = sorted(each.crossover_hz for each in loops(judge(apart, apart.options[0], apart.targets[0])))
    assert fast > 2 * slow
    assert heard(apart) is None


def test_without_gains_it_is_asked_for_them_and_one_that_follows_is_the_cure():
    untold = controlled((None, None), (0.5, 0.2))
    finding = heard(untold)
    assert "worked out here" in finding.text
    assert heard(apply(untold, list(finding.remedies[0].edits))) is None
