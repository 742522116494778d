"""Customers' asks in their own words: each sized to a whole system without a stop or a check, or told why not."""

import json
from pathlib import Path

import pytest

from iron_gulp.core.advise import find, put_right
from iron_gulp.core.judge import circuits, judge_all, judge_many
from iron_gulp.core.model import RESERVED, apply
from iron_gulp.core.plan import Answers, Locks, headroom_of
from iron_gulp.core.plan.design import prepared
from iron_gulp.core.plan.sizing import smaller
from iron_gulp.services import sizing
from iron_gulp.services.answers import read_answers
from iron_gulp.services.asking import asked_build, fuel_c
from iron_gulp.shelf import load_shelf
from iron_gulp.units import BenchUnits
from tests.draws import LONG

pytestmark = pytest.mark.xdist_group("sizing")

ASKS = json.loads((Path(__file__).parents[1] / "customers" / "asks.json").read_text(encoding="utf-8"))
QUICK = ("carburettor V8", "more than its air, on carburettors")


@pytest.fixture(scope="module")
def sized(reading):
    """Asks answered, each once; in this process, where short ones are answered sooner."""
    kept = {}
    if not LONG:
        sizing.WORKERS = 1

    def answer(name):
        if name not in kept:
            answers = Answers(**ASKS[name]["answers"])
            build, assumed = asked_build(reading.parts.shelf, answers)
            found = reading.sizing.size(build, build.options[0], Locks(returns=answers.returns), BenchUnits())
            kept[name] = build.model_copy(update={"options": (found.design.option,)}), found, assumed
        return kept[name]

    return answer


@pytest.mark.parametrize("name", ASKS if LONG else QUICK)
def test_an_ask_is_answered_without_a_stop_or_a_check_or_it_is_told_why_not(sized, reading, name):
    build, found, assumed = sized(name)
    option = build.options[0]
    judged = judge_all(build, option)
    graver = [one.code for one in find(build, option, judged, reading.parts.shelf.catalogue) if one.severity != "note"]
    assert found.carries == ASKS[name]["carries"]
    assert assumed
    assert len(found.account) >= 4
    if not found.carries:
        assert graver == ["air-limited"]
        assert "the air is not" in found.account[0]
        return
    assert graver == []
    wanted = build.rules.headroom_pct / 100.0
    for verdict in judged:
        for load in verdict.loads:
            if load.component in RESERVED:
                assert 1.0 / max(load.load, 1e-9) - 1.0 >= wanted - 1e-9, (verdict.target.name, load.component)
            assert load.load <= 1.0 or load.component == "engine"
    for words in found.account:
        assert "{" not in words
    for one in circuits(option, tuple(judged), build.rules):
        assert one.fuse_a == one.fuse_proposed_a
        assert one.area_proposed_mm2 <= one.wiring.area_mm2 <= (10.0 if one.fused_a < 40.0 else 99.0)
        if one.area_proposed_mm2 < one.wiring.area_mm2:  # its volts are the headroom
            thin = apply(build, [(f"options/{option.id}/{one.path}/area_mm2", one.area_proposed_mm2)])
            assert headroom_of(judge_all(thin, thin.options[0])) < wanted
    if option.injectors is not None and option.high_side is None:
        # Alone with this power and idle no single injector does both.
        assert (option.injectors.second is None) == (name != "three targets of 760")
        assert option.regulator.base_kpa in (300.0, 400.0)


@pytest.mark.parametrize("name", [one for one in (ASKS if LONG else QUICK[:1]) if ASKS[one]["carries"]])
def test_nothing_is_larger_than_needed_where_a_smaller_part_would_do(sized, reading, name):
    """Where a part leaves more than 40 %, the next smaller of the shelf leaves less than is wanted somewhere."""
    build, found, _ = sized(name)
    alcohol = any(one.ethanol_pct > 15 or one.base_fuel == "methanol" for one in build.targets)
    wanted = build.rules.headroom_pct / 100.0
    for what, part, option in smaller(found.design.option, reading.parts.shelf.catalogue, alcohol):
        judged = judge_many([(build, option, one) for one in build.targets], ceilings=False)
        others = list(find(build, option, judge_all(build, option), reading.parts.shelf.catalogue))
        refused = any(one.severity != "note" for one in others)
        outside = any(one.outside for one in judged)
        assert headroom_of(judged) < wanted or outside or refused, (what, part.name)


@pytest.mark.skipif(not LONG, reason="searches the whole shelf for every ask")
@pytest.mark.parametrize("name", [one for one in ASKS if ASKS[one]["carries"]])
def test_an_answer_costs_no_more_than_the_best_of_a_full_search(sized, reading, name):
    _, found, _ = sized(name)
    answers = Answers(**ASKS[name]["answers"])
    start, _ = asked_build(reading.parts.shelf, answers)
    search = reading.sizing.search(start, start.options[0], Locks(returns=answers.returns))
    for _ in search.run(workers=2):
        pass
    if search.found.best is not None:
        assert found.design.score.cost <= 1.15 * search.found.best.score.cost


def test_what_is_not_asked_is_assumed_by_the_air_and_the_height(reading):
    shelf = reading.parts.shelf
    build, assumed = asked_build(shelf, Answers(power_kw=200))
    target = build.targets[0]
    judged = judge_all(build, build.options[0])[0]
    assert judged.load("engine").load <= 1.0
    assert judged.load("engine").load > 0.85
    assert any("Boost" in one.text for one in assumed)
    told, _ = asked_build(shelf, Answers(power_kw=200, boost_kpa=90.0, rpm=7100.0))
    assert (told.targets[0].boost_kpa, told.targets[0].rpm) == (90.0, 7100.0)
    assert target.boost_kpa % 5 == 0
    assert fuel_c(101.325) == 30.0
    assert fuel_c(79.5) == pytest.approx(30.0 - 6.5 * 2.0, abs=1.0)  # 2000 m in the standard atmosphere
    twice, _ = asked_build(shelf, Answers(power_kw=200, fuel="strong blend, E85", pump_fuel_kw=150, later_kw=260))
    assert [(one.ethanol_pct, one.when) for one in twice.targets] == [(85, "now"), (10, "now"), (85, "later")]


@pytest.mark.parametrize("power_hp", ["2500", "4000"] if LONG else ["4000"])
def test_what_no_engine_of_this_size_makes_is_still_put_right_as_far_as_it_goes(power_hp):
    """A step that changes what another adds goes with it, or stays with it."""
    shelf = load_shelf()
    answers = read_answers({"displacement_l": "1.0 L", "cylinders": "4", "power_kw": f"{power_hp} hp"}, BenchUnits())
    build, _ = asked_build(shelf, answers)
    plan = put_right(build, build.options[0].id, shelf.catalogue)
    assert apply(build, plan.edits).options
    start, _ = prepared(build, build.options[0], shelf.catalogue)
    assert start.id == build.options[0].id
