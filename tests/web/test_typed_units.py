"""What was typed keeps its unit where it stands; a bare number is in the unit that the field shows."""

import pytest

from iron_gulp.core.model import value_at
from iron_gulp.core.plan import Answers
from iron_gulp.services.answers import read_answers
from iron_gulp.services.as_found import as_found
from iron_gulp.services.asking import asked_build
from iron_gulp.services.dash_sizes import differs_mm
from iron_gulp.services.typed import TypedUnits, places_of, units_said
from iron_gulp.shelf import load_shelf
from iron_gulp.units import BenchUnits, quantity_of, short_in, unit_said
from tests.web.parsing import parsed

PATH = "engine/displacement_l"


@pytest.fixture
def american(client):
    client.post("/units", data={"preset": "US"})
    return client


def shown(client, number, path, page="ask"):
    """What a field says, and in which unit."""
    field = parsed(client.get(f"/builds/{number}/{page}").text).select_one(f'[data-path="{path}"]')
    return field.select_one("input")["value"], field.select_one(".unit").get_text()


def edit(client, workshop, number, path, value, **more):
    base = workshop.judging.bench(number).stored.number
    return client.post(f"/builds/{number}/edit", data={"base": base, "page": "ask", "path": path, "value": value, **more})


def litres(workshop, number):
    return workshop.judging.bench(number).build.engine.displacement_l


def test_a_value_stands_in_the_unit_it_was_typed_in_and_a_bare_number_follows_the_field(american, workshop, curlew):
    assert shown(american, curlew, PATH)[1] == "ci"
    edit(american, workshop, curlew, PATH, "2.5 L", unit="ci")
    assert litres(workshop, curlew) == 2.5
    assert shown(american, curlew, PATH) == ("2.5", "L")
    edit(american, workshop, curlew, PATH, "2.6", unit="L")
    assert (litres(workshop, curlew), shown(american, curlew, PATH)) == (2.6, ("2.6", "L"))
    # The bench's own unit typed, or a value from elsewhere that is no short one in litres, and the field is the bench's.
    edit(american, workshop, curlew, PATH, "160 ci", unit="L")
    assert shown(american, curlew, PATH) == ("160", "ci")
    edit(american, workshop, curlew, PATH, "2.5 L", unit="ci")
    edit(american, workshop, curlew, PATH, "151", unit="")
    assert shown(american, curlew, PATH) == ("151", "ci")


def test_what_is_refused_keeps_the_unit_of_its_field(american, workshop, curlew):
    edit(american, workshop, curlew, PATH, "2.5 L", unit="ci")
    answer = edit(american, workshop, curlew, PATH, "70", unit="L")
    field = parsed(answer.text).select_one(f'[data-path="{PATH}"]')
    assert (field.select_one("input")["value"], field.select_one(".unit").get_text()) == ("70", "L")
    assert "L" in field.select_one(".field-error").get_text()
    assert litres(workshop, curlew) == 2.5


def test_the_metric_bench_shows_no_unit_but_its_own_where_none_was_typed(client, workshop, curlew):
    edit(client, workshop, curlew, PATH, "3", unit="L")
    assert dict(workshop.typed_units.of(curlew)) == {}
    edit(client, workshop, curlew, PATH, "3.1", unit="furlongs")  # a field that shows no such unit
    assert dict(workshop.typed_units.of(curlew)) == {}
    edit(client, workshop, curlew, PATH, "180 ci", unit="L")
    assert shown(client, curlew, PATH) == ("180", "ci")
    assert dict(TypedUnits(workshop.typed_units._settings).of(curlew)) == {PATH: "ci"}


def test_a_cell_of_a_column_stands_in_the_unit_at_its_head(american, workshop, curlew):
    path = "options/as-built/pumps/g1/part/curves/0/pressure_kpa/2"
    edit(american, workshop, curlew, path, "205 kPa")
    cell = parsed(american.get(f"/builds/{curlew}/pump?option=as-built").text).select_one(f'[data-path="{path}"]')
    assert cell.select_one("input")["hx-vals"].count("unit") == 0
    assert float(cell.select_one("input")["value"]) == pytest.approx(205 / 6.894757, rel=1e-4)


def test_answers_of_a_new_build_stand_as_they_were_typed(american, workshop):
    typed = {"power_kw": "150 kW", "displacement_l": "2.5 L", "boost_kpa": "12", "name": "Grebe", "draft": "yes"}
    american.post("/new", data=typed)
    number = workshop.garage.page("Grebe").rows[0].id
    assert shown(american, number, PATH) == ("2.5", "L")
    assert shown(american, number, "targets/t1/power_kw") == ("150", "kW")
    assert shown(american, number, "targets/t1/boost_kpa") == ("12", "psi")


