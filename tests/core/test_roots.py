"""Findings that bring about others: the root is named, what follows folds under it, and near its edge it is silent."""

import pytest

from iron_gulp.core.advise import find
from iron_gulp.core.advise.high_data import ripple_kpa
from iron_gulp.core.advise.registry import CONSEQUENCES, Context
from iron_gulp.core.judge import judge_all
from iron_gulp.core.model import apply
from iron_gulp.core.plan.design.choices import Back, Metering, Stages, System, option_of
from tests.core.test_findings import CASES
from tests.garage import SHELF, car, changed

STRONG, DAILY = "Four on a strong blend, referenced", "Flex fuel daily"
RETURNLESS = "Returnless on E30"
DIRECT = "Direct-injected turbo four on a light blend"
BOTH, JOINING = (
    "Direct-injected four with a port rail above its ceiling",
    "Direct-injected V6 whose port side joins with boost",
)


def told(name, edits):
    """Findings of a sane car of the garage with edits."""
    one = changed(car(name), edits)
    return one, find(one, one.options[0], judge_all(one, one.options[0]), SHELF.catalogue)


def codes(name, edits):
    return {one.code for one in told(name, edits)[1]}


def test_no_consequence_leads_back_to_its_root():
    def behind(code, seen=()):
        assert code not in seen, f"{' brings '.join((*seen, code))}"
        for follow in CONSEQUENCES.get(code, ()):
            behind(follow, (*seen, code))

    for root in CONSEQUENCES:
        behind(root)


@pytest.mark.parametrize("code", CASES)
def test_what_follows_stands_after_its_root(code):
    one = CASES[code]()
    found = find(one, one.options[0], judge_all(one, one.options[0]), SHELF.catalogue)
    places = {each.code: place for place, each in reversed(list(enumerate(found)))}
    for each in found:
        if each.root:
            assert places[each.root] < places[each.code]
            assert not found[places[each.root]].root


def rising(ratio):
    return {"~regulator/reference": "rising rate", "~regulator/rising_ratio": ratio}


@pytest.mark.parametrize("ratio", [1.0, 1.25, 1.5])
def test_a_rising_rate_that_everything_bears_is_nobodys_business(ratio):
    assert "rising-steep" not in codes(STRONG, rising(ratio)) | codes(DAILY, rising(ratio))


@pytest.mark.parametrize(("name", "ratio"), [(STRONG, 2.0), (STRONG, 6.0), (DAILY, 4.0)])
def test_a_rising_rate_too_steep_is_the_root_of_all_it_asks(name, ratio):
    one, found = told(name, rising(ratio))
    assert found[0].code == "rising-steep"
    assert all(each.root == "rising-steep" for each in found[1:] if each.severity != "note")
    after = apply(one, found[0].remedies[0].edits)
    left = find(after, after.options[0], judge_all(after, after.options[0]), SHELF.catalogue)
    assert not [each.code for each in left if each.severity != "note"]


def test_what_fails_one_to_one_as_well_is_not_the_rising_rates_doing():
    weak = rising(1.25) | {"~pumps/g1/derate_pct": 60.0}
    assert "rising-steep" not in codes(STRONG, weak)
    assert "pumps-short" in codes(STRONG, weak)


def test_the_slowest_speed_is_put_where_the_base_holds():
    one, found = told(RETURNLESS, {"~regulator/slowest_pct": 60.0})
    assert found[0].code == "slowest-high"
    ((path, pct),) = found[0].remedies[0].edits
    assert pct < 60.0
    higher = apply(one, [(path, pct + 5.0)])
    assert judge_all(higher, higher.options[0])[0].load("regulator").load > 1.0 or any(
        each.load("regulator").load > 1.0 for each in judge_all(higher, higher.options[0])
    )


def test_a_base_pressure_told_right_is_silent_and_wrong_tells_how_far_off():
    base = car(STRONG).options[0].regulator.base_kpa
    assert "base-untold" not in codes(STRONG, {"~calibration/base_kpa": base * 1.02})
    _, found = told(STRONG, {"~calibration/base_kpa": base * 1.44})
    one = next(each for each in found if each.code == "base-untold")
    assert one.severity == "stop"
    assert one.values["flow"] == "0.833"
    assert one.values["off"] == "20\u00a0% lean"


