"""What an account of a sized system must hold: every figure as data, and each the option's own."""

import re

import pytest

from iron_gulp.core.judge import judge_all
from iron_gulp.core.plan import headroom_of

NUMBER = re.compile(r"\d")


def check_account(build, option, found):
    """That no reason has a figure in its words, and that the figures are those of the option, worked out again."""
    values = {}
    for one in found:
        assert not NUMBER.search(re.sub(r"{\w+}", "", one.text)), one.text
        assert set(re.findall(r"{(\w+)}", one.text)) <= set(one.values)
        for key, value in one.values.items():
            values.setdefault(key, []).append(value)
    judged = judge_all(build, option)
    assert values["left_pct"] == [pytest.approx(100.0 * headroom_of(judged))]
    if option.injectors is not None:
        assert option.regulator.base_kpa in values["base_kpa"]
        assert max(float(v.points.duty[0]) for v in judged) * 100 == pytest.approx(values["duty_pct"][0], rel=1e-6)
    electric = [group for group in option.pumps if group.part.kind != "mechanical" and group.wiring.fuse_a]
    assert [group.wiring.fuse_a for group in electric] == values.get("fuse_a", [])
    assert [group.wiring.area_mm2 for group in electric] == values.get("area_mm2", [])
    joins = [group.on_above_kpa or 0.0 for group in option.pumps if group.staged]
    assert values.get("joins_kpa", []) == joins
    if option.lift is not None:
        worst = max(judged, key=lambda v: v.load("lift").load)
        assert values["drawn_l_h"] == [pytest.approx(worst.surge.drawn_m3_s * 3.6e6)]
        assert values["lasts_s"] == [pytest.approx(option.lift.surge_l * 1e-3 / worst.surge.drawn_m3_s)]
