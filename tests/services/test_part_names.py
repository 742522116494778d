"""A part whose data were typed over bears a name of its own, and what fits the shelf's in its place can be told."""

import pytest

from iron_gulp.core.plan import differences
from iron_gulp.units import PRESETS, BenchUnits

US = BenchUnits(PRESETS["US"])


def part(workshop, build, option="as-built"):
    return workshop.judging.bench(build, option).option.injectors.part


@pytest.fixture
def edit(workshop):
    build = workshop.garage.page("curlew").rows[0].id

    def typed(path, value, units=None):
        number = workshop.judging.bench(build).stored.number
        outcome = workshop.edits.edit(build, number, f"options/as-built/{path}", value, units or BenchUnits())
        assert outcome.ok, outcome.message
        return part(workshop, build)

    typed.build = build
    return typed


def test_data_typed_over_stand_in_the_name_until_they_are_the_shelfs_again(workshop, edit):
    before = part(workshop, edit.build)
    one = edit("injectors/part/rated_flow_cc_min", "265")
    assert one.name == f"{before.name} with 265 cc/min entered"
    assert one.shelf_id == before.shelf_id
    two = edit("injectors/part/rated_pressure_kpa", "58 psi", US)
    assert two.name == f"{before.name} with 265 cc/min and 400 kPa entered"
    edit("injectors/part/rated_pressure_kpa", f"{before.rated_pressure_kpa} kPa")
    assert edit("injectors/part/rated_flow_cc_min", f"{before.rated_flow_cc_min} cc/min").name == before.name


def test_what_a_part_costs_makes_no_other_part_of_it_and_a_name_of_ones_own_stays(workshop, edit):
    before = part(workshop, edit.build)
    assert edit("injectors/part/price", "99").name == before.name
    assert edit("injectors/count", "10").name == before.name
    number = workshop.judging.bench(edit.build).stored.number
    workshop.edits.make(edit.build, number, [("options/as-built/injectors/part/name", "Mine")], "named")
    assert edit("injectors/part/rated_flow_cc_min", "700").name == "Mine"


def test_the_longest_name_holds_and_a_table_typed_over_is_named(workshop, edit):
    number = workshop.judging.bench(edit.build).stored.number
    group = workshop.judging.bench(edit.build).option.pumps[0]
    flow = group.part.curves[0].flow_l_h[0]
    edit(f"pumps/{group.id}/part/curves/0/flow_l_h/0", f"{flow + 20} L/h")
    pump = workshop.judging.bench(edit.build).option.pumps[0].part
    assert pump.name == f"{group.part.name} with curves entered"
    assert len(pump.name) <= 80
    assert workshop.judging.bench(edit.build).stored.number == number + 1


def test_parts_of_one_name_whose_data_differ_are_told_apart(workshop, edit):
    option = workshop.judging.bench(edit.build).option
    other = option.injectors.part.model_copy(update={"rated_flow_cc_min": 265.0})
    typed = option.model_copy(update={"injectors": option.injectors.model_copy(update={"part": other})})
    told = [one for one in differences(typed, option) if one[0] == "injectors"]
    assert told == [("injectors", f"{other.name}, as entered", option.injectors.part.name)]
    dearer = option.injectors.part.model_copy(update={"price": 5.0})
    priced = option.model_copy(update={"injectors": option.injectors.model_copy(update={"part": dearer})})
    assert differences(priced, option) == []
