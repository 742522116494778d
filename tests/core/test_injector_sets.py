"""The window of sizes holds what whole judgements say at its ends; a measured set is arithmetic on its flows."""

from itertools import combinations

import pytest
from hypothesis import given
from hypothesis import strategies as st
from pydantic import ValidationError

from iron_gulp.core.judge import judge_many
from iron_gulp.core.model import InjectorSet
from iron_gulp.core.study import matched, size_window
from iron_gulp.shelf import load_shelf
from iron_gulp.web.benches.injectors.calculators import INJECTOR_CALCULATORS
from tests.draws import draws
from tests.garage import CARS, car
from tests.systems import demo, injectors

CATALOGUE = load_shelf().catalogue
PORT = [name for name in CARS if "injectors" in CARS[name] and "high" not in CARS[name]]


def sized(option, cc_min, base_kpa):
    part = option.injectors.part.model_copy(
        update={"rated_flow_cc_min": cc_min, "rated_pressure_kpa": 300.0, "rated_on": "n-heptane", "min_pulse_ms": None}
    )
    regulator = option.regulator.model_copy(update={"base_kpa": base_kpa})
    fitted = option.injectors.model_copy(update={"part": part})
    return option.model_copy(update={"injectors": fitted, "regulator": regulator})


def highest(built, option, component):
    verdicts = judge_many([(built, option, target) for target in built.targets], ceilings=False)
    return max(verdict.load(component).load for verdict in verdicts)


@pytest.mark.parametrize("name", PORT[::4])
def test_the_ends_of_the_window_are_where_whole_judgements_put_them(name):
    built = car(name)
    option = built.options[0]
    found = size_window(built, option, CATALOGUE)
    assert [one.fitted for one in found.windows].count(True) == 1
    for window in found.windows:
        if window.smallest is not None and window.smallest > 81:
            load = highest(built, sized(option, window.smallest, window.base_kpa), "injectors")
            assert load == pytest.approx(1.0, rel=0.01)
            if window.wanted is not None:
                assert window.wanted >= window.smallest
                load = highest(built, sized(option, window.wanted, window.base_kpa), "injectors")
                assert load == pytest.approx(1 - built.rules.headroom_pct / 100, rel=0.01)
        if window.largest is not None:
            assert highest(built, sized(option, window.largest, window.base_kpa), "injector idle") <= 1.0
            if window.largest < 3000:
                assert highest(built, sized(option, window.largest * 1.05, window.base_kpa), "injector idle") > 1.0


def test_higher_base_pressure_asks_for_smaller_injectors():
    built = demo("curlew")
    found = size_window(built, built.options[0], CATALOGUE)
    needed = [one.smallest for one in found.windows]
    assert needed == sorted(needed, reverse=True)
    own = next(one for one in found.sizes if one.fitted)
    assert own.load == pytest.approx(highest(built, built.options[0], "injectors"), rel=1e-6)
    assert own.idle == pytest.approx(highest(built, built.options[0], "injector idle"), rel=1e-6)


def test_a_carburettor_has_no_window():
    built = demo("fieldfare")
    with pytest.raises(KeyError):
        size_window(built, built.options[0], CATALOGUE)


flows = st.lists(st.floats(300, 1500), min_size=2, max_size=10)


@draws(50)
@given(flows)
def test_a_set_by_its_own_arithmetic(found):
    one = matched(found)
    mean = sum(found) / len(found)
    assert one.mean == pytest.approx(mean)
    assert one.spread == pytest.approx((max(found) - min(found)) / mean)
    for flow, error in zip(found, one.errors, strict=True):
        assert (1 + error) * flow == pytest.approx(mean)
    for at in range(len(found)):
        others = found[:at] + found[at + 1 :]
        assert one.after <= (max(others) - min(others)) / (sum(others) / len(others)) + 1e-12


@draws(40)
@given(st.lists(st.floats(300, 1500), min_size=4, max_size=8).filter(lambda one: len(one) % 2 == 0))
def test_banks_are_as_near_as_any_parting_brings_them(found):
    one = matched(found, 2)
    first, second = one.order
    assert sorted((*first, *second)) == list(range(len(found)))
    mean, half = sum(found) / len(found), len(found) // 2

    def apart(members):
        own = sum(found[at] for at in members) / half
        rest = sum(flow for at, flow in enumerate(found) if at not in members) / half
        return abs(own - rest) / mean

    assert one.apart == pytest.approx(apart(first), abs=1e-12)
    assert one.apart <= min(apart(two) for two in combinations(range(len(found)), half)) + 1e-12


def test_a_set_typed_is_read_or_refused():
    assert InjectorSet(part=injectors(), measured_flows="801; 795,5 808").flows_cc_min == (801, 795.5, 808)
    for wrong in ("800", "a; b", "800; -3", "800; nan", "800; 1e9"):
        with pytest.raises(ValidationError):
            InjectorSet(part=injectors(), measured_flows=wrong)
    with pytest.raises(ValueError, match="at least two"):
        matched([800])


def test_what_was_caught_on_a_bench_and_what_a_swap_does():
    def text(value, name, shown=""):
        return shown or f"{value:.5g}"

    identify, swap = (INJECTOR_CALCULATORS[key].answer for key in ("identify", "swap"))
    said = identify({"caught_cc": 250.0, "seconds_s": 15.0, "held_kpa": 300.0, "fluid_kg_m3": 684.0}, text)
    assert "1000" in said
    assert "95.2 lb/h" in said
    # Twice the flow at four times the pressure; a heavier fluid passes less volume by the root of its density.
    said = identify({"caught_cc": 500.0, "seconds_s": 15.0, "held_kpa": 1200.0, "fluid_kg_m3": 684.0}, text)
    assert ": 1000 of n-heptane" in said
    said = identify({"caught_cc": 250.0, "seconds_s": 15.0, "held_kpa": 300.0, "fluid_kg_m3": 4 * 684.0}, text)
    assert ": 2000 of n-heptane" in said
    at = {"told_cc_min": 800, "told_dead_ms": 0.9, "fitted_dead_ms": 0.9, "idle_pulse_ms": 1.2, "load_pulse_ms": 12.0}
    at |= {"meant_lambda": 0.8, "authority_pct": 25}
    richer = swap({**at, "fitted_cc_min": 1000}, text)
    assert "trim −20\u00a0%, within" in richer
    assert "0.64" in richer
    assert richer.endswith("rich.")
    leaner = swap({**at, "fitted_cc_min": 600}, text)
    assert "trim +33\u00a0%, beyond its 25 %" in leaner
    assert leaner.endswith("lean.")
    assert "do not open" in swap({**at, "fitted_cc_min": 800, "fitted_dead_ms": 3.0}, text)
