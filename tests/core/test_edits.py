"""Edits made on the touched elements alone give what editing the plain data and reading it again gives."""

import copy
from importlib import resources

import numpy as np
import pytest
from pydantic import ValidationError

from iron_gulp.core.model import Build, EditError, apply, dump, problems_of, value_at
from iron_gulp.formats.build_file import read
from tests.draws import EVERY_DEMO, LONG

DEMOS = ("curlew", "dunlin", "fieldfare", "saltern") if EVERY_DEMO else ("saltern",)
TURNS = 400 if LONG else 40


def demo(name):
    return read(resources.files("iron_gulp.demo").joinpath(f"{name}.json").read_text(encoding="utf-8"))


def places(data, path=""):
    """Every place of plain data by its path, containers included."""
    entries = data.items() if isinstance(data, dict) else enumerate(data) if isinstance(data, list) else ()
    for step, value in entries:
        named = value.get("id", step) if isinstance(data, list) and isinstance(value, dict) else step
        yield f"{path}{named}", value
        yield from places(value, f"{path}{named}/")


def plainly(build, edits):
    """The same edits one after the other on plain data."""
    data = dump(build)
    for path, value in edits:
        *above, last = path.split("/")
        holder = data
        for step in above:
            holder = holder[step] if isinstance(holder, dict) else entry(holder, step)
        holder[last if isinstance(holder, dict) else holder.index(entry(holder, last))] = copy.deepcopy(value)
    return Build.model_validate(data)


def entry(several, step):
    return next((one for one in several if isinstance(one, dict) and one.get("id") == step), None) or several[int(step)]


def other(value, rng):
    """Another value of about the kind, now and then one that cannot be."""
    if rng.random() < 0.1:
        return None
    if isinstance(value, bool | str) or value is None:
        return rng.choice(["another", "", "RWD", "below the fuel level"]).item() if rng.random() < 0.5 else value
    return value * rng.choice([1.01, 0.99, 1.0, -1.0, 40.0]).item() if isinstance(value, int | float) else value


def outcome(make, build, edits):
    """The new build, or all that is wrong with it."""
    try:
        return make(build, edits)
    except ValidationError as error:
        return problems_of(error)
    except EditError as error:
        return error.problems


@pytest.mark.parametrize("name", DEMOS)
def test_edits_give_what_reading_the_edited_file_gives(name):
    build, rng = demo(name), np.random.default_rng(2607)
    before, every = dump(build), list(places(dump(build)))
    refused = 0
    for _ in range(TURNS):
        chosen = [every[at] for at in rng.integers(len(every), size=rng.integers(1, 4))]
        edits = [(path, other(value, rng)) for path, value in chosen if not path.endswith("/id")]
        try:
            expected = outcome(plainly, build, edits)
        except (KeyError, ValueError, IndexError, TypeError):
            continue  # an edit inside what another one took away
        refused += isinstance(expected, list)
        assert outcome(apply, build, edits) == expected
    assert 0 < refused < TURNS
    assert dump(build) == before


def test_what_no_edit_touches_is_the_same_object():
    build = demo("saltern")
    option = build.options[0]
    group = option.pumps[0]
    path = f"options/{option.id}/pumps/{group.id}/wiring/area_mm2"
    changed = apply(build, [(path, group.wiring.area_mm2 + 1.0)])
    there = changed.options[0]
    assert there.pumps[0].wiring.area_mm2 == group.wiring.area_mm2 + 1.0
    assert there.pumps[0].part is group.part
    assert there.regulator is option.regulator
    assert changed.options[1] is build.options[1]
    assert all(new is old for new, old in zip(changed.targets, build.targets, strict=True))
    assert changed.car is build.car


def test_edits_that_lean_on_each_other_are_made_in_their_order():
    build = demo("saltern")
    target = build.targets[0]
    renamed = apply(build, [(f"targets/{target.id}/id", "other"), ("targets/other/name", "Another")])
    assert (renamed.targets[0].id, renamed.targets[0].name) == ("other", "Another")
    with pytest.raises(EditError):
        apply(build, [(f"targets/{target.id}/id", "other"), (f"targets/{target.id}/name", "Another")])
    # An element put in whole, then one of its fields; the same field by id and by position: the last one counts.
    whole = dump(build)["options"][0]["pumps"][0]
    place = f"options/{build.options[0].id}/pumps/{whole['id']}"
    assert value_at(apply(build, [(place, whole), (f"{place}/count", 3)]), f"{place}/count") == 3
    assert value_at(apply(build, [(f"{place}/count", 3), (place, whole)]), f"{place}/count") == whole["count"]
    by_place = f"options/{build.options[0].id}/pumps/0/count"
    assert value_at(apply(build, [(by_place, 2), (f"{place}/count", 3)]), by_place) == 3
    assert value_at(apply(build, [(f"{place}/count", 3), (by_place, 2)]), by_place) == 2


@pytest.mark.parametrize(
    "path", ["targets/nowhere/name", "engine/wings", "options/9/name", "name/first", "targets/-1/name"]
)
def test_a_place_that_is_not_there_is_refused(path):
    with pytest.raises(EditError, match="there is no such field"):
        apply(demo("saltern"), [(path, 1.0)])


def test_a_text_may_have_four_thousand_signs():
    build = demo("curlew")
    assert len(apply(build, [("notes", "n" * 4000)]).notes) == 4000
    with pytest.raises(EditError, match="at most 4000"):
        apply(build, [("notes", "n" * 4001)])
