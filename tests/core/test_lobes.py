"""High-pressure pumps that are chosen bear the engine's speed: by the cam's lobes and by a spring that is offered."""

import pytest

from iron_gulp.core.judge import judge_all
from iron_gulp.core.model import HighPump
from iron_gulp.core.plan import Answers
from iron_gulp.core.plan.design.lobes import FILLS_ON_KPA, NUMBERS, STIFFER, bearing, fills_rpm, limit_rpm, on_cam, sprung
from iron_gulp.services.asking import asked_build
from iron_gulp.shelf import load_shelf
from tests.systems import demo

SHELF = load_shelf()
PUMPS = SHELF.catalogue.high_pumps


@pytest.mark.parametrize("part", PUMPS, ids=lambda one: one.shelf_id)
def test_a_spring_is_stiffened_only_where_the_engine_turns_faster_than_it_holds(part):
    pump = HighPump(part=part)
    limit = limit_rpm(pump)
    assert sprung(pump, limit * 0.999) == pump
    fast = sprung(pump, limit * 1.3)
    assert limit_rpm(fast) >= limit * 1.3
    assert limit_rpm(fast) == pytest.approx(limit * 1.3 * 1.1**0.5, rel=5e-3)
    assert fast.part.name.endswith(STIFFER)
    assert sprung(pump, limit * 1.6) == pump  # past what a maker offers


@pytest.mark.parametrize("part", [one for one in PUMPS if one.driven == "by cam lobes"], ids=lambda one: one.shelf_id)
def test_a_cam_has_fewer_lobes_only_where_strokes_would_not_fill(part):
    pump = HighPump(part=part)
    fills = fills_rpm(pump)
    assert bearing(pump, fills * 0.999, limit_rpm(pump) * 0.999) == pump
    fast, less = bearing(pump, fills * 1.1, 3000.0).part, part.lobes - 1
    assert (fast.lobes, fast.name) == (less, f"{part.name}, on a cam of {NUMBERS[less]}")
    assert fills_rpm(HighPump(part=fast)) == pytest.approx(fills * part.lobes / less)
    assert on_cam(fast, part.lobes) == fast
    slowest = bearing(pump, fills * 5.0, 3000.0).part  # fewer than two are no cam
    assert (slowest.lobes, slowest.name) == (2, f"{part.name}, on a cam of two")


def test_the_limits_are_those_of_the_judgement():
    build = demo("dunlin")
    option = build.options[0]
    verdict = judge_all(build, option)[0]
    for pump, judged in zip(option.high_side.pumps, verdict.points.direct.pumps, strict=True):
        assert limit_rpm(pump) == pytest.approx(float(judged.limit_rpm[0]), rel=1e-9)
        # By the fuel: that of the strongest is what is reckoned with.
        needed = float(judged.head_needed_kpa[0])
        assert FILLS_ON_KPA * (verdict.target.rpm / fills_rpm(pump)) ** 2 == pytest.approx(
            needed, rel=0.07
        )  # by the fuel


def test_a_new_build_comes_with_pumps_that_bear_its_speed():
    fast = Answers(feeding="direct injection", displacement_l=4.0, cylinders=8, power_kw=230, rpm=9200.0)
    fast = fast.model_copy(update={"induction": "naturally aspirated"})
    build, assumed = asked_build(SHELF, fast)
    for pump in build.options[0].high_side.pumps:
        assert limit_rpm(pump) >= build.engine.max_rpm
        assert fills_rpm(pump) >= build.targets[0].rpm
    assert any("spring_n" in one.values for one in assumed)
    slow, assumed = asked_build(SHELF, fast.model_copy(update={"rpm": 6500.0}))
    assert not any("spring_n" in one.values for one in assumed)
    assert all(pump.part.lobes == 3 for pump in slow.options[0].high_side.pumps)
