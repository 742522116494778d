"""Remedies: what one leaves behind is said before, what cures comes first, what changes nothing is not offered."""

import pytest

from iron_gulp.core.advise import base, find, put_right
from iron_gulp.core.judge import judge_all, judge_many
from iron_gulp.core.model import Passage, Wiring, apply
from iron_gulp.core.solve import wire_carries_a
from iron_gulp.shelf import load_shelf
from tests.garage import car
from tests.systems import a_target, build, check_option, demo, fine_filter, line, pump, wired_six_metres

SHELF = load_shelf()


def findings(one, option=None):
    option = option or one.options[0]
    return find(one, option, judge_all(one, option), SHELF.catalogue)


def one_click(one, code):
    finding = next(finding for finding in findings(one) if finding.code == code)
    return [remedy for remedy in finding.remedies if remedy.edits]


@pytest.mark.parametrize("name", ["curlew", "saltern"])
def test_what_a_remedy_leaves_behind_is_said_and_what_is_said_is_left(name):
    one = demo(name)
    before = {found.code for found in findings(one) if found.severity != "note"}
    told = 0
    for finding in findings(one):
        for remedy in finding.remedies:
            if not remedy.edits:
                continue
            changed = apply(one, remedy.edits)
            assert changed != one
            new = {found.title for found in findings(changed) if found.severity != "note" and found.code not in before}
            assert new == {title for title in new if title in remedy.label}
            assert bool(new) == (". Leaves to do: " in remedy.label)
            told += bool(new)
    assert told >= 1


def test_those_that_cure_come_first():
    for finding in findings(demo("curlew")):
        cured = []
        for remedy in finding.remedies:
            if remedy.edits:
                after = {
                    found.code for found in findings(apply(demo("curlew"), remedy.edits)) if found.severity != "note"
                }
                cured.append(finding.code not in after)
        assert cured == sorted(cured, reverse=True)


def test_injectors_come_with_what_the_controller_is_told():
    one = build(None, a_target(power_kw=330))
    told = {"injector_cc_min": 1000.0, "dead_time_ms": 0.9}
    known = apply(one, [(f"options/o1/calibration/{name}", value) for name, value in told.items()])
    offered = one_click(known, "injectors-small")
    remedy = next(one for one in offered if any(path.endswith("injectors/part") for path, _ in one.edits))
    after = apply(known, remedy.edits)
    part, told = after.options[0].injectors.part, after.options[0].calibration
    assert part.rated_flow_cc_min > 1000
    assert (told.injector_cc_min, told.injector_at_kpa) == (part.rated_flow_cc_min, part.rated_pressure_kpa)
    assert not {"injectors-untold", "dead-times-untold"} & {found.code for found in findings(after)}


def test_ticking_a_box_is_no_remedy_a_fit_part_is():
    one = apply(build(), [("options/o1/regulator/part/alcohol_ok", False)])
    finding = next(found for found in findings(one) if found.code == "alcohol-fitness")
    edited = {path for remedy in finding.remedies for path, _ in remedy.edits}
    assert edited == {"options/o1/regulator/part"}
    assert apply(one, finding.remedies[0].edits).options[0].regulator.part.alcohol_ok


def test_a_fault_equal_groups_share_is_said_once_with_one_remedy():
    thin = wired_six_metres().model_copy(update={"area_mm2": 0.75, "fuse_a": 40.0})
    one = build(check_option(pumps=(pump(wiring=thin), pump(id="g2", wiring=thin)), filter=fine_filter()))
    for code in ("fuse-large", "wiring-drop"):
        (finding,) = (found for found in findings(one) if found.code == code)
        remedy = next(remedy for remedy in finding.remedies if remedy.edits)
        assert {path.split("/")[3] for path, _ in remedy.edits} == {"g1", "g2"}
        assert code not in {found.code for found in findings(apply(one, remedy.edits))}


def test_of_groups_that_differ_the_numbers_told_are_those_of_the_worst_and_wires_go_in_their_order():
    thick, thin = (wired_six_metres().model_copy(update={"area_mm2": area}) for area in (1.5, 0.75))
    one = build(check_option(pumps=(pump(wiring=thick), pump(id="g2", wiring=thin)), filter=fine_filter()))
    (finding,) = (found for found in findings(one) if found.code == "wiring-drop")
    part = one.options[0].pumps[1].part
    assert finding.values["circuit"] == f"Main pumps, groups 1 and 2, most in Main pump, group 2 ({part.name})"
    (verdict,) = judge_all(one, one.options[0])
    assert finding.values["current_a"] == pytest.approx(verdict.points.hydraulics.amps[1].max())
    remedy = next(remedy for remedy in finding.remedies if remedy.edits)
    wires = [path.split("/")[3] for path, _ in remedy.edits if path.endswith("area_mm2")]
    assert wires == ["g1", "g2"]


def test_the_small_passage_of_a_return_comes_before_a_larger_hose():
    tube = Passage(id="p1", name="Tank end", bore_mm=3.2, length_m=0.2, k_sum=1.5)
    one = build(
        check_option(1, return_line=line(11.1, 3, 1), return_passages=(tube,), filter=fine_filter()),
        a_target(power_kw=150),
    )
    one = apply(one, [("options/o1/regulator/part/capacity_l_h", 600.0)])
    remedy = one_click(one, "regulator-overrun")[0]
    assert remedy.values["what_0"] == "Tank end"
    assert remedy.edits == (("options/o1/return_passages/p1/bore_mm", 11.1),)


