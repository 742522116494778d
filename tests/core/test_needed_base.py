"""Every arrangement at the base pressure it needs: the least that carries, the law of each reference, what it spares."""

import numpy as np
import pytest

from iron_gulp.core.judge import judge
from iron_gulp.core.study import every_arrangement, flow_over_manifold, needed_bases
from iron_gulp.core.study.needed_base import LEAST_KPA, ROUND_KPA, _on
from iron_gulp.core.study.references import DEFAULT_RISE, arrangements
from iron_gulp.shelf import load_shelf
from tests.systems import a_target, build, check_option, demo

SHELF = load_shelf().catalogue
BOOST = 120.0


@pytest.fixture(scope="module")
def asked():
    one = build(check_option(2), a_target(boost_kpa=BOOST, power_kw=260))
    return one, one.options[0], one.targets[0]


@pytest.fixture(scope="module")
def bases(asked):
    return {one.name: one for one in needed_bases(*asked)}


def test_it_is_the_least_base_at_which_the_injectors_hold(asked, bases):
    one, option, target = asked
    for name, arranged, _ in arrangements(one, option):
        base = bases[name].base_kpa
        assert LEAST_KPA < base < 900
        load = judge(one, _on(arranged, base), target).load("injectors").load
        less = judge(one, _on(arranged, base - ROUND_KPA), target).load("injectors").load
        assert load <= 1.0 < less


def test_a_reference_changes_the_base_by_what_it_adds_under_boost(bases):
    """All need the same pressure across the injectors at this target: base + ratio × boost − boost."""
    across = bases["Manifold"].base_kpa
    assert bases["Atmosphere"].base_kpa == pytest.approx(across + BOOST, abs=ROUND_KPA)
    assert bases["Rising rate"].base_kpa == pytest.approx(across - (DEFAULT_RISE - 1.0) * BOOST, abs=ROUND_KPA)
    assert bases["By pump speed"].base_kpa == across
    # Behind a regulator near the tank the feed's drop comes on top.
    assert bases["Near the tank"].base_kpa >= bases["Atmosphere"].base_kpa


def test_what_it_spares_is_against_the_system_as_it_is(asked, bases):
    (now,) = [one for one in every_arrangement(*asked) if one.fitted]
    for one in bases.values():
        assert one.spared_a == pytest.approx(now.current_a[1] - one.there.current_a[1])
        assert one.spared_w == pytest.approx(now.heat_w[1] - one.there.heat_w[1])
        assert one.spared_load == pytest.approx(now.pump_load - one.there.pump_load)
        assert one.there.left_m3_s == pytest.approx(bases["Manifold"].there.left_m3_s, rel=0.1)


def test_nothing_carries_at_any_base_where_injectors_are_far_too_small():
    one = build(check_option(2), a_target(boost_kpa=200.0, power_kw=1500))
    assert {each.base_kpa for each in needed_bases(one, one.options[0], one.targets[0])} == {None}
    easy = build(check_option(2), a_target(boost_kpa=0.0, power_kw=20))
    (least,) = {each.base_kpa for each in needed_bases(easy, easy.options[0], easy.targets[0])}
    assert least == LEAST_KPA
    assert needed_bases(easy, easy.options[0], easy.targets[0])[0].or_less


@pytest.mark.parametrize("needed", [True, False])
def test_curves_follow_the_square_root_of_what_is_across(asked, bases, needed):
    one, option, target = asked
    sweep = flow_over_manifold(one, option, target, SHELF, needed, per_cent=False)
    lines = {series.label: series for series in sweep.series if series.kind in ("main", "each")}
    for label, series in lines.items():
        name = label.split(",")[0].split(";")[0]
        if name == "Near the tank":
            continue
        ratio = {"Atmosphere": 0.0, "Manifold": 1.0, "Rising rate": DEFAULT_RISE}[name]
        base = bases[name].base_kpa if needed else option.regulator.base_kpa
        # A rising rate adds its multiple under boost; in vacuum it is as a plain reference.
        set_kpa = base + ratio * series.x
        across = set_kpa - series.x
        law = series.y / np.sqrt(across)
        where = series.x >= 0
        assert np.ptp(law[where]) <= 1e-6 * law[where].max()
    (main,) = [series for series in sweep.series if series.kind == "main"]
    assert "as fitted" in main.label
    assert "by pump speed" in main.label  # they inject alike: one line
    pale = [series for series in sweep.series if series.kind == "pale"]
    assert [one.label.split(",")[0] for one in pale] == ["Next smaller", "Next larger"]
    assert (pale[0].y < pale[1].y).all()
    (point,) = [series for series in sweep.series if series.kind == "point"]
    if needed:
        for series in lines.values():
            passed = float(np.interp(BOOST, series.x, series.y))
            assert passed == pytest.approx(float(point.y[0]), rel=0.05)  # dead times move with pressure


def test_shares_are_of_the_unboosted_flow_and_bear_no_other_injectors(asked):
    one, option, target = asked
    sweep = flow_over_manifold(one, option, target, SHELF, needed=False, per_cent=True)
    assert {series.kind for series in sweep.series} == {"main", "each"}
    for series in sweep.series:
        assert float(series.y[series.x == 0.0][0]) == pytest.approx(100.0)


@pytest.mark.parametrize(("name", "option"), [("dunlin", "as-found"), ("fieldfare", "deadhead")])
def test_without_port_injectors_there_is_nothing_to_need(name, option):
    one = demo(name)
    chosen = one.option(option)
    assert needed_bases(one, chosen, one.targets[0]) == []
    with pytest.raises(KeyError):
        flow_over_manifold(one, chosen, one.targets[0], SHELF, needed=True, per_cent=False)
