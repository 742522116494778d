"""Opened figures and texts as the reader sees them."""

import pytest

from iron_gulp.core.account import FIGURES, explain
from iron_gulp.core.model import LOADS
from iron_gulp.units import PRESETS, BenchUnits
from iron_gulp.web.benches.fuel.calculators import calculator_view
from iron_gulp.web.parts.explaining import explanation_view
from iron_gulp.web.parts.formulas import mathml, symbols
from iron_gulp.web.parts.stations import STATIONS, station_of
from tests.web.parsing import parsed

METRIC, US = BenchUnits(), BenchUnits(PRESETS["US"])


def opened(workshop, key, units):
    build = workshop.garage.page("curlew").rows[0].id
    return explanation_view(explain(key, workshop.judging.bench(build, None, "hill").figures), units)


def test_formula_is_shown_with_this_builds_values(workshop):
    view = opened(workshop, "demand.crank_kw", METRIC)
    assert view.formula == "P_crank = P ÷ (1 − loss)"
    assert view.with_values == "⟨305.7 kW⟩ ÷ (1 − ⟨16.00 %⟩) = 364.0 kW"
    assert [row.symbol for row in view.rows] == ["P", "loss"]


def test_values_follow_the_bench_units(workshop):
    view = opened(workshop, "demand.crank_kw", US)
    assert view.with_values == "⟨410.0 hp⟩ ÷ (1 − ⟨16.00 %⟩) = 488.1 hp"
    assert view.unit == "hp"


def test_coupled_figures_say_what_each_input_does(workshop):
    view = opened(workshop, "pump.rail_kpa", METRIC)
    assert view.with_values == ""
    base = next(row for row in view.rows if row.label == "Base pressure")
    assert float(base.low) < float(view.number) < float(base.high)
    assert float(base.high) - float(base.low) == pytest.approx(60, abs=3)


def test_formulas_are_mathml_and_escape_what_is_not_theirs():
    found = parsed(str(mathml("V_pump = V − I × R")))
    assert found.math["aria-label"] == "V_pump = V − I × R"
    assert [one.text for one in found.select("msub > *")] == ["V", "pump"]
    assert "×" in found.text
    assert "<b>" not in str(mathml("x_ab <b>"))
    assert symbols("Δp").startswith("<math")


def test_words_of_a_formula_stay_apart():
    found = parsed(str(mathml("load = fuel asked ÷ what it passes, V_pump × x")))
    assert "fuel asked" in found.text.replace("\xa0", " ")
    assert "what it passes" in found.text.replace("\xa0", " ")
    assert [one.text for one in found.select("msub > *")] == ["V", "pump"]


@pytest.mark.parametrize("key", FIGURES)
def test_every_formula_is_set(key):
    found = parsed(str(mathml(FIGURES[key].formula)))
    assert found.find("merror") is None
    assert "\\" not in found.math.text


def test_every_load_belongs_to_a_station():
    assert {station_of(kind.component) for kind in LOADS} == set(STATIONS)
    assert station_of("lift") == "fuel"
    assert station_of("return") == "regulator"


def test_mixing_in_gallons_gives_the_same_share():
    litres = calculator_view(
        "mixing", {"tank_l": "60", "held_l": "18", "held_pct": "12", "wanted_pct": "50", "strong_pct": "78"}, METRIC
    )
    gallons = {"tank_l": "60 L", "held_l": "18 L", "held_pct": "12", "wanted_pct": "50", "strong_pct": "78"}
    assert "34.76\u00a0L" in litres.answer.replace(" L", "\u00a0L")
    assert "9.18" in calculator_view("mixing", gallons, US).answer
