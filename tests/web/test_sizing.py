"""Size it for me on Ask heeds what must stay and what it may cost, by the same locks as Design."""

import pytest

from iron_gulp.core.model import Assumed
from iron_gulp.core.plan import ONE_SET, Answers, choices_text, locks_of
from iron_gulp.services.asking import asked_build
from iron_gulp.services.sizing_words import taken_for_granted
from iron_gulp.units import BenchUnits
from iron_gulp.web.garage.asking import questions
from tests.web.parsing import parsed


@pytest.fixture
def asked(workshop, monkeypatch):
    """What sizing was asked for, without a search."""
    seen = []

    def size(build, option, locks, units, before, progress, must):
        seen.append((locks, must))
        progress.saw(type("Found", (), {"tried": 5, "best": None})())
        raise LookupError("nothing was tried here")

    monkeypatch.setattr(workshop.sizing, "size", size)
    return seen


def test_what_must_stay_is_asked_on_the_page_and_heeded(client, workshop, curlew, asked):
    page = parsed(client.get(f"/builds/{curlew}/ask?option=as-built").text)
    form = page.select_one("#wanted")
    named = {one["name"] for one in form.select("[name]")}
    option = workshop.judging.bench(curlew).build.option("as-built")
    assert named == {"keep", "sets", *(one.name for one in locks_of(option))} - {"second_set"}
    where = {"page": "ask", "option": "as-built", "target": "", "base": 1}
    typed = {"keep": ["injectors", "lines"], "budget": "2500", "sets": "one alone", "returns": "with a return"}
    answer = client.post(f"/builds/{curlew}/size", data={**where, **typed})
    assert answer.status_code == 200
    workshop.sizing.wait(curlew)
    ((locks, must),) = asked
    assert (locks.keep, locks.budget, locks.returns) == (("injectors", "lines"), 2500.0, "with a return")
    assert must == {ONE_SET}
    assert "nothing was tried here" in client.get(f"/builds/{curlew}/size").text
    client.post(f"/builds/{curlew}/size", data=where)
    workshop.sizing.wait(curlew)
    assert (asked[1][0].keep, asked[1][0].budget, asked[1][1]) == ((), None, frozenset())


def test_a_lock_that_cannot_be_is_told_and_nothing_begins(client, curlew, asked):
    where = {"page": "ask", "option": "as-built", "target": "", "base": 1}
    answer = client.post(f"/builds/{curlew}/size", data={**where, "budget": "a lot"})
    assert answer.status_code == 422
    assert "Budget" in parsed(answer.text).select_one(".field-error").text
    assert asked == []


def test_assumptions_open_their_fields_and_an_account_goes_stale_as_parts_change(client, workshop):
    answers = Answers(power_kw=300.0, use="track", barometer_kpa=85.0, feeding="direct injection")
    build, guesses = asked_build(workshop.shelf, answers)
    option = build.options[0]
    option = option.model_copy(update={"why": "It is so.", "why_for": choices_text(option)})
    assumed = taken_for_granted(build, guesses, BenchUnits())
    number = workshop.garage.add(build.model_copy(update={"options": (option,), "assumed": assumed}), "sized")
    url = f"/builds/{number}/ask"
    page = parsed(client.get(url).text)
    rows = page.select("#assumed li")
    assert len(rows) == len(assumed) == len([one for one in guesses if not one.caution])
    links = [row.select_one("a") for row in rows]
    assert all(links), [row.text for row in rows]
    for link in links:
        where, anchor = link["href"].split("#")
        assert parsed(client.get(where).text).select_one(f"#{anchor}"), link["href"]
    assert not page.select(".stale")
    assert not page.select("#assumed s")

    def edit(path, value):
        base = workshop.judging.bench(number).stored.number
        return client.post(f"/builds/{number}/edit", data={"base": base, "page": "ask", "path": path, "value": value})

    edit("rules/headroom_pct", "25")
    edit("options/o1/regulator/base_kpa", "500")
    page = parsed(client.get(url).text)
    (changed,) = page.select("#assumed s")
    assert "headroom" in changed.text
    assert "base pressure" in page.select_one(".stale").text
    assert "500" in page.select_one(".stale").text


def test_what_was_asked_is_shown_back_with_one_unit():
    found = {
        one.name: one.answered for one in questions({"displacement_l": "2.0 L", "power_kw": "250"}, {}, BenchUnits())
    }
    assert found["displacement_l"] == "2.0 L"
    assert found["power_kw"] == "250 kW"


@pytest.mark.parametrize(
    "path",
    ["", "x", "car", "options", "options/o1", "options/o1/name", "options/zz/feed/length_m", "targets/t1", "a/b/c/d"],
)
def test_an_assumption_of_a_foreign_file_about_no_field_is_shown_without_a_link(client, workshop, path):
    build, _ = asked_build(workshop.shelf, Answers(power_kw=150.0))
    odd = build.model_copy(update={"assumed": (Assumed(words="Said by another.", field=path, was="1"),)})
    number = workshop.garage.add(odd, "from a file")
    page = parsed(client.get(f"/builds/{number}/ask").text)
    (row,) = page.select("#assumed li")
    assert "Said by another." in row.text
    assert row.select_one("a") is None
