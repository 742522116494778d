"""What the loss of a reference line does: told of every referenced boosted car, silent where there is no line."""

import pytest

from iron_gulp.core.advise import find
from iron_gulp.core.judge import judge_all
from iron_gulp.core.model import apply
from tests.core.test_findings import SHELF
from tests.garage import CARS, car

REFERENCE = "options/o1/regulator/"


def told(one, code):
    found = find(one, one.options[0], judge_all(one, one.options[0]), SHELF.catalogue)
    return next((each for each in found if each.code == code), None)


def has_a_line(one):
    option = one.options[0]
    own = option.delivery is not None and option.delivery.port_base_kpa is not None
    metered = option.carburettor is not None or (
        option.injectors is not None and option.mode != "direct only" and not own
    )
    fitted = option.regulator.reference != "atmosphere" and "returnless" not in option.regulator.arrangement
    return fitted and metered and any(target.boost_kpa > 10 for target in one.targets)


@pytest.mark.parametrize("name", CARS)
def test_every_referenced_boosted_car_is_told_and_no_other(name):
    one = car(name)
    note = told(one, "reference-lost")
    assert (note is not None) == has_a_line(one)
    assert note is None or (note.severity == "note" and note.values["lean"])


def test_mixture_goes_by_the_root_of_what_is_left_of_the_differential():
    """Base 300, 165 kPa of boost: 135 of 300 kPa is left, λ × √(300/135) = 1.49 but for what the regulator creeps."""
    note = told(car("Four on a strong blend, referenced"), "reference-lost")
    assert note.values["left_kpa"] == pytest.approx(135.0)
    factor = (note.values["meant_kpa"] / 135.0) ** 0.5
    assert factor == pytest.approx(1.4907, rel=2e-3)
    assert note.values["lean"].startswith(f"{100 * (factor - 1):.0f}")
    assert float(note.values["lambda_real"]) == pytest.approx(factor * float(note.values["lambda_meant"]), abs=0.006)


def test_the_direct_side_keeps_what_it_brings():
    one = car("Direct-injected four with a port rail above its ceiling")
    alone = apply(one, [("options/o1/delivery/mode", "port only")])
    both, port = told(one, "reference-lost"), told(alone, "reference-lost")
    assert float(both.values["lambda_real"]) < 0.95 * float(port.values["lambda_real"])


def test_a_rising_rate_loses_more_than_the_boost():
    one = car("Four on a strong blend, referenced")
    steeper = apply(one, [(f"{REFERENCE}reference", "rising rate"), (f"{REFERENCE}rising_ratio", 1.5)])
    before, after = told(one, "reference-lost"), told(steeper, "reference-lost")
    assert after.values["left_kpa"] == pytest.approx(before.values["left_kpa"])
    assert after.values["meant_kpa"] > 1.2 * before.values["meant_kpa"]
    assert float(after.values["lambda_real"]) > float(before.values["lambda_real"])


def test_less_than_the_manifold_holds_passes_nothing():
    one = apply(car("Four on a strong blend, referenced"), [(f"{REFERENCE}base_kpa", 160.0)])
    note = told(one, "reference-lost")
    assert "pass nothing" in note.text
    assert note.values["left_kpa"] == 0.0


def test_a_line_that_can_come_off_is_a_stop_with_the_same_figures():
    one = car("Four on a strong blend, referenced")
    loose = apply(one, [(f"{REFERENCE}reference_line", "unclamped or soft hose")])
    stop, note = told(loose, "reference-line"), told(one, "reference-lost")
    assert stop.severity == "stop"
    assert {key: stop.values[key] for key in ("lean", "left_kpa")} == {
        key: note.values[key] for key in ("lean", "left_kpa")
    }
    assert told(loose, "reference-lost") is None
    assert told(apply(loose, list(stop.remedies[0].edits)), "reference-line") is None
