"""The parts list counts what the model holds, no more and no less."""

import csv
import io

import pytest

from iron_gulp.core.account import SPARE_LENGTH, parts_list
from iron_gulp.core.judge import judge_all
from iron_gulp.core.model import Pickup, Rail, apply
from iron_gulp.formats import parts_list_csv
from tests.systems import build, check_option, demo, fine_filter, fitted_line, lift_stage, line, pump, split


def listed(one, option_id=None):
    option = one.option(option_id)
    return parts_list(one, option, tuple(judge_all(one, option)))


def count(items, words):
    return sum(item.count or 0 for item in items if words in item.part)


def full():
    return build(
        check_option(
            pumps=(pump(count=2), pump(id="g2", on_above_kpa=50.0)),
            pickup=Pickup(),
            lift=lift_stage(3.0, count=2),
            filter=fine_filter(),
            feed=fitted_line(8.7, 4.0, ("swept elbow, 90°", 3), ("tee, into the branch", 1), ("exit into a tank", 1)),
            split=split(line(8.7, 0.5, 0), line(8.7, 0.7, 0), line(8.7, 0.9, 0)),
            rail=Rail(count=3),
        )
    )


def test_every_part_of_the_model_is_on_the_list_once():
    items = listed(full())
    assert (count(items, "Swept elbow"), count(items, "Tee")) == (3, 1)
    assert [item.count for item in items if item.place.startswith("Group") and "Check" not in item.part] == [2, 1]
    assert count(items, "Check valve") == 3
    assert count(items, "injector") == 5
    assert count(items, "Fuel rail") == 3
    assert count(items, "Surge tank") == 1
    assert [item.count for item in items if item.place == "Split"] == [2]
    assert not [item for item in items if "xit into" in item.part]


def test_lengths_are_the_lines_with_a_tenth_to_spare():
    lengths = {item.place: item.length_m for item in listed(full()) if item.length_m and item.section == "Feed"}
    assert lengths == {
        "Feed": pytest.approx(4.0 * SPARE_LENGTH),
        "Branch 1": pytest.approx(0.5 * SPARE_LENGTH),
        "Branch 2": pytest.approx(0.7 * SPARE_LENGTH),
        "Branch 3": pytest.approx(0.9 * SPARE_LENGTH),
    }


def test_each_pump_has_a_circuit_of_its_own():
    electric = [item for item in listed(full()) if item.section == "Electrics"]
    assert sum(item.count for item in electric if "Fuse" in item.part) == 3 + 2
    assert sum(item.count for item in electric if item.part == "Relay") == 3 + 2
    mechanical = pump(part=pump().part.model_copy(update={"kind": "mechanical"}))
    assert not [item for item in listed(build(check_option(pumps=(mechanical,)))) if item.part == "Wire"]


@pytest.mark.parametrize(
    ("edits", "there", "gone"),
    [
        ([], ["Reference hose", "regulator"], ["Overflow"]),
        ([("options/o1/regulator/reference", "atmosphere")], ["regulator"], ["Reference hose"]),
        (
            [("options/o1/regulator/arrangement", "returnless, speed-controlled")],
            ["Rail pressure sensor"],
            ["Exit", "regulator"],
        ),
    ],
)
def test_what_a_regulator_needs(edits, there, gone):
    items = listed(apply(build(), edits))
    words = " ".join(item.part for item in items)
    assert all(one in words for one in there)
    assert not any(one in words for one in gone)
    returns = [item for item in items if item.section == "Return" and item.length_m and "Reference" not in item.part]
    assert bool(returns) == ("returnless" not in str(edits))


def test_rubber_is_clamped_and_hard_tube_is_flared():
    curlew, fieldfare = demo("curlew"), demo("fieldfare")
    lift = [item.part for item in listed(curlew) if item.place == "Lift line"]
    assert "Fuel-line clamp" in lift
    feed = [item.part for item in listed(fieldfare) if item.place == "Feed"]
    assert "Tube nut and sleeve" in feed
    assert "Fuel-line clamp" not in feed
    assert "Float needle and seat" in [item.part for item in listed(fieldfare)]


def test_csv_has_every_row_and_plain_numbers():
    items = listed(full())
    rows = list(csv.DictReader(io.StringIO(parts_list_csv.write(items))))
    assert len(rows) == len(items)
    feed = next(row for row in rows if row["place"] == "Feed" and row["length_m"])
    assert float(feed["length_m"]) == pytest.approx(4.4)
    assert {row["counted"] for row in rows} == {"from the model", "usual number"}
    assert all(bool(row["count"]) != bool(row["length_m"]) for row in rows)