def test_a_few_per_cent_over_a_wires_rating_is_no_fire():
    warm = wired_six_metres().model_copy(update={"copper_temp_c": 40.0})
    for share, severity in ((1.24, "warn"), (1.26, "stop")):
        wire = warm.model_copy(update={"fuse_a": wire_carries_a(warm) * share})
        one = build(check_option(pumps=(pump(wiring=wire),)))
        (finding,) = (found for found in findings(one) if found.code == "fuse-large")
        assert finding.severity == severity


def test_no_injection_pump_is_offered_to_a_carburettor():
    fieldfare = demo("fieldfare")
    part = fieldfare.options[0].pumps[0].part
    for other in SHELF.catalogue.pumps_above(part, 30.0):
        assert max(float(table.stall_kpa) for table in other.tables()) < 350 or (other.relief_kpa or 999) < 350


def test_an_unreferenced_regulator_that_suffices_is_not_objected_to():
    fixed = apply(build(None, a_target(power_kw=150, boost_kpa=60)), [("options/o1/regulator/reference", "atmosphere")])
    assert "fixed-reference" not in {found.code for found in findings(fixed)}
    more = apply(fixed, [("targets/t1/power_kw", 260.0), ("targets/t1/boost_kpa", 120.0)])
    assert "fixed-reference" in {found.code for found in findings(more)}


@pytest.mark.parametrize("name", ["curlew", "fieldfare"])
def test_everything_put_right_leaves_no_step_to_spare_and_only_what_takes_a_decision(name):
    one = demo(name)
    option = one.options[0]
    plan = put_right(one, option.id, SHELF.catalogue)
    left = {found.code for found in plan.left}
    after = {found.code for found in findings(apply(one, plan.edits)) if found.severity != "note"}
    assert after == left <= {"cold-start", "suction-margin"}
    assert not any(path.startswith("targets/") for path, _ in plan.edits)
    for step in plan.steps:
        fewer = [edit for other in plan.steps if other is not step for edit in other.remedy.edits]
        without = apply(one, fewer) if fewer else one
        assert {found.code for found in findings(without) if found.severity != "note"} - left


def test_a_sane_car_needs_no_putting_right():
    sane = car("Factory-class four on pump fuel")
    assert put_right(sane, "o1", SHELF.catalogue).steps == ()


@pytest.mark.parametrize("name", ["curlew", "saltern", "dunlin"])
def test_what_a_bench_offers_is_tried_in_few_sets_and_is_what_each_finding_offers_alone(name, monkeypatch):
    one = demo(name)
    if name == "curlew":
        # Thin wire, too little pump and a fuse too large at once: three findings that try things on the same pumps.
        path = f"options/{one.options[0].id}/pumps/{one.options[0].pumps[0].id}"
        one = apply(
            one, [(f"{path}/wiring/area_mm2", 1.0), (f"{path}/wiring/fuse_a", 40.0), (f"{path}/derate_pct", 40.0)]
        )
    option = one.options[0]
    verdicts = judge_all(one, option)
    sets = []
    monkeypatch.setattr(base, "judge_many", lambda asked, **how: sets.append(len(asked)) or judge_many(asked, **how))
    codes = [found.code for found in find(one, option, verdicts, SHELF.catalogue)]
    offered, taken = [], []
    for number in range(len(codes)):
        sets.clear()
        offered.append(find(one, option, verdicts, SHELF.catalogue, together=False)[number].remedies)
        taken.append(len(sets))
    together = find(one, option, verdicts, SHELF.catalogue)
    for station in {found.station for found in together}:
        beside = [number for number, found in enumerate(together) if found.station == station]
        sets.clear()
        assert [together[number].remedies for number in beside] == [offered[number] for number in beside]
        # As many sets as the finding that needs most of them, not one after the other.
        assert len(sets) <= max(taken[number] for number in beside)
    if name == "curlew":
        needed = [taken[codes.index(code)] for code in ("pumps-short", "wiring-drop", "fuse-large")]
        assert min(needed) >= 1


def test_what_differs_from_circuit_to_circuit_is_said_of_each():
    """One group wants a smaller fuse, the other a thicker wire: a click does both, and its words say both."""
    one = demo("curlew")
    option = one.options[0]
    one = apply(one, [(f"options/{option.id}/pumps/{option.pumps[0].id}/wiring/area_mm2", 1.0)])
    for code in ("fuse-large", "wiring-drop"):
        remedy = one_click(one, code)[0]
        for path, value in remedy.edits:
            name = path.rsplit("/", 1)[-1]
            if name in ("fuse_a", "area_mm2"):
                told = [each for each, told in remedy.values.items() if each.endswith(name) and told == value]
                assert any(f"{{{each}}}" in remedy.label for each in told), (code, path)
    words = {value for name, value in remedy_values(one, "fuse-large").items() if name.startswith("circuit_")}
    assert words == {"Main pump, group 1", "Main pump, group 2"}


def remedy_values(one, code):
    """Values of the first remedy of a finding that can be tried."""
    return one_click(one, code)[0].values


def test_what_is_the_same_for_every_circuit_is_said_once():
    """Two like groups want the same fuse; that they lie in different wire, which carries it, does not part the words."""
    groups = tuple(
        pump(id=name, wiring=Wiring(loop_m=5, area_mm2=area, fuse_a=None)) for name, area in (("g1", 6.0), ("g2", 10.0))
    )
    remedy = one_click(build(check_option(pumps=groups), a_target()), "fuse-missing")[0]
    assert remedy.label == "Fit a fuse of {fuse_a}"
    assert dict(remedy.edits) == {
        f"options/o1/pumps/{name}/wiring/fuse_a": remedy.values["fuse_a"] for name in ("g1", "g2")
    }
