"""Two recorded pulls compared."""

import pytest

from iron_gulp.core.advise import find
from iron_gulp.core.judge import judge_all
from iron_gulp.core.model import Engine
from iron_gulp.core.study import pull_gain
from iron_gulp.shelf import load_shelf
from tests.systems import build


class TestPulls:
    """Two recorded pulls, against ratios of absolute pressures worked out by hand."""

    def pulled(self, low, low_kw, high, high_kw):
        return build(
            engine=Engine(
                displacement_l=2.5,
                cylinders=5,
                pull_low_boost_kpa=low,
                pull_low_power_kw=low_kw,
                pull_high_boost_kpa=high,
                pull_high_power_kw=high_kw,
            )
        )

    def test_gain_promised_and_got(self):
        found = pull_gain(self.pulled(50.0, 200.0, 100.0, 220.0))
        assert found.expected == pytest.approx(201.325 / 151.325 - 1.0)
        assert found.got == pytest.approx(0.1)
        assert found.kept == pytest.approx(0.1 / 0.330415, rel=1e-4)

    def test_half_the_gain_is_where_it_begins_to_speak(self):
        def heard(high_kw):
            one = self.pulled(50.0, 200.0, 100.0, high_kw)
            found = find(one, one.options[0], judge_all(one, one.options[0]), load_shelf().catalogue)
            return "pulls-heat" in {each.code for each in found}

        assert heard(200.0 * (1 + 0.330415 * 0.49))
        assert not heard(200.0 * (1 + 0.330415 * 0.51))

    def test_nothing_is_said_until_both_pulls_are_there(self):
        assert pull_gain(self.pulled(50.0, 200.0, 100.0, None)) is None

    def test_pulls_the_wrong_way_round_are_refused(self):
        with pytest.raises(ValueError, match="40 kPa is not above 50 kPa"):
            self.pulled(50.0, 200.0, 40.0, 220.0)