def test_units_said_are_those_of_no_bench_field():
    units = BenchUnits()
    said = {
        "displacement_l": "2.0T",
        "feed_mm": "AN8",
        "power_kw": "300 rwhp",
        "rpm": "7k",
        "boost_kpa": "1.2",
        "x": "1 L",
    }
    assert units_said(said, units) == {"feed_mm": "dash", "power_kw": "hp"}
    assert unit_said("2.5 furlongs", "displacement_l", units) == ""
    assert unit_said("", "displacement_l", units) == ""
    assert short_in(2.5, "displacement_l", units)
    assert not short_in(2.4580598, "displacement_l", units.instead(quantity_of("displacement_l"), "ci"))


def test_every_place_of_an_answer_is_one_of_the_build():
    said = dict.fromkeys(Answers.model_fields, "unit")
    known = {"injector_cc_min": 650.0, "feed_mm": 9.0, "regulator_kpa": 350.0, "later_kw": 190.0, "pump_fuel_kw": 140.0}
    asked = Answers(power_kw=170.0, fuel="light blend, E30", **known)
    shelf = load_shelf()
    build, _ = asked_build(shelf, asked)
    found, _ = as_found(shelf, build.options[0], asked)
    build = build.model_copy(update={"options": (build.options[0], found.model_copy(update={"id": "found"}))})
    places = places_of(said, build)
    assert {value_at(build, path) for path in places} >= {170.0, 190.0, 140.0, 650.0, 9.0, 350.0}
    assert len(places) >= 12


FEED = "options/as-built/feed/part/bore_mm"


def test_a_dash_size_of_a_line_is_the_constructions_bore_and_the_number_is_told(client, workshop, curlew):
    for typed, size, bore in (("AN10", "dash 10", 12.7), ("-8", "dash 8", 10.3), ("8 dash", "dash 8", 10.3)):
        edit(client, workshop, curlew, FEED, typed, unit="mm")
        part = workshop.judging.bench(curlew).build.option("as-built").feed.part
        assert (part.construction, part.size, part.bore_mm) == ("PTFE-lined hose", size, bore)
    field = parsed(client.get(f"/builds/{curlew}/feed?option=as-built").text).select_one(f'[data-path="{FEED}"]')
    assert field.select_one(".field-note").get_text() == "dash 8 would be 12.7 mm by its number"
    assert (field.select_one("input")["value"], field.select_one(".unit").get_text()) == ("10.3", "mm")
    edit(client, workshop, curlew, FEED, "AN10", unit="mm")  # 12.7 mm inside, which is not dash 8
    assert shown(client, curlew, FEED, "feed") == ("12.7", "mm")
    client.post("/units", data={"bore": "dash"})
    assert shown(client, curlew, FEED, "feed") == ("0.5", "inch")
    # A bore that is typed as one is one, and a number that nobody sells of it stays what it counts.
    edit(client, workshop, curlew, FEED, "9.4", unit="mm")
    assert workshop.judging.bench(curlew).build.option("as-built").feed.part.bore_mm == 9.4
    edit(client, workshop, curlew, FEED, "20 dash", unit="mm")
    assert workshop.judging.bench(curlew).build.option("as-built").feed.part.bore_mm == pytest.approx(31.75)


def test_a_rail_has_no_dash_size_of_its_own(client, workshop, curlew):
    edit(client, workshop, curlew, "options/as-built/rail/bore_mm", "8 dash", unit="mm")
    assert workshop.judging.bench(curlew).build.option("as-built").rail.bore_mm == pytest.approx(12.7)
    assert differs_mm("12 mm", 12.0) is None
    assert differs_mm("dash 10", 12.7) == pytest.approx(15.875)
    assert differs_mm("dash 8", 12.7) is None


def test_the_feed_of_a_new_build_is_as_wide_as_its_construction_is():
    lines = load_shelf().catalogue.lines
    for typed, bore in (("AN8", 10.3), ("12 mm", 12.0), ("3/8", 25.4 * 3 / 8)):
        assert read_answers({"power_kw": "200 hp", "feed_mm": typed}, BenchUnits(), lines).feed_mm == pytest.approx(bore)
    floats = {"power_kw": "120 hp", "feeding": "carburettor", "induction": "naturally aspirated", "feed_mm": "AN8"}
    assert read_answers(floats, BenchUnits(), lines).feed_mm == pytest.approx(12.7)  # no tube is sold by dash
