"""The workshop: editing, merging two editors' work, remedies, adding and removing, import and export."""

import json

import pytest

from iron_gulp.core.account import solve_report
from iron_gulp.core.model import value_at
from iron_gulp.formats.build_file import BuildFileError, read
from iron_gulp.services.answers import read_answers
from iron_gulp.services.fields import BadValue, field_at, read_field
from iron_gulp.services.workshop import NotFound, Workshop
from iron_gulp.units import PRESETS, BenchUnits

METRIC, US = BenchUnits(), BenchUnits(PRESETS["US"])


@pytest.fixture
def workshop(tmp_path):
    return Workshop(tmp_path / "garage.sqlite3")


@pytest.fixture
def one(workshop):
    return workshop.garage.create()


def boost(workshop, one):
    return workshop.judging.bench(one).build.targets[0].boost_kpa


def test_edit_saves_a_revision(workshop, one):
    assert workshop.edits.edit(one, 1, "targets/t1/boost_kpa", "20 psi", METRIC).ok
    assert boost(workshop, one) == pytest.approx(137.895, abs=1e-3)
    assert [r.note for r in workshop.garage.revisions(one).rows] == ["Boost: 20 psi", "new build"]


def test_refused_edit_keeps_the_typed_text_and_stores_nothing(workshop, one):
    outcome = workshop.edits.edit(one, 1, "targets/t1/boost_kpa", "lots", METRIC)
    assert (outcome.ok, outcome.typed, outcome.path) == (False, "lots", "targets/t1/boost_kpa")
    assert "not a number" in outcome.message
    assert workshop.garage.revisions(one).total == 1


def test_typing_the_same_value_makes_no_revision(workshop, one):
    assert workshop.edits.edit(one, 1, "targets/t1/boost_kpa", "100", METRIC).ok
    assert workshop.garage.revisions(one).total == 1


@pytest.mark.parametrize(
    ("path", "typed", "words"),
    [
        ("targets/t1/boost_kpa", "100000", "must lie from −13.8 to 87.0 psi"),
        ("targets/t1/boost_kpa", "", "needed"),
        ("engine/cylinders", "4.5", "whole number"),
        ("engine/cylinders", "0", "from 1 to 24"),
        ("name", "   ", "needed"),
        ("name", "x" * 81, "at most 80"),
        ("options/o1/regulator/reference", "sideways", "choose one of"),
        ("options/o1/regulator", "x", "not a single value"),
        ("nowhere/at/all", "1", "no such field"),
        ("targets/t9/boost_kpa", "1", "no such field"),
        ("measured/power_kw", "100", "no such field"),
        ("targets/t1/rpm", "9000", "above the engine"),
        ("schema_version", "1", "choose one of"),
    ],
)
def test_wrong_values_are_refused_in_words(workshop, one, path, typed, words):
    outcome = workshop.edits.edit(one, 1, path, typed, US)
    assert not outcome.ok
    assert words in outcome.message


def test_two_editors_on_different_fields_both_win(workshop, one):
    assert workshop.edits.edit(one, 1, "targets/t1/boost_kpa", "120", METRIC).ok
    assert workshop.edits.edit(one, 1, "targets/t1/rpm", "6000", METRIC).ok
    target = workshop.judging.bench(one).build.targets[0]
    assert (target.boost_kpa, target.rpm) == (120, 6000)


def test_two_editors_on_the_same_field_clash_visibly(workshop, one):
    assert workshop.edits.edit(one, 1, "targets/t1/boost_kpa", "120", METRIC).ok
    outcome = workshop.edits.edit(one, 1, "targets/t1/boost_kpa", "90", METRIC)
    assert "another window" in outcome.message
    assert boost(workshop, one) == 120


def test_optional_fields_empty_to_nothing(workshop, one):
    workshop.edits.edit(one, 1, "targets/t1/ve_pct", "102", METRIC)
    assert workshop.judging.bench(one).build.targets[0].ve_pct == 102
    workshop.edits.edit(one, 2, "targets/t1/ve_pct", "", METRIC)
    assert workshop.judging.bench(one).build.targets[0].ve_pct is None


def test_remedy_is_applied_and_undone(workshop):
    workshop.garage.load_demo()
    (curlew,) = [row.id for row in workshop.garage.page("curlew").rows]
    bench = workshop.judging.bench(curlew)
    number, finding = next((n, f) for n, f in enumerate(bench.judged.findings) if f.code == "injectors-small")
    assert workshop.edits.remedy(curlew, 1, "as-built", number, finding.code, 0).ok
    assert "injectors-small" not in {f.code for f in workshop.judging.bench(curlew).judged.findings}
    assert workshop.garage.undo(curlew)
    assert "injectors-small" in {f.code for f in workshop.judging.bench(curlew).judged.findings}
    stale = workshop.edits.remedy(curlew, 1, "as-built", 99, finding.code, 0)
    assert stale.message == "this remedy no longer applies"


