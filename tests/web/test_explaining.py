"""Opened figures and texts as the reader sees them."""

import pytest

from iron_gulp.core.account import explain
from iron_gulp.units import PRESETS, BenchUnits
from iron_gulp.web.calculators import calculator_view
from iron_gulp.web.explaining import explanation_view, subscripts
from iron_gulp.web.stations import STATIONS, station_of

METRIC, US = BenchUnits(), BenchUnits(PRESETS["US"])


def opened(workshop, key, units):
    build = workshop.garage("curlew").rows[0].id
    return explanation_view(explain(key, workshop.bench(build, None, "hill").figures), units)


def test_formula_is_shown_with_this_builds_values(workshop):
    view = opened(workshop, "demand.crank_kw", METRIC)
    assert view.formula == "P_crank = P ÷ (1 − loss)"
    assert view.with_values == "⟨287 kW⟩ ÷ (1 − ⟨21.0 %⟩) = 363 kW"
    assert [row.symbol for row in view.rows] == ["P", "loss"]


def test_values_follow_the_bench_units(workshop):
    view = opened(workshop, "demand.crank_kw", US)
    assert view.with_values == "⟨385 hp⟩ ÷ (1 − ⟨21.0 %⟩) = 487 hp"
    assert view.unit == "hp"


def test_coupled_figures_say_what_each_input_does(workshop):
    view = opened(workshop, "pump.rail_kpa", METRIC)
    assert view.with_values == ""
    base = next(row for row in view.rows if row.label == "Base pressure")
    assert float(base.low) < float(view.number) < float(base.high)
    assert float(base.high) - float(base.low) == pytest.approx(60, abs=3)


def test_subscripts_escape_first():
    assert str(subscripts("x_ab <b>")) == "x<sub>ab</sub> &lt;b&gt;"


def test_every_load_belongs_to_a_station():
    named = [component for station in STATIONS for component in station.loads]
    assert len(named) == len(set(named))
    assert station_of("lift") == "fuel"
    assert station_of("return") == "regulator"


def test_mixing_in_gallons_gives_the_same_share():
    litres = calculator_view(
        "mixing", {"tank_l": "60", "held_l": "18", "held_pct": "12", "target_pct": "50", "strong_pct": "78"}, METRIC
    )
    gallons = {"tank_l": "60 L", "held_l": "18 L", "held_pct": "12", "target_pct": "50", "strong_pct": "78"}
    assert "34.76\u00a0L" in litres.answer.replace(" L", "\u00a0L")
    assert "9.18" in calculator_view("mixing", gallons, US).answer
