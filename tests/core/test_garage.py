"""Sane cars raise nothing; a fault put into one comes first, nothing unrelated stands beside it, its remedy cures."""

import pytest

from iron_gulp.core.model import apply
from tests.garage import CARS, car, changed, troubles

FAULTS = [(name, number) for name, data in CARS.items() for number in range(len(data["faults"]))]


def test_the_garage_is_large_enough_and_every_car_has_two_faults():
    assert len(CARS) >= 24
    assert all(len({fault["finds"] for fault in data["faults"]}) >= 2 for data in CARS.values())


@pytest.mark.parametrize("name", CARS)
def test_a_sane_car_raises_neither_stop_nor_check(name):
    assert [(one.severity, one.code, dict(one.values)) for one in troubles(car(name))] == []


@pytest.mark.parametrize(("name", "number"), FAULTS, ids=[f"{CARS[n]['faults'][k]['finds']}: {n}" for n, k in FAULTS])
def test_a_fault_comes_first_alone_and_its_first_remedy_brings_silence(name, number):
    fault = CARS[name]["faults"][number]
    faulty = changed(car(name), fault["edits"])
    found = troubles(faulty)
    assert [one.code for one in found][:1] == [fault["finds"]]
    assert {one.code for one in found[1:]} <= set(fault.get("beside", ()))
    remedies = [remedy for remedy in found[0].remedies if remedy.edits]
    if remedies:
        assert [one.code for one in troubles(apply(faulty, remedies[0].edits))] == fault.get("leaves", [])
    else:
        assert fault.get("advice_only"), "no remedy of one click"
