"""Cars nobody thought of: a new build asked for anything its air can make is put right at once, or says what is left."""

import random

import pytest

from iron_gulp.core.advise import find, put_right
from iron_gulp.core.judge import judge, judge_all
from iron_gulp.core.model import apply
from iron_gulp.services import starter
from iron_gulp.shelf import load_shelf
from tests.draws import LONG

SHELF = load_shelf()
# One set of injectors cannot span every pair of targets; a part cannot answer these, a decision must.
LEFT_TO_DECIDE = {"injector-idle", "cold-start"}


def asked(draw, hard):
    """A random engine with two targets on different blends, their power a share of what the air can make."""
    one = starter.new_build(SHELF)
    cylinders = draw.choice([3, 4, 4, 5, 6, 6, 8])
    induction = draw.choice(["naturally aspirated", "turbocharged", "supercharged"]) if not hard else "turbocharged"
    rpm = draw.choice([5800.0, 6500.0, 7000.0, 7500.0])
    one = apply(
        one,
        [
            ("engine/displacement_l", round(cylinders * draw.uniform(0.38, 0.72), 1)),
            ("engine/cylinders", cylinders),
            ("engine/induction", induction),
            ("engine/max_rpm", 8000.0),
            ("car/use", draw.choice(["street", "track", "drag"])),
        ],
    )
    for target, blends in (("t1", [0, 5, 10, 20]), ("t2", [60, 85, 98] if hard else [10, 30, 60, 85])):
        boost = draw.choice([100, 150, 200, 250] if hard else [50, 80, 100, 130, 170])
        one = apply(
            one,
            [
                (f"targets/{target}/ethanol_pct", float(draw.choice(blends))),
                (f"targets/{target}/boost_kpa", 0.0 if induction == "naturally aspirated" else float(boost)),
                (f"targets/{target}/rpm", rpm),
            ],
        )
        reach = judge(one, one.options[0], one.target(target)).demand.air_limited_power_kw
        one = apply(one, [(f"targets/{target}/power_kw", round(reach * draw.uniform(0.72, 0.95)))])
    return one


def troubles(one):
    found = find(one, one.options[0], judge_all(one, one.options[0]), SHELF.catalogue)
    return sorted(each.code for each in found if each.severity != "note")


@pytest.mark.parametrize("hard", [False, True], ids=["road", "race"])
@pytest.mark.parametrize("seed", range(40 if LONG else 3))
def test_whatever_the_air_can_make_is_put_right(seed, hard):
    one = asked(random.Random(seed), hard)
    plan = put_right(one, one.options[0].id, SHELF.catalogue)
    done = apply(one, plan.edits) if plan.edits else one
    assert troubles(done) == sorted(each.code for each in plan.left)
    assert {each.code for each in plan.left} <= (LEFT_TO_DECIDE if hard else set())


def test_several_pumps_are_offered_where_one_more_will_not_do():
    one = apply(
        starter.new_build(SHELF),
        [
            ("engine/displacement_l", 4.0),
            ("engine/cylinders", 8),
            ("targets/t2/ethanol_pct", 85.0),
            ("targets/t2/boost_kpa", 220.0),
            ("targets/t2/power_kw", 640.0),
        ],
    )
    option = one.options[0]
    found = next(
        each for each in find(one, option, judge_all(one, option), SHELF.catalogue) if each.code == "pumps-short"
    )
    remedy = next(each for each in found.remedies if each.label.startswith("Run"))
    count = dict(remedy.edits)["options/o1/pumps/g1/count"]
    assert count > 1
    assert any(path.endswith("g1/part") for path, _ in remedy.edits)
    changed = apply(one, remedy.edits)
    load = max(v.load("pumps").load for v in judge_all(changed, changed.options[0]))
    assert load <= 1
    assert remedy.values["load_pct"] == pytest.approx(load * 100)
    fewer = apply(changed, [("options/o1/pumps/g1/count", count - 1)])
    assert max(v.load("pumps").load for v in judge_all(fewer, fewer.options[0])) > 1
