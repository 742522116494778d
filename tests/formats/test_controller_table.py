"""A controller's table as pasted: read as it is meant, or refused at its row and column."""

import numpy as np
import pytest
from hypothesis import given
from hypothesis import strategies as st
from scipy.interpolate import RegularGridInterpolator

from iron_gulp.core.model import ControllerTable
from iron_gulp.formats.controller_table import TableError, read_table
from iron_gulp.units import BenchUnits
from tests.draws import draws

UNITS = BenchUnits()
GOOD = "\t2000\t4000\t6000\n60\t1.0\t1.0\t0.98\n100\t0.95\t0.92\t0.90\n200\t0.86\t0.82\t0.80\n"


def read(text, what="mixture", unit="kPa", axis="absolute", stoich=14.7, barometer=101.325, units=UNITS):
    return read_table(text, what, unit, axis, stoich, barometer, units)


@pytest.mark.parametrize(
    "text",
    [
        GOOD,
        GOOD.replace("\t", ";"),
        GOOD.replace("\t", ","),
        GOOD.replace("\t", ";").replace(".", ","),
        GOOD.replace("\t", "  ").replace("\n", "\r\n"),
        "\n" + GOOD + "\n\n",
        "\ufeff".join(["", GOOD])[1:],
    ],
)
def test_a_table_is_read_whatever_parts_its_cells(text):
    found = read(text)
    assert found.rpm == (2000, 4000, 6000)
    assert found.load_kpa == pytest.approx((60 - 101.325, 100 - 101.325, 200 - 101.325))
    assert found.cells[-3:] == (0.86, 0.82, 0.80)


def test_ratios_and_shares_are_told_by_their_range_and_brought_to_what_is_kept():
    ratios = GOOD
    for value in ("1.0", "0.98", "0.95", "0.92", "0.90", "0.86", "0.82", "0.80"):
        ratios = ratios.replace(f"\t{value}", f"\t{float(value) * 14.7:.6f}")
    assert read(ratios).cells == pytest.approx(read(GOOD).cells, rel=1e-6)
    assert "air-fuel" in read(ratios).said
    share = read("\t2000\t4000\n100\t0.8\t0.95\n200\t0.9\t1.02\n", "volumetric efficiency")
    assert share.cells == pytest.approx((80, 95, 90, 102))
    assert read("\t2000\t4000\n100\t80\t95\n200\t90\t102\n", "volumetric efficiency").cells == share.cells


def test_pressures_are_gauge_inside_whatever_they_were():
    gauge = read(
        GOOD.replace("\n60", "\n-6").replace("\n100", "\n0").replace("\n200", "\n14.5"), axis="gauge", unit="psi"
    )
    assert gauge.load_kpa == pytest.approx((-41.37, 0.0, 99.97), abs=0.01)
    line = read("\t2000\t6000\nkPa\t120\t150\n", "boost")
    assert (line.load_kpa, line.cells) == ((0.0,), (120, 150))
    psi = read("\t2000\t6000\nboost\t10\t20\n", "boost", units=BenchUnits({"pressure": "psi"}))
    assert psi.cells == pytest.approx((68.95, 137.9), abs=0.01)


@pytest.mark.parametrize(
    ("text", "asked", "place", "says"),
    [
        ("", {}, (0, 0), "paste a table"),
        ("\t2000\t4000\n", {}, (0, 0), "at least one line"),
        (GOOD.replace("4000", "2000"), {}, (1, 3), "must rise"),
        (GOOD.replace("6000", "1000"), {}, (1, 4), "must rise"),
        (GOOD.replace("\n100", "\n60"), {}, (3, 1), "must rise"),
        (GOOD.replace("\n200", "\n20"), {}, (4, 1), "must rise"),
        (GOOD.replace("0.92", "lean"), {}, (3, 3), "not a number"),
        (GOOD.replace("0.92", "NaN"), {}, (3, 3), "not a number"),
        (GOOD.replace("0.92", "1e400"), {}, (3, 3), "too large"),
        (GOOD.replace("0.92", ""), {}, (3, 3), "value is needed"),
        (GOOD.replace("0.92", "13.5"), {}, (3, 3), "mixed"),
        (GOOD.replace("0.92", "0.2"), {}, (3, 3), "cannot be mixture"),
        (GOOD.replace("\t0.90", ""), {}, (3, 0), "2 cells where"),
        (GOOD.replace("0.80\n", "0.80\t0.7\n"), {}, (4, 0), "4 cells where"),
        (GOOD.replace("\n60", "\n-20"), {}, (2, 1), "less than nothing"),
        (GOOD.replace("\n60", "\n-200"), {"axis": "gauge"}, (2, 1), "below a vacuum"),
        (GOOD, {"axis": "gauge"}, (2, 1), "say absolute"),
        (GOOD.replace("2000", "2").replace("4000", "4").replace("6000", "6"), {}, (1, 2), "in rpm"),
        ("\t" + "\t".join(str(one) for one in range(100, 200)) + "\n60" + "\t1" * 100, {}, (0, 0), "at most 64"),
        ("1\n" * 300_000, {}, (0, 0), "longer"),
        (GOOD.replace("\t1.0\t1.0\t0.98", "\t60\t500\t70"), {"what": "volumetric efficiency"}, (2, 2), "mixed"),
    ],
)
def test_what_is_wrong_is_told_at_its_row_and_column(text, asked, place, says):
    with pytest.raises(TableError) as refused:
        read(text, **asked)
    first = refused.value.problems[0]
    assert (first.row, first.column) == place
    assert says in first.message


@given(
    st.text(max_size=200), st.sampled_from(("mixture", "volumetric efficiency", "boost", "rail pressure", "pump duty"))
)
@draws(60)
def test_any_text_is_read_or_refused_in_words(text, what):
    try:
        found = read(text, what)
    except TableError as error:
        told = str(error)
        found = None
    if found is None:
        assert told
    else:
        table = ControllerTable(id="m1", what=what, rpm=found.rpm, load_kpa=found.load_kpa, cells=found.cells)
        assert table.rows.shape == (len(found.load_kpa), len(found.rpm))


AXIS = st.lists(st.integers(5, 800), min_size=2, max_size=6, unique=True).map(sorted)


@given(AXIS, AXIS, st.randoms(use_true_random=False), st.floats(0, 9000), st.floats(-110, 900))
@draws(60)
def test_a_table_is_read_between_its_cells_as_an_independent_library_does(speeds, loads, random, rpm, kpa):
    speeds = [10.0 * one for one in speeds]
    cells = [random.uniform(0.5, 2.0) for _ in range(len(speeds) * len(loads))]
    table = ControllerTable(id="m1", what="mixture", rpm=speeds, load_kpa=loads, cells=cells)
    grid = RegularGridInterpolator((loads, speeds), np.reshape(cells, (len(loads), len(speeds))))
    inside = (np.clip(kpa, loads[0], loads[-1]), np.clip(rpm, speeds[0], speeds[-1]))
    assert float(table.at(rpm, kpa)) == pytest.approx(float(np.ravel(grid(inside))[0]), rel=1e-9)
    assert table.covers(rpm, kpa) == (speeds[0] <= rpm <= speeds[-1] and loads[0] <= kpa <= loads[-1])
