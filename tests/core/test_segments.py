"""A fuse protects the weakest piece behind it: wire, terminal, pin through the hat, pigtail (physics §4)."""

import pytest

from iron_gulp.core.advise import find
from iron_gulp.core.judge import circuits, judge_all
from iron_gulp.core.model import Suction, apply
from iron_gulp.core.physics import smallest_fuse_a
from tests.core.test_findings import SHELF
from tests.core.test_largest_current import most_drawn_a
from tests.systems import build, check_option, lift_stage, pump

G1 = "options/o1/pumps/g1/"
CIRCUIT = {"area_mm2": 6.0, "connectors_mohm": 5.0, "fuse_a": 25.0, "loop_m": 3.0}


def with_circuit(**changes):
    one = build(check_option(pumps=(pump(),)))
    told = {**CIRCUIT, **changes}
    return apply(one, [(f"{G1}{'part/' if name == 'pigtail_a' else 'wiring/'}{name}", on) for name, on in told.items()])


def found(one):
    judged = judge_all(one, one.options[0])
    return {each.code: each for each in find(one, one.options[0], judged, SHELF.catalogue)}


def circuit(one):
    return circuits(one.options[0], tuple(judge_all(one, one.options[0])), one.rules)[0]


OF_SEGMENTS = {"fuse-segment", "segment-weak", "fuse-unstated"}


@pytest.mark.parametrize("name", ["terminal_a", "hat_pin_a", "pigtail_a"])
def test_each_stated_segment_is_weaker_than_fuse_or_current_or_silent(name):
    largest = circuit(with_circuit()).largest_a
    assert not OF_SEGMENTS & set(found(with_circuit(**{name: 25.0})))
    over = found(with_circuit(**{name: 24.0}))
    assert over["fuse-segment"].severity == "warn"  # a few amperes over its rating do not burn it
    assert not {"segment-weak", "fuse-large"} & set(over)
    below = found(with_circuit(**{name: 0.75 * largest}))
    assert {"segment-weak", "fuse-segment"} <= set(below)
    assert below["segment-weak"].severity == below["fuse-segment"].severity == "stop"


@pytest.mark.parametrize("name", ["terminal_a", "hat_pin_a", "pigtail_a"])
def test_the_weakest_stated_segment_is_the_limit_of_the_circuit(name):
    before = judge_all(with_circuit(), with_circuit().options[0])[0]
    largest = circuit(with_circuit()).largest_a
    weak = with_circuit(**{name: largest / 1.1})
    judged = judge_all(weak, weak.options[0])[0]
    assert judged.load("wiring").load == pytest.approx(1.1, rel=1e-6)
    assert before.load("wiring").load < 1.0


def test_the_first_remedy_is_the_fuse_where_that_carries_the_pump_else_the_segment():
    weak = with_circuit(fuse_a=40.0, hat_pin_a=30.0, area_mm2=10.0, terminal_a=60.0, pigtail_a=60.0)
    smaller = found(weak)["fuse-segment"].remedies[0]
    assert [path for path, _ in smaller.edits] == [f"{G1}wiring/fuse_a"]
    narrow = with_circuit(hat_pin_a=15.0, terminal_a=60.0)
    assert circuit(narrow).fuse_proposed_a > 15.0
    (renewed,) = found(narrow)["fuse-segment"].remedies
    assert renewed.edits == ((f"{G1}wiring/hat_pin_a", 25.0),)
    assert "pins through the hat" in renewed.label
    for one, remedy in ((weak, smaller), (narrow, renewed)):
        assert not OF_SEGMENTS & set(found(apply(one, list(remedy.edits))))


def test_what_nobody_stated_makes_a_note_at_most():
    """40 A before pins nobody has spoken of: a note where the pump sits in fuel, nothing where it has none."""
    one = with_circuit(fuse_a=40.0, area_mm2=10.0, pigtail_a=60.0)
    note = found(one)["fuse-unstated"]
    assert (note.severity, note.values["unstated"]) == ("note", "pin through the hat")
    told = apply(one, [(f"{G1}wiring/hat_pin_a", 40.0)])
    untold_load, told_load = (judge_all(each, each.options[0])[0].load("wiring").load for each in (one, told))
    assert untold_load == told_load
    assert not OF_SEGMENTS & set(found(told))
    outside = apply(one, [("options/o1/suction", Suction(place="external").model_dump(mode="json"))])
    assert "fuse-unstated" not in found(outside)


def test_a_larger_fuse_brings_what_lies_behind_it_along():
    """Fuse too small: the remedy renews a terminal that would not bear the next one, and says so."""
    one = with_circuit(fuse_a=14.0, terminal_a=14.0)
    assert circuit(one).largest_a > 14.0
    remedy = next(each for each in found(one)["fuse-small"].remedies if each.edits)
    changed = {path.rpartition("/")[2] for path, _ in remedy.edits}
    assert {"fuse_a", "terminal_a"} <= changed
    assert "terminals" in remedy.label
    assert not {"fuse-small", *OF_SEGMENTS} & set(found(apply(one, list(remedy.edits))))


def test_the_lift_pumps_segments_count_too():
    lift = lift_stage(5.0)
    weak = lift.model_copy(update={"wiring": lift.wiring.model_copy(update={"hat_pin_a": 1.0})})
    one = build(check_option(lift=weak))
    assert "segment-weak" in found(one)
    assert judge_all(one, one.options[0])[0].load("wiring").load > 1.0


def test_every_electric_pump_of_the_shelf_states_a_pigtail_that_bears_its_fuse():
    """Pressed to 600 kPa, as far as port rails go: the fuse for that is borne."""
    for one in SHELF.catalogue.pumps:
        if one.kind == "mechanical":
            continue
        least = float(smallest_fuse_a(most_drawn_a(one, 600.0)))
        assert (one.pigtail_a or 0.0) >= least, one.name
