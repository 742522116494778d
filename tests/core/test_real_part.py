"""What a real part must offer is where the loads it moves cross their limits; the target named is the one that fails."""

from dataclasses import replace

import pytest

from iron_gulp.core.judge import judge_many
from iron_gulp.core.model import PumpCurve, PumpPart, apply
from iron_gulp.core.plan import needs, with_datum
from tests.draws import LONG
from tests.systems import build, check_option, demo, pump

MOVES = {
    "lift": (("lift",), ()),
    "pumps": (("pumps",), ("regulator",)),
    "filter": (("pumps", "feed"), ()),
    "feed": (("feed", "pumps"), ()),
    "injectors": (("injectors",), ("injector idle",)),
    "regulator": (("regulator",), ()),
    "return_line": (("regulator", "return"), ()),
    "pump": (("high-pressure pump",), ()),
    "direct": (("direct injectors",), ("direct injector idle",)),
}
OPTIONS = [("curlew", 0), ("curlew", 2), ("saltern", 1), ("dunlin", 2), ("fieldfare", 1)]


def moved(path):
    if path.startswith("high_side"):
        return MOVES["pump" if "pumps" in path else "direct"]
    return MOVES[path.split("/")[0]]


@pytest.mark.parametrize(("name", "number"), OPTIONS if LONG else OPTIONS[:1])
def test_a_part_at_its_bound_holds_and_one_past_it_fails_on_the_target_named(name, number):
    build = demo(name)
    option, limit = build.options[number], 1 / (1 + build.rules.headroom_pct / 100)
    found = needs(build, option)
    assert len(found) >= 4
    bounded = 0
    for need in found:
        low, high = moved(need.path)

        def loads(value, components, need=need):
            other = with_datum(build, option, need.path, value)
            judged = judge_many([(build, other, one) for one in build.targets], ceilings=False)
            return {one.target.name: max(one.load(each).load for each in components) for one in judged}

        if need.least is not None and not need.beside:
            bounded += 1
            assert max(loads(need.least * 1.01, low).values()) <= limit
            # A jump, where a stage is lost or a table ends, is told on its safe side.
            past = loads(need.least * 0.93, low)
            assert past[need.least_on] > limit
            if need.path in ("injectors", "high_side/injectors"):
                assert loads(need.least * 0.99, low)[need.least_on] > limit
        if need.most is not None:
            assert max(loads(need.most * 0.99, high).values()) <= 1.0
            assert loads(need.most * 1.07, high)[need.most_on] > 1.0
        same = with_datum(build, option, need.path, need.has)
        assert judge_many([(build, same, build.targets[0])])[0].loads[0].load == pytest.approx(
            judge_many([(build, option, build.targets[0])])[0].loads[0].load, rel=1e-3
        )
    assert bounded >= 2


def test_a_line_that_is_not_there_is_none():
    build = demo("curlew")
    with pytest.raises(KeyError):
        with_datum(build, build.options[0], "high_side/injectors", 900.0)


def test_a_pump_that_cannot_make_the_pressure_has_no_bound_of_its_own():
    """What brings nothing there cannot be scaled until it does."""
    weak = PumpCurve(voltage_v=13.5, pressure_kpa=(0, 60), flow_l_h=(200, 0), current_a=(4, 6))
    pumps = (pump(), pump(id="g2", part=PumpPart(name="weak", curves=(weak,))))
    one = build(check_option(pumps=pumps))
    paths = {need.path for need in needs(one, one.options[0])}
    assert "pumps/g1" in paths
    assert "pumps/g2" not in paths


def test_a_part_is_short_below_its_least_and_above_its_most_alone():
    feed = next(one for one in needs(demo("curlew"), demo("curlew").options[0]) if one.path == "feed")
    bounds = replace(feed, least=8.0, most=12.0)
    told = [(has, replace(bounds, has=has).short) for has in (7.99, 8.0, 8.01, 10.0, 11.99, 12.0, 12.01)]
    assert [has for has, short in told if short] == [7.99, 12.01]
    assert not replace(bounds, least=None, has=1.0).short
    assert not replace(bounds, most=None, has=100.0).short


def test_what_does_not_help_alone_is_found_with_its_partners_freed_and_says_so():
    """A pump behind a feed that throttles it: no pump alone does, nor any feed; each does with the other larger."""
    curlew = demo("curlew")
    poor = apply(curlew, [("options/as-built/feed/part/bore_mm", 3.4)])
    option = poor.options[0]
    found = {one.path: one for one in needs(poor, option)}
    helped = [one for one in found.values() if one.beside]
    assert helped
    for one in helped:
        assert one.hopeless
        titles = {other.title for other in found.values()}
        assert set(one.beside) <= titles - {one.title}
    plain = [one for one in needs(curlew, curlew.option("one-large")) if not one.hopeless]
    assert plain
    assert not any(one.beside for one in plain)
