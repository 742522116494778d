"""Parts as CSV, and the flow-bottle test."""

import pytest

from iron_gulp.core.study import Reading, bottle_test
from iron_gulp.formats.parts_csv import MOST_PARTS, PartsFileError, read_parts, together, write_parts
from iron_gulp.shelf import KINDS, load_shelf

SHELF = load_shelf()


@pytest.mark.parametrize("kind", KINDS)
def test_the_whole_shelf_round_trips(kind):
    parts = [part.model_copy(update={"shelf_id": None}) for part in SHELF.parts(kind)]
    if kind == "pumps":
        parts = [part for part in parts if len(part.curves) == 1]
    assert read_parts(kind, write_parts(kind, parts).encode()) == parts


def problems(kind, text):
    with pytest.raises(PartsFileError) as caught:
        read_parts(kind, text.encode() if isinstance(text, str) else text)
    return [(one.row, one.column) for one in caught.value.problems]


def test_every_faulty_row_is_reported():
    text = (
        "name,bore_mm,construction,alcohol_ok\n"
        "good,8,hard tube,yes\n"
        "no bore,,hard tube,yes\n"
        "bad bore,wide,hard tube,yes\n"
        "bad word,8,garden hose,perhaps\n"
        ",9,hard tube,no\n"
    )
    assert problems("lines", text) == [(2, "bore_mm"), (3, "bore_mm"), (4, "alcohol_ok"), (5, "name")]


def test_pump_tables_must_make_sense():
    header = "name,voltage_v,pressure_kpa,flow_l_h,current_a\n"
    assert problems("pumps", header + "up,13.5,0;300,200;300,4;8\n") == [(1, "flow_l_h")]
    assert problems("pumps", header + "short,13.5,0;300,200,4;8\n")[0][0] == 1
    (good,) = read_parts("pumps", (header + "good,13.5,0;300,200;100,4;8\n").encode())
    assert good.curves[0].flow_l_h == (200.0, 100.0)
    assert good.provenance == "own data"


@pytest.mark.parametrize(
    "content", [b"", b"a,b\n1,2\n", b"\xff\xfe", b"name\n", b"name,colour\nx,red\n", b'name\n"open', b"name\n" * 300_000]
)
def test_files_that_hold_no_parts(content):
    assert problems("lines", content)[0][0] in (0, 1)


def readings(share):
    table = max(SHELF.part("pumps", "pump-315").tables(), key=lambda one: one.voltage_v)
    return [Reading(kpa, 1.0, 3600 / float(table.flow(kpa)) / share, 13.5, 10.0) for kpa in (400.0, 200.0, 300.0)]


@pytest.mark.parametrize(("share", "matches"), [(1.0, True), (0.91, True), (0.8, False)])
def test_bottle_says_whether_a_pump_is_what_it_claims(share, matches):
    test = bottle_test(readings(share), SHELF.part("pumps", "pump-315"))
    assert test.matches is matches
    assert test.worst_share == pytest.approx(share)
    assert test.curve.pressure_kpa == (200.0, 300.0, 400.0)
    assert test.curve.flow_l_h[1] == pytest.approx(355 * share, abs=0.06)


def test_bottle_without_a_claim_only_measures():
    assert bottle_test(readings(1.0)).matches is None


def test_bottle_takes_the_voltage_it_was_read_at():
    low = [Reading(one.pressure_kpa, 1.0, one.seconds_s / 0.8, 11.5, 9.0) for one in readings(1.0)]
    claimed = bottle_test(low, SHELF.part("pumps", "pump-315")).points[0].claimed_l_h
    assert claimed < 355


@pytest.mark.parametrize(
    ("rows", "words"),
    [
        ([], "at least two"),
        (readings(1.0)[:1], "at least two"),
        ([Reading(100, 1, 10, 13, 5), Reading(200, 1, 5, 13, 5)], "rises with pressure"),
        ([Reading(100, 1, 0, 13, 5), Reading(200, 1, 5, 13, 5)], "above zero"),
        ([Reading(100, 1, 5, 13, 5), Reading(100, 1, 5, 13, 5)], "rise from point"),
    ],
)
def test_bottle_refuses_readings_that_make_no_table(rows, words):
    with pytest.raises(ValueError, match=words):
        bottle_test(rows)


def test_a_file_of_a_hundred_thousand_lines_is_refused_before_its_rows_are_looked_at():
    good, bad = b"hose,8\n", b"hose,wide\n"
    content = b"name,bore_mm\n" + bad * 3 + good * 99_000
    with pytest.raises(PartsFileError) as refused:
        read_parts("lines", content)
    assert together(refused.value.problems) == [("", "", "a file holds at most 2000 parts: divide it")]


def test_a_file_of_as_many_parts_as_are_taken_is_taken():
    assert len(read_parts("lines", b"name,bore_mm\n" + b"hose,8\n" * MOST_PARTS)) == MOST_PARTS