def test_a_relief_valve_clear_of_the_ripple_is_silent():
    one, _ = told(DIRECT, {})
    option = one.options[0]
    ripple = ripple_kpa(Context(one, option, tuple(judge_all(one, option)), SHELF.catalogue))
    top = max(option.high_side.target.kpa)
    assert 100.0 < ripple < 3000.0
    assert "relief-near" in codes(DIRECT, {"~high_side/relief_kpa": top + 0.98 * ripple})
    assert "relief-near" not in codes(DIRECT, {"~high_side/relief_kpa": top + 1.02 * ripple})


def test_a_rail_sensor_wants_room_above_the_target():
    top = max(car(DIRECT).options[0].high_side.target.kpa)
    bare = {"~high_side/relief_kpa": None}
    assert "rail-sensor" in codes(DIRECT, bare | {"~high_side/sensor_kpa": 1.04 * top})
    assert "rail-sensor" not in codes(DIRECT, bare | {"~high_side/sensor_kpa": 1.06 * top})


def table(rpm, kpa):
    row = [90.0, 88.0]
    shape = {"pressure_kpa": [5_000.0, kpa], "rpm": [1_000.0, rpm], "efficiency_pct": [row, [85.0, 84.0]]}
    return {"~high_side/pumps/0/part/efficiency": shape}


def test_an_efficiency_table_is_to_reach_the_targets_speed_and_the_rail():
    one = car(DIRECT)
    rpm, kpa = max(each.rpm for each in one.targets), max(one.options[0].high_side.target.kpa)
    assert "efficiency-short" not in codes(DIRECT, table(rpm, kpa))
    assert "efficiency-short" in codes(DIRECT, table(rpm - 100.0, kpa))
    assert "efficiency-short" in codes(DIRECT, table(rpm, kpa - 100.0))


def test_a_window_ends_with_the_compression():
    assert "window-wide" not in codes(DIRECT, {"~high_side/window_deg": 360.0})
    assert "window-wide" in codes(DIRECT, {"~high_side/window_deg": 361.0})


def test_a_port_regulator_below_its_node_is_silent():
    base = car(BOTH).options[0].regulator.base_kpa
    reference = {"~delivery/port_reference": car(BOTH).options[0].regulator.reference}
    assert "port-above-node" not in codes(BOTH, reference | {"~delivery/port_base_kpa": base})
    assert "port-above-node" in codes(BOTH, reference | {"~delivery/port_base_kpa": base + 10.0})


@pytest.mark.parametrize("signal", ["manifold_kpa", "rpm", "flow_l_h"])
def test_port_injectors_that_never_join_are_told_where_to(signal):
    one, found = told(JOINING, {"~delivery/signal": signal, "~delivery/start": 19_000.0})
    assert found[0].code == "port-idle"
    assert found[0].remedies[0].edits
    after = apply(one, found[0].remedies[0].edits)
    assert "port-idle" not in {
        each.code for each in find(after, after.options[0], judge_all(after, after.options[0]), SHELF.catalogue)
    }


def test_port_injectors_left_out_on_purpose_are_a_note_where_the_direct_side_carries():
    _, found = told(
        JOINING, {"~delivery/mode": "direct only", "targets/t1/power_kw": 120.0, "targets/t2/power_kw": 130.0}
    )
    assert {each.severity for each in found if each.code == "port-idle"} == {"note"}


def test_a_design_on_another_base_tells_the_controller_that_reckons_with_it():
    """Without it every system found on another base would be a stop of its own."""
    one = changed(car(STRONG), {"~calibration/base_kpa": 300.0})
    base, option = 450.0, one.options[0]
    back = Back(option.regulator, option.return_line)
    system = System(Metering(base, option.injectors, None), Stages(option.pumps, option.filter), option.feed, back)
    found = option_of(option, system)
    assert (found.regulator.base_kpa, found.calibration.base_kpa) == (base, base)
    assert option_of(car(STRONG).options[0], system).calibration.base_kpa is None