def test_adding_and_removing(workshop, one):
    assert workshop.edits.add(one, 1, "targets", like="t1").ok
    targets = workshop.judging.bench(one).build.targets
    assert [(d.id, d.name) for d in targets][-1] == ("t3", "Pump fuel 2")
    assert workshop.edits.add(one, 2, "pumps", "o1").ok
    assert workshop.edits.add(one, 3, "pickup", "o1").ok
    assert workshop.edits.add(one, 4, "measured").ok
    assert workshop.edits.add(one, 5, "options", like="o1").ok
    build = workshop.judging.bench(one).build
    assert (len(build.options), len(build.options[0].pumps)) == (2, 2)
    for number, path in enumerate(["measured", "options/o1/pickup", "options/o1/pumps/g2", "targets/t3", "options/o2"]):
        assert workshop.edits.remove(one, 6 + number, path).ok, path
    assert workshop.judging.bench(one).build.model_copy(update={"name": "x"}) == workshop.judging.bench(
        workshop.garage.create()
    ).build.model_copy(update={"name": "x"})


@pytest.mark.parametrize(
    ("path", "words"), [("options/o1", "last one"), ("name", "cannot be removed"), ("options/o1/pumps/g1", "last one")]
)
def test_what_cannot_be_removed(workshop, one, path, words):
    assert words in workshop.edits.remove(one, 1, path).message


LINES = ("feed", "return_line", "suction/line", "lift/line", "split/branches/b2/line")


@pytest.mark.parametrize("where", LINES)
def test_every_line_takes_fittings_and_gives_them_back(workshop, one, where):
    for what in ("suction/line", "lift", "split"):
        assert workshop.edits.add(one, workshop.judging.bench(one).stored.number, what, "o1").ok
    for _ in range(2):
        assert workshop.edits.add(one, workshop.judging.bench(one).stored.number, f"{where}/fittings", "o1").ok
    path = f"options/o1/{where}/fittings"
    bench = workshop.judging.bench(one)
    assert [fitting["id"] for fitting in value_at(bench.build, path)] == ["f1", "f2"]
    before = bench.stored.number
    assert workshop.edits.edit(one, before, f"{path}/f1/kind", "drilled block, 90°", BenchUnits()).ok
    assert workshop.edits.edit(one, before + 1, f"{path}/f1/count", "3", BenchUnits()).ok
    refused = workshop.edits.edit(one, before + 2, f"{path}/f2/bore_mm", "0.1", BenchUnits())
    assert (refused.ok, refused.typed) == (False, "0.1")
    assert workshop.edits.remove(one, before + 2, f"{path}/f2").ok
    assert [fitting["kind"] for fitting in value_at(workshop.judging.bench(one).build, path)] == ["drilled block, 90°"]


def test_fittings_of_a_line_that_is_not_there_are_refused(workshop, one):
    for what in ("lift/line/fittings", "split/branches/b9/line/fittings", "nonsense/fittings"):
        assert "no such line" in workshop.edits.add(one, 1, what, "o1").message
    assert workshop.judging.bench(one).stored.number == 1


def test_rails_follow_the_branches_of_a_split(workshop, one):
    def count():
        option = workshop.judging.bench(one).option
        return option.rail.count, 0 if option.split is None else len(option.split.branches)

    assert workshop.edits.add(one, 1, "split", "o1").ok
    assert count() == (2, 2)
    assert not workshop.edits.add(one, 2, "split", "o1").ok
    assert workshop.edits.add(one, 2, "split/branches", "o1").ok
    assert count() == (3, 3)
    refused = workshop.edits.edit(one, 3, "options/o1/rail/count", "2", BenchUnits())
    assert "one goes to each rail" in refused.message
    assert workshop.edits.remove(one, 3, "options/o1/split/branches/b1").ok
    assert count() == (2, 2)
    assert workshop.edits.remove(one, 4, "options/o1/split/branches/b2").ok
    assert count() == (1, 0)
    assert workshop.edits.add(one, 5, "split", "o1").ok
    assert workshop.edits.remove(one, 6, "options/o1/split").ok
    assert count() == (1, 0)


