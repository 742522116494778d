"""Sane cars raise nothing; a fault put into one comes first, nothing unrelated stands beside it, its remedy cures."""

from functools import cache
from itertools import product

import pytest

from iron_gulp.core.advise import find, put_right
from iron_gulp.core.advise.registry import find_troubles
from iron_gulp.core.judge import judge_all, judge_many
from iron_gulp.core.model import apply
from tests.core.test_findings import CARBURETTOR_CASES, CASES
from tests.draws import EVERY_DEMO
from tests.garage import CARS, SHELF, car, changed, every_finding, troubles

pytestmark = pytest.mark.xdist_group("garage")  # who judged a car with its fault has it for the tests that follow

ALL_CODES = set(CASES) | CARBURETTOR_CASES

EVERY = [(name, number) for name, data in CARS.items() for number in range(len(data["faults"]))]
NOTES = [(name, number) for name, number in EVERY if CARS[name]["faults"][number].get("note")]
FAULTS = [one for one in EVERY if one not in NOTES]


def named(cases):
    return [f"{CARS[name]['faults'][number]['finds']}: {name}" for name, number in cases]


@cache
def faulty(name, number):
    """A car with one of its faults, and all findings of it; only a note may ask for power ceilings."""
    one, note = changed(car(name), CARS[name]["faults"][number]["edits"]), CARS[name]["faults"][number].get("note", False)
    judged = judge_many([(one, one.options[0], target) for target in one.targets], ceilings=note)
    return one, find(one, one.options[0], judged, SHELF.catalogue)


def without_notes(findings):
    return [one for one in findings if one.severity != "note"]


def test_the_garage_is_large_enough_and_every_car_has_two_faults():
    assert len(CARS) >= 24
    assert all(len({fault["finds"] for fault in data["faults"]}) >= 2 for data in CARS.values())


@pytest.mark.parametrize("name", CARS)
def test_a_sane_car_raises_neither_stop_nor_check(name):
    assert [(one.severity, one.code, dict(one.values)) for one in troubles(car(name))] == []


@pytest.mark.parametrize(("name", "number"), FAULTS, ids=named(FAULTS))
def test_a_fault_comes_first_alone_and_its_first_remedy_brings_silence(name, number):
    fault = CARS[name]["faults"][number]
    one, findings = faulty(name, number)
    found = without_notes(findings)
    assert [one.code for one in found][:1] == [fault["finds"]]
    assert {each.code for each in found[1:] if each.root != fault["finds"]} <= set(fault.get("beside", ()))
    assert not found[0].root
    remedies = [remedy for remedy in found[0].remedies if remedy.edits]
    if remedies:
        assert [each.code for each in troubles(apply(one, remedies[0].edits))] == fault.get("leaves", [])
        for other in remedies[1:]:
            left = [each.code for each in troubles(apply(one, other.edits))]
            assert left in ([], fault.get("leaves", [])) or "Leaves to do" in other.label
    else:
        assert fault.get("advice_only"), "no remedy of one click"


def codes(findings):
    return {one.code for one in findings}


@pytest.mark.parametrize(("name", "number"), NOTES, ids=named(NOTES))
def test_a_note_comes_new_and_nothing_to_put_right_with_it(name, number):
    wanted, noted = CARS[name]["faults"][number]["finds"], faulty(name, number)[1]
    assert wanted in codes(noted) - codes(every_finding(car(name)))
    assert codes(without_notes(noted)) <= {wanted}


def test_every_finding_is_raised_by_a_fault_of_the_garage():
    raised = {CARS[name]["faults"][number]["finds"] for name, number in EVERY}
    for name, number in EVERY:
        if not raised >= ALL_CODES:
            raised |= codes(faulty(name, number)[1])
    assert ALL_CODES - raised == set()


@pytest.mark.parametrize("name", CARS if EVERY_DEMO else list(CARS)[1::4])
def test_stops_and_checks_are_the_same_without_the_notes(name):
    """In every car with each of its faults: the rules left out raise nothing but notes, and the order stays.

    So it does with power ceilings.
    """
    for number in range(len(CARS[name]["faults"])):
        one, findings = faulty(name, number)
        alone = find_troubles(one, one.options[0], judge_all(one, one.options[0]), SHELF.catalogue)
        assert [(each.code, each.severity, dict(each.values)) for each in alone] == [
            (each.code, each.severity, dict(each.values)) for each in without_notes(findings)
        ]


ASKS = [(1.25, None), (1.8, None), (1.2, 60.0), (1.0, 85.0)]
DIRECT = [name for name, data in CARS.items() if "high" in data]
# Every car and every ask, though not each with each, in the quick run.
ASKED = list(product(DIRECT, ASKS)) if EVERY_DEMO else [(name, ASKS[at % 4]) for at, name in enumerate(DIRECT)]


@pytest.mark.parametrize(("name", "ask"), ASKED)
def test_more_asked_of_a_direct_injected_car_is_put_right(name, ask):
    """More power with the boost that makes it, or a stronger blend: hardware answers, nothing worse stays behind."""
    asked, (factor, ethanol_pct) = car(name), ask
    for target in asked.targets:
        whole = (target.boost_kpa + asked.car.barometer_kpa) * factor
        edits = {"power_kw": round(target.power_kw * factor, 1), "boost_kpa": round(whole - asked.car.barometer_kpa, 1)}
        edits |= {} if ethanol_pct is None else {"ethanol_pct": ethanol_pct}
        asked = apply(asked, [(f"targets/{target.id}/{key}", value) for key, value in edits.items()])
    plan = put_right(asked, "o1", SHELF.catalogue)
    assert [one.code for one in troubles(apply(asked, list(plan.edits)))] == []
