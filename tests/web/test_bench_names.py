"""Parts are named in the bench's units wherever they are read; what was typed stays as typed."""

import json
import re

import pytest

from iron_gulp.shelf import KINDS, load_shelf
from iron_gulp.units import PRESETS, BenchUnits
from iron_gulp.web.parts.bench_names import in_bench_units

US, BAR, KEPT = (BenchUnits(PRESETS[name]) for name in ("US", "Metric, bar", "Metric, kPa"))
METRIC = re.compile(r"\d (?:L/h|kPa|MPa|cc/min)\b")
# 80 L/h = 21.13 gal/h, 400 kPa = 58.02 psi, 315 cc/min = 30 lb/h at 10.5 cc/min each, 20 MPa = 2901 psi.
READ = {
    "Turbine pump, 80 L/h at 400 kPa": "Turbine pump, 21.1 gal/h at 58.0 psi",
    "Port injector, 315 cc/min at 300 kPa": "Port injector, 30.0 lb/h at 43.5 psi",
    "Port rail, 10 mm bore, 250 mm": "Port rail, 0.394 inch bore, 9.84 inch",
    "Fuel temperature sensor, -40 to 130 °C": "Fuel temperature sensor, −40 to 266 °F",
    "Paper filter, 10 µm, 250 L/h": "Paper filter, 10 µm, 66.0 gal/h",
}


@pytest.mark.parametrize("name", READ)
def test_a_name_is_read_in_the_benchs_units(name):
    assert in_bench_units(f"<td>1 × {name}, left</td>", US) == f"<td>1 × {READ[name]}, left</td>"


def test_only_what_the_bench_counts_otherwise_is_another():
    assert in_bench_units("<b>Turbine pump, 80 L/h at 400 kPa</b>", BAR) == "<b>Turbine pump, 80 L/h at 4 bar</b>"
    page = "<b>Turbine pump, 80 L/h at 400 kPa</b>"
    assert in_bench_units(page, KEPT) is page


def test_no_name_of_the_shelf_is_left_in_metric_figures():
    names = [part.name for kind in KINDS for part in load_shelf().parts(kind)]
    left = [name for name in names if METRIC.search(in_bench_units(f">{name}<", US))]
    assert left == []
    assert len({in_bench_units(f">{name}<", US) for name in names}) == len(set(names))


@pytest.mark.parametrize(
    "page",
    [
        '<input value="Turbine pump, 80 L/h at 400 kPa">',
        "<textarea rows=2>Fitted: Turbine pump, 80 L/h at 400 kPa, from 40 kPa of boost</textarea>",
        "<td>My pump, 80 L/h at 400 kPa</td>",
        "<p>No figure here, and 400 kPa that somebody wrote</p>",
    ],
)
def test_what_was_typed_stays(page):
    assert in_bench_units(page, US) == page


def test_what_is_said_of_a_system_follows():
    said = in_bench_units("<td>1 × pump from 40 kPa of boost; 2.5 L surge tank</td><td>400 kPa, manifold</td>", US)
    assert said == "<td>1 × pump from 5.8 psi of boost; 0.7 gal surge tank</td><td>58.0 psi, manifold</td>"


PAGES = ("pump", "injectors", "draw", "compare", "values", "chance", "wire", "stage", "feed", "regulator", "fuel")


@pytest.mark.parametrize("page", PAGES)
def test_a_page_of_us_units_names_no_part_in_metric(client, page):
    client.cookies.set("iron_gulp_units", json.dumps(PRESETS["US"]))
    answer = client.get(f"/builds/3/{page}")
    assert answer.status_code == 200
    assert int(answer.headers["content-length"]) == len(answer.content)
    read = re.sub(r'value="[^"]*"|<textarea[\s\S]*?</textarea>|<script[\s\S]*?</script>', "", answer.text)
    assert [
        part.name for kind in KINDS for part in load_shelf().parts(kind) if METRIC.search(part.name) and part.name in read
    ] == []
    assert not re.search(r"\d (?:kPa of boost|L surge tank|kPa, (?:manifold|atmosphere))", read)