def test_a_pickup_comes_and_goes(workshop, one):
    assert workshop.edits.add(one, 1, "pickup", "o1").ok
    assert workshop.judging.bench(one).option.pickup.kind == "sock strainer"
    assert workshop.edits.edit(one, 2, "options/o1/pickup/kind", "baffled sump", BenchUnits()).ok
    assert workshop.edits.remove(one, 3, "options/o1/pickup").ok
    assert workshop.judging.bench(one).option.pickup is None


def test_a_pump_takes_a_table_at_another_voltage(workshop, one):
    path = "options/o1/pumps/g1/part/curves"
    before = value_at(workshop.judging.bench(one).build, path)
    assert workshop.edits.add(one, 1, "pumps/g1/part/curves", "o1").ok
    tables = value_at(workshop.judging.bench(one).build, path)
    lower = tables[-1]
    assert lower["voltage_v"] == pytest.approx(min(curve["voltage_v"] for curve in before) - 1.5)
    assert lower["flow_l_h"][0] < before[0]["flow_l_h"][0]
    assert workshop.edits.remove(one, 2, f"{path}/{len(before)}").ok
    assert value_at(workshop.judging.bench(one).build, path) == before
    assert "last one" in workshop.edits.remove(one, 3, f"{path}/0").message or len(before) > 1


def test_adding_has_an_end(workshop, one):
    for number in range(1, 11):
        assert workshop.edits.add(one, number, "targets").ok
    assert "no room" in workshop.edits.add(one, 11, "targets").message
    assert "cannot be added" in workshop.edits.add(one, 11, "horses", "o1").message


def test_shelf_part_is_copied_in(workshop, one):
    path = "options/o1/injectors/part"
    assert workshop.edits.choose_part(one, 1, path, "injectors", "inj-1250").ok
    assert workshop.judging.bench(one).option.injectors.part == workshop.shelf.part("injectors", "inj-1250")
    assert "no such part" in workshop.edits.choose_part(one, 2, path, "injectors", "inj-1").message
    assert "no such part" in workshop.edits.choose_part(one, 2, path, "horses", "inj-800").message
    assert not workshop.edits.choose_part(one, 2, path, "pumps", "pump-250").ok


def test_export_import_round_trip_and_same_solution(workshop):
    workshop.garage.load_demo()
    for row in workshop.garage.page().rows:
        name, text = workshop.documents.export(row.id)
        assert name.endswith(".irongulp.json")
        again = workshop.garage.import_build(text.encode())
        assert workshop.documents.export(again)[1] == text
        build = read(text)
        for option in build.options:
            for target in build.targets:
                assert workshop.documents.solution(row.id, option.id, target.id) == solve_report(
                    build, option.id, target.id
                )


def test_bad_import_changes_nothing(workshop):
    with pytest.raises(BuildFileError):
        workshop.garage.import_build(b'{"schema_version": 1, "name": "x"}')
    assert workshop.garage.page().total == 0


def test_demo_loads_once(workshop):
    assert workshop.garage.load_demo() >= 2
    assert workshop.garage.load_demo() == 0
    row = workshop.garage.page("curlew").rows[0]
    assert row.summary["limit"] == "Injectors"
    assert row.summary["status"] == "over"


def test_duplicate_archive_and_unknown(workshop, one):
    copy = workshop.garage.duplicate(one)
    assert workshop.judging.bench(copy).build.name == "New build, copy"
    workshop.garage.set_archived(one, True)
    assert [row.id for row in workshop.garage.page().rows] == [copy]
    with pytest.raises(NotFound):
        workshop.judging.bench(999)


def test_every_leaf_of_the_demo_builds_is_a_field(workshop):
    workshop.garage.load_demo()
    seen = 0

    def walk(value, path):
        nonlocal seen
        if isinstance(value, dict):
            for key, inner in value.items():
                walk(inner, f"{path}/{key}" if path else key)
        elif isinstance(value, list):
            for index, inner in enumerate(value):
                step = inner["id"] if isinstance(inner, dict) and "id" in inner else index
                walk(inner, f"{path}/{step}")
        else:
            field = field_at(path)
            assert field.kind != "other" or value is None, path
            seen += 1

    walk(json.loads(workshop.documents.export(1)[1]), "")
    assert seen > 150


@pytest.mark.parametrize("typed", ["yes", "no"])
def test_switches_read(typed):
    assert read_field("options/o1/feed/part/alcohol_ok", typed, METRIC) is (typed == "yes")


def test_control_characters_are_dropped_and_html_is_only_text():
    assert read_field("name", "a\x00b\x1b<i>", METRIC) == "ab<i>"
    with pytest.raises(BadValue):
        read_field("name", "\x00", METRIC)


