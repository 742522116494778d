"""A remedy says all that it changes, keeps nothing of the part it takes out, and reaches for the headroom wanted."""

import pytest

from iron_gulp.core.advise import find
from iron_gulp.core.judge import judge_all
from iron_gulp.core.model import Filter, Rail, Suction, Wiring, apply
from tests.core.test_findings import CASES, SHELF
from tests.garage import CARS, car, changed, part
from tests.systems import a_target, build, check_option, pump

EVERY = [(name, number) for name, data in CARS.items() for number in range(len(data["faults"]))]
# What is said of a field that a remedy changes beside its part; the rest is named in its own words.
SAID = {
    "fuse_a": "fuse",
    "area_mm2": "wire",
    "injector_cc_min": "controller",
    "dead_time_ms": "controller",
    "rail_watch": "rail pressure",
    "terminal_a": "terminals",
    "hat_pin_a": "pins through the hat",
    "pigtail_a": "pigtail",
}


def remedies(one, code):
    found = find(one, one.options[0], judge_all(one, one.options[0]), SHELF.catalogue)
    return [remedy for each in found if each.code == code for remedy in each.remedies if remedy.edits]


@pytest.mark.parametrize(("name", "number"), EVERY[::3])
def test_what_a_remedy_changes_beside_its_part_is_in_its_words(name, number):
    fault = CARS[name]["faults"][number]
    for remedy in remedies(changed(car(name), fault["edits"]), fault["finds"]):
        changes = {path.rpartition("/")[2] for path, _ in remedy.edits}
        label = remedy.label.lower()
        for field in changes & set(SAID):
            # One that is about the field itself says its value.
            assert changes == {field} or SAID[field] in label or f"{{{field}}}" in label or f"_{field}}}" in label, (
                field,
                remedy.label,
            )


def test_a_larger_pump_comes_with_its_fuse_and_wire_and_without_the_old_ones_wear():
    worn = pump(part=part("pumps", "pump-125"), derate_pct=8.0, wiring=Wiring(loop_m=3.0, area_mm2=2.5, fuse_a=7.5))
    one = build(check_option(pumps=(worn,)), a_target(power_kw=230, boost_kpa=100))
    first = remedies(one, "pumps-short")[0]
    edits = {path.rpartition("/")[2]: value for path, value in first.edits}
    assert edits["derate_pct"] == 0.0
    assert {"{fuse_a}", "{area_mm2}", "{part}"} <= {word.strip(",:.") for word in first.label.split()}
    assert (edits["fuse_a"], edits["area_mm2"]) == (first.values["fuse_a"], first.values["area_mm2"])
    after = apply(one, first.edits)
    assert max(each.load("pumps").load for each in judge_all(after, after.options[0])) <= 1.0 / 1.1 + 1e-9


def test_the_nearest_pump_that_leaves_the_headroom_comes_before_one_that_barely_carries():
    """Of the sizes above, the first that clears 100 % may be worth nothing a week later."""
    for power in range(180, 420, 8):
        one = build(check_option(pumps=(pump(part=part("pumps", "pump-125")),)), a_target(power_kw=power, boost_kpa=100))
        for remedy in remedies(one, "pumps-short")[:1]:
            after = apply(one, remedy.edits)
            load = max(each.load("pumps").load for each in judge_all(after, after.options[0]))
            assert load <= 1.0 / 1.1 + 1e-9 or remedy.values["load_pct"] == pytest.approx(100.0 * load)


def test_a_pump_short_by_its_wear_is_replaced_by_its_like():
    one = build(check_option(pumps=(pump(derate_pct=55.0),)), a_target(power_kw=290, boost_kpa=100))
    first = remedies(one, "pumps-short")[0]
    assert first.edits == (("options/o1/pumps/g1/derate_pct", 0.0),)
    assert "new pumps of the same kind" in first.label


def test_a_controller_told_of_its_base_is_told_of_another():
    one = changed(
        car("Four on a strong blend, referenced"),
        {"~injectors/part": "~injectors/inj-630", "~calibration/injector_cc_min": 630.0, "~calibration/base_kpa": 300.0},
    )
    told = [each for each in remedies(one, "injectors-small") if any("regulator/base" in path for path, _ in each.edits)]
    for remedy in told:
        edits = dict(remedy.edits)
        assert edits["options/o1/calibration/base_kpa"] == edits["options/o1/regulator/base_kpa"]
        assert "tell the controller" in remedy.label
    assert told or remedies(one, "injectors-small")


def test_a_proper_rail_comes_before_feeding_a_narrow_one_in_its_centre():
    one = CASES["rail-narrow"]()
    first, *rest = remedies(one, "rail-narrow")
    assert first.edits[0][0].endswith("rail/bore_mm")
    assert all(each.edits[0][0].endswith("rail/entry") for each in rest)
    narrower = one.options[0].rail.model_copy(update={"bore_mm": first.edits[0][1] * 0.8})
    assert isinstance(narrower, Rail)


def test_a_strainer_is_coarse_and_passes_what_the_pumps_draw():
    fine = Filter(part=part("filters", "filter-glass-10-1250"))
    one = build(check_option(3, suction=Suction(filter=fine)), a_target(power_kw=300))
    (remedy,) = remedies(one, "pre-filter-fine")
    fitted = remedy.edits[0][1]
    drawn = max(float(each.points.hydraulics.supply_m3_s.max()) for each in judge_all(one, one.options[0])) * 3.6e6
    assert fitted["grade_um"] >= 100.0
    assert fitted["rated_flow_l_h"] >= drawn


def test_wires_are_laid_apart_before_they_are_made_thicker():
    hot = Wiring(loop_m=4.0, area_mm2=6.0, fuse_a=30.0, bundled=9)
    one = build(check_option(pumps=(pump(wiring=hot),)))
    found = remedies(one, "fuse-large") or remedies(one, "wire-thin")
    paths = [[path.rpartition("/")[2] for path, _ in each.edits] for each in found]
    apart, thicker = (
        paths.index(["bundled"]),
        next((at for at, one in enumerate(paths) if one == ["area_mm2"]), len(paths)),
    )
    assert apart < thicker


def test_a_regulator_with_a_port_comes_with_the_place_that_needs_one():
    one = changed(
        car("Near-tank filter-regulator, naturally aspirated"),
        {
            "engine/induction": "turbocharged",
            "targets/t1/boost_kpa": 60.0,
            "~regulator/part/works": "by bypass, with a filter, fixed",
        },
    )
    assert remedies(one, "regulator-near-tank")
    for remedy in remedies(one, "regulator-near-tank"):
        edits = dict(remedy.edits)
        assert edits["options/o1/regulator/arrangement"] == "bypass after the rail"
        assert edits["options/o1/regulator/part"]["works"] == "by bypass"
