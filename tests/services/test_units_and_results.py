"""The unit system never changes a result: what is typed in any unit is judged alike, and showing it changes nothing."""

import itertools
import shutil

import pytest
from hypothesis import given
from hypothesis import strategies as st

from iron_gulp.core.account import FIGURES
from iron_gulp.core.account import value as figure_value
from iron_gulp.core.model import value_at
from iron_gulp.services.workshop import Workshop
from iron_gulp.units import CHOICES, BenchUnits, as_input, quantity_of, read_quantity, show
from tests.draws import LONG, draws

pytestmark = pytest.mark.xdist_group("units")

EVERY_SET = [
    {dimension: list(units)[step % len(units)] for dimension, units in CHOICES.items()}
    for step in range(max(len(units) for units in CHOICES.values()))
]
# Paths and values in kept units, chosen so that most dimensions are typed.
TYPED = {
    "targets/hill/boost_kpa": 151.3,
    "targets/hill/power_kw": 271.9,
    "targets/hill/fuel_temp_c": 37.4,
    "options/as-built/feed/length_m": 3.87,
    "options/as-built/feed/part/bore_mm": 8.61,
    "options/as-built/injectors/part/rated_flow_cc_min": 987.0,
    "options/as-built/regulator/part/capacity_l_h": 311.0,
    "options/as-built/tank/volume_l": 57.3,
}


@pytest.fixture(scope="module")
def workshop(tmp_path_factory, demo_database):
    path = tmp_path_factory.mktemp("units") / "units.sqlite3"
    shutil.copy(demo_database, path)
    return Workshop(path)


def typed_in(workshop, units):
    """Curlew's hill target after every value was typed in these units."""
    build = workshop.garage.duplicate(workshop.garage.page("curlew", sort="name").rows[0].id)
    for path, value in TYPED.items():
        text = as_input(value, path.rpartition("/")[2], units)
        outcome = workshop.edits.edit(build, workshop.judging.bench(build).stored.number, path, text, units)
        assert outcome.ok, (path, text, outcome.message)
    return workshop.judging.bench(build, "as-built", "hill")


@pytest.mark.parametrize("chosen", EVERY_SET if LONG else EVERY_SET[1::2], ids=lambda chosen: chosen["pressure"])
def test_typing_in_other_units_gives_the_same_solution(workshop, chosen):
    plain, other = (typed_in(workshop, units) for units in (BenchUnits(), BenchUnits(chosen)))
    for path, value in TYPED.items():
        assert value_at(other.build, path) == pytest.approx(value, rel=2e-5)
    for one, two in zip(plain.verdict.loads, other.verdict.loads, strict=True):
        assert two.load == pytest.approx(one.load, rel=2e-4)
    for key in ("pump.rail_kpa", "injector.duty_pct", "regulator.idle_bypass_l_h", "feed.drop_kpa"):
        assert figure_value(key, other.figures) == pytest.approx(figure_value(key, plain.figures), rel=5e-4)


@pytest.mark.parametrize("chosen", EVERY_SET, ids=lambda chosen: chosen["pressure"])
def test_every_figure_shown_reads_back_as_itself(workshop, chosen):
    units = BenchUnits(chosen)
    curlew = workshop.judging.bench(workshop.garage.page("curlew").rows[0].id, "as-built", "hill")
    dunlin = workshop.judging.bench(workshop.garage.page("dunlin").rows[0].id, "port", "blend")
    read = 0
    for key, figure in FIGURES.items():
        if key.startswith("demand.measured"):
            continue  # no run is entered
        value = figure_value(key, (dunlin if key.startswith("high.") else curlew).figures)
        number, _ = show(value, figure.name, units)
        back = read_quantity(number.replace("\u202f", "").replace("−", "-"), figure.name, units)
        quantity = quantity_of(figure.name)
        off = abs(units.shown(back, quantity) - units.shown(value, quantity))
        assert off <= max(0.5001 * 10 ** -units.unit(quantity).decimals, 0.0051 * abs(units.shown(value, quantity))), key
        read += 1
    assert read > 40


@draws(60)
@given(st.floats(0.5, 900.0), st.sampled_from(["boost_kpa", "power_kw", "flow_l_h", "length_m", "fuel_temp_c"]))
def test_a_value_survives_a_walk_through_every_unit(value, name):
    """Typed in one unit, shown in the next, typed again: nothing creeps."""
    kept = value
    for chosen in itertools.chain(EVERY_SET, EVERY_SET):
        units = BenchUnits(chosen)
        kept = read_quantity(as_input(kept, name, units), name, units)
    assert kept == pytest.approx(value, rel=2e-4, abs=1e-3)