def test_a_rail_and_a_sensor_of_the_shelf_keep_what_is_their_place(workshop, one):
    def option():
        return workshop.judging.bench(one).build.options[0]

    def base():
        return workshop.judging.bench(one).stored.number

    where = f"options/{option().id}"
    assert workshop.edits.edit(one, base(), f"{where}/rail/count", "2", METRIC).ok
    assert workshop.edits.choose_part(one, base(), f"{where}/rail", "rails", "rail-20-800").ok
    assert (option().rail.count, option().rail.bore_mm, option().rail.shelf_id) == (2, 20.0, "rail-20-800")
    assert workshop.edits.add(one, base(), "sensors", option().id).ok
    sensor = option().sensors[0]
    assert workshop.edits.choose_part(one, base(), f"{where}/sensors/{sensor.id}", "sensors", "sensor-map-315").ok
    fitted = option().sensors[0]
    assert (fitted.id, fitted.read_by, fitted.measures) == (sensor.id, sensor.read_by, "manifold pressure")
    assert fitted.reads_to_kpa == 315.0
    assert not workshop.edits.choose_part(one, base(), f"{where}/rail", "pumps", "pump-250").ok
    assert not workshop.edits.choose_part(one, base(), f"{where}/nothing", "rails", "rail-20-800").ok


def test_a_port_rail_set_is_fitted_whole_or_says_why_not(workshop, one):
    def option():
        return workshop.judging.bench(one).build.options[0]

    def fit(path, shelf_id="set-2-800"):
        base = workshop.judging.bench(one).stored.number
        return workshop.edits.choose_part(one, base, path, "port_sets", shelf_id)

    where = f"options/{option().id}/injectors"
    assert fit(where).ok
    rail, injector = option().rail, option().injectors.part
    assert (rail.count, rail.bore_mm, rail.shelf_id, injector.rated_flow_cc_min) == (2, 14.0, "set-2-800", 800.0)
    base = workshop.judging.bench(one).stored.number
    assert workshop.edits.add(one, base, "split", option().id).ok
    refused = fit(where, "set-1-500")
    assert not refused.ok
    assert "2 branches, the set 1 rails" in refused.message
    assert option().injectors.part == injector
    for wrong in ("options/none/injectors", "options", "targets/t1"):
        assert not fit(wrong).ok
    assert not fit(where, "no-such-set").ok
    base = workshop.judging.bench(one).stored.number
    assert workshop.edits.add(one, base, "high_side", option().id).ok
    base = workshop.judging.bench(one).stored.number
    assert workshop.edits.remove(one, base, where).ok
    assert option().delivery is None
    assert fit(where).ok
    assert (option().delivery.mode, option().regulator.reference) == ("ceiling", "manifold")


@pytest.mark.parametrize(
    ("path", "value", "words"),
    [
        ("options/o1/high_side/pumps/0/cam_ratio", "0", "must lie above 0, up to 4"),
        ("options/o1/high_side/pumps/0/part/valve_factor", "1.2", "must lie above 0, up to 1"),
        ("options/o1/regulator/base_kpa", "2", "must lie from 5 to 1"),
    ],
)
def test_a_bound_that_is_refused_itself_is_not_called_allowed(path, value, words):
    with pytest.raises(BadValue, match=words):
        read_field(path, value, BenchUnits())


def test_where_a_power_is_quoted_follows_what_was_typed(workshop, one):
    """320 bhp is at the crank, 300 whp at the wheels; hp alone leaves it as it is."""

    def quoted():
        target = workshop.judging.bench(one).build.targets[0]
        return target.power_at, round(target.power_kw / 0.74569987, 1)

    assert quoted()[0] == "wheels"
    for revision, (typed, at, hp) in enumerate(
        [("320 bhp", "crank", 320.0), ("310 hp", "crank", 310.0), ("300 rwhp", "wheels", 300.0)], start=1
    ):
        assert workshop.edits.edit(one, revision, "targets/t1/power_kw", typed, METRIC).ok
        assert quoted() == (at, hp)
    assert workshop.garage.revisions(one).total == 4


@pytest.mark.parametrize(
    ("typed", "at"), [("300 whp", "wheels"), ("320 bhp", "crank"), ("320 crank hp", "crank"), ("300", "wheels")]
)
def test_a_new_build_takes_it_from_the_answer_too(typed, at):
    answers = read_answers({"power_kw": typed, "cylinders": "V8", "displacement_l": "5.0", "power_at": "wheels"}, METRIC)
    assert answers.power_at == at
    assert answers.cylinders == 8
