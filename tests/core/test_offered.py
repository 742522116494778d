"""Pumps in the order of what they move where they would stand."""

import pytest

from iron_gulp.core.judge import judge_all
from iron_gulp.core.model import flow_at, flow_at_400_kpa
from iron_gulp.core.study import end_rise_kpa, lift_rise_kpa, offered, working_kpa
from iron_gulp.shelf import load_shelf
from tests.systems import demo

SHELF = load_shelf().catalogue
PUMPS = SHELF.pumps
BY_ID = {one.shelf_id: one for one in PUMPS}


@pytest.mark.parametrize(
    ("shelf_id", "kpa"),
    [("pump-315", 400), ("pump-belt-800", 400), ("pump-lift-200", 50), ("pump-carb-315", 30), ("pump-carb-mech-250", 30)],
)
def test_pumps_are_listed_at_a_pressure_they_work_at(shelf_id, kpa):
    part = BY_ID[shelf_id]
    assert working_kpa(part) == kpa
    assert f"{flow_at(part, kpa):.0f} L/h at {kpa} kPa" in part.name


def test_a_list_for_a_place_sorts_by_what_is_moved_there():
    curlew = demo("curlew")
    verdicts = judge_all(curlew, curlew.options[0])
    rise = end_rise_kpa(verdicts)
    assert rise > 500
    found = offered(SHELF, BY_ID["pump-200"], rise)
    assert len(found) == len(PUMPS)
    assert all(one.flow_l_h == flow_at(one.part, rise) for one in found)
    first = [one for one in found if flow_at_400_kpa(one.part) > 0 and one.part.kind != "mechanical"]
    assert found[: len(first)] == first
    assert [one.flow_l_h for one in first] == sorted(one.flow_l_h for one in first)
    # What a free-flow class hides: ordered by 400 kPa the gerotor would stand behind, here it stands before.
    names = [one.part.shelf_id for one in first]
    assert names.index("pump-gerotor-250") > names.index("pump-250")


def test_lift_pumps_are_compared_at_the_lift_stages_own_rise():
    curlew = demo("curlew")
    verdicts = judge_all(curlew, curlew.options[0])
    rise = lift_rise_kpa(verdicts)
    assert rise == max(verdict.lift.rise_kpa for verdict in verdicts)
    names = [one.part.shelf_id for one in offered(SHELF, BY_ID["pump-lift-200"], rise)][:4]
    assert names == ["pump-lift-125", "pump-lift-200", "pump-lift-315", "pump-lift-500"]
    fieldfare = demo("fieldfare")
    assert lift_rise_kpa(judge_all(fieldfare, fieldfare.options[0])) == 50.0
