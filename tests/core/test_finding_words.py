"""Sentences of findings for the arrangement they stand in: how lean in one form, nothing below nothing, no part above its
sum, no volts where none drive."""

import re

import pytest

from iron_gulp.core.advise import find
from iron_gulp.core.advise.throttles import in_feed
from iron_gulp.core.advise.words import groups_listed, leaner, listed, richer_by
from iron_gulp.core.judge import judge_all
from iron_gulp.core.model import apply, dump
from iron_gulp.shelf import load_shelf
from tests.draws import EVERY_DEMO
from tests.garage import CARS, car, changed
from tests.systems import demo


def findings(build, edits=()):
    one = apply(build, list(edits)) if edits else build
    option = one.options[0]
    return find(one, option, judge_all(one, option), load_shelf().catalogue)


def every_finding():
    for name in CARS if EVERY_DEMO else list(CARS)[::3]:
        for fault in CARS[name]["faults"]:
            one = changed(car(name), fault["edits"])
            option = one.options[0]
            yield from ((one, each) for each in find(one, option, judge_all(one, option), load_shelf().catalogue))


@pytest.mark.parametrize(
    ("factor", "says"),
    [
        (1.124, "12\u00a0% lean"),
        (1.03, "3.0\u00a0% lean"),
        (0.75, "25\u00a0% rich"),
        (float("inf"), "lean past all measure"),
    ],
)
def test_a_factor_of_lambda_is_told_in_one_form(factor, says):
    assert leaner(factor) == says


def test_rich_and_lean_are_told_by_their_names():
    assert (richer_by(-66.4), richer_by(3.0)) == ("66\u00a0% lean", "3.0\u00a0% rich")


def test_groups_and_names_stand_in_rows():
    assert [groups_listed(one) for one in ([2], [1, 3], [1, 2, 3], [1, 2, 4])] == [
        "group 2",
        "groups 1 and 3",
        "groups 1 to 3",
        "groups 1, 2 and 4",
    ]
    assert listed(["a", "b", "c"]) == "a, b and c"


def test_no_fault_of_the_garage_is_told_by_a_bare_factor_or_below_nothing():
    told = set()
    for build, one in every_finding():
        text = one.text.format_map({name: str(value) for name, value in one.values.items()})
        assert "by a factor of" not in text, one.code
        assert "1.000" not in text, one.code
        bowl = build.options[0].carburettor is not None
        assert not (bowl and "injectors" in text), (one.code, text)
        if build.options[0].regulator.arrangement.startswith("returnless"):
            assert "return line" not in text, (one.code, text)
        if all(group.part.kind == "mechanical" for group in build.options[0].pumps):
            assert "voltage" not in text, (one.code, text)
        told.add(one.code)
    assert len(told) > (25 if EVERY_DEMO else 10)


def test_fuel_below_the_inlet_stands_below_it():
    build = demo("fieldfare")
    (one,) = (each for each in findings(build) if each.code == "external-pump-pulls")
    head = build.options[0].suction.head_m
    assert ("below the pump inlet" in one.text) is (head < 0)
    assert one.values["head_m"] == abs(head)


def test_methanol_is_called_what_it_is():
    name = next(
        name for name in CARS if "ethanol" in name.lower() and any(t.base_fuel == "methanol" for t in car(name).targets)
    )
    build = car(name)
    path = f"options/{build.options[0].id}/filter/part/alcohol_ok"
    (one,) = (each for each in findings(build, [(path, False)]) if each.code == "alcohol-fitness")
    assert "the fuel is methanol" in one.text
    assert "ethanol_pct" not in one.text


def test_several_circuits_of_one_fault_are_told_by_their_groups():
    build = demo("saltern")
    groups = [group.id for group in build.options[0].pumps]
    edits = [(f"options/{build.options[0].id}/pumps/{one}/wiring/fuse_a", None) for one in groups]
    (one,) = (each for each in findings(build, edits) if each.code == "fuse-missing")
    assert re.match(r"Main pumps?, groups? \d", str(one.values["circuit"]))
    assert str(one.values["circuit"]).count("Main pump") == 1


def test_a_fuse_behind_a_booster_is_told_by_what_passes_it():
    build = demo("curlew")
    group = build.options[0].pumps[0].id
    start = f"options/{build.options[0].id}/pumps/{group}"
    (one,) = (each for each in findings(build, [(f"{start}/wiring/fuse_a", 15.0)]) if each.code == "fuse-small")
    assert one.values["into_a"] == pytest.approx(one.values["current_a"])
    edits = [(f"{start}/wiring/fuse_a", 15.0), (f"{start}/booster_v", 17.0)]
    (one,) = (each for each in findings(build, edits) if each.code == "fuse-small")
    assert one.values["into_a"] > one.values["current_a"] * 1.05
    assert "{into_a} through its fuse" in one.text


def test_the_coldest_start_is_asked_for_only_where_nobody_said_it():
    build = demo("curlew")
    for told in (None, 5.0):
        found = [one for one in findings(build, [("car/coldest_c", told)]) if one.code == "cold-start"]
        assert found
        assert ("state the coldest start" in found[0].remedies[0].label) is (told is None)


def worst_on(build, option):
    """The target that asks most fuel, or most of the feed where that is past its rule."""
    judged = judge_all(build, option)
    over = [one for one in judged if one.load("feed").load > 1.005]
    asked = [one.demand.chosen_kg_s / one.fuel.density_kg_m3 for one in judged]
    return max(over, key=lambda one: one.load("feed").load) if over else judged[asked.index(max(asked))]


def test_one_passage_is_no_several_and_never_more_than_its_line():
    build = demo("saltern")
    option = (
        next(one for one in build.options if one.feed_passages) if any(o.feed_passages for o in build.options) else None
    )
    data = dump(build)
    index = 0 if option is None else [one.id for one in build.options].index(option.id)
    path = f"options/{data['options'][index]['id']}/feed_passages"
    first = {"id": "p1", "name": "Hanger tube", "bore_mm": 5.0}
    second = {"id": "p2", "name": "Bulkhead", "bore_mm": 6.0}
    for passages in ([first], [first, second]):
        one = apply(build, [(path, passages)])
        chosen = one.options[index]
        found = [
            each
            for each in find(one, chosen, judge_all(one, chosen), load_shelf().catalogue)
            if each.code == "small-passage"
        ]
        assert found
        (told,) = found
        assert "all the rest of the feed" in told.text
        each = {one.title: one.lost_kpa for one in in_feed(worst_on(one, chosen))}
        assert told.values["what"] == max(each, key=lambda title: each[title]) == "Hanger tube"
        assert told.values["rest_kpa"] == pytest.approx(sum(each.values()) - each["Hanger tube"])
        assert dict(told.remedies[0].edits)[f"{path}/p1/bore_mm"] == chosen.feed.part.bore_mm
