"""What a part without a price costs: the shop's usual price of its kind, by the root of its size, within bounds."""

import pytest

from iron_gulp.core.model import (
    DirectInjectorPart,
    FilterPart,
    HighPumpPart,
    InjectorPart,
    LinePart,
    RegulatorPart,
    shelf_kind,
)
from iron_gulp.core.plan.pricing import usual_price
from iron_gulp.shelf import load_shelf

PUMP = HighPumpPart(bore_mm=9.0, lift_mm=4.0, lobes=3)


def priced(kind, **told):
    """The price of a part of the shelf, given other numbers."""
    part = next(one for one in load_shelf().parts(shelf_kind(kind)) if type(one) is kind)
    return usual_price(part.model_copy(update=told), 200.0)


@pytest.mark.parametrize(
    ("kind", "field", "usual"),
    [
        (InjectorPart, "rated_flow_cc_min", 630.0),
        (FilterPart, "rated_flow_l_h", 500.0),
        (LinePart, "bore_mm", 10.3),
        (RegulatorPart, "capacity_l_h", 400.0),
    ],
)
def test_twice_the_size_is_the_root_of_twice_the_price(kind, field, usual):
    rated = {"rated_pressure_kpa": 300.0} if kind is InjectorPart else {}
    assert priced(kind, **rated, **{field: usual}) == pytest.approx(200.0, abs=0.01)
    assert priced(kind, **rated, **{field: usual * 2}) == pytest.approx(200.0 * 2**0.5, abs=0.01)
    assert priced(kind, **rated, **{field: usual / 2}) == pytest.approx(200.0 / 2**0.5, abs=0.01)
    # Half the price at least, three times at most.
    assert priced(kind, **rated, **{field: usual / 8}) == pytest.approx(100.0)
    assert priced(kind, **rated, **{field: usual * 12}) == pytest.approx(600.0)


def test_a_direct_injector_goes_by_what_it_passes_at_10_mpa():
    at_10 = usual_price(DirectInjectorPart(rated_flow_cc_min=1250.0, rated_pressure_kpa=10_000.0), 200.0)
    at_20 = usual_price(DirectInjectorPart(rated_flow_cc_min=1250.0, rated_pressure_kpa=20_000.0), 200.0)
    assert at_10 == pytest.approx(200.0)
    assert at_20 == pytest.approx(200.0 * 0.5**0.25, abs=0.01)


@pytest.mark.parametrize(
    ("changed", "times"), [({"bore_mm": 9.0 * 2**0.5}, 2.0), ({"lift_mm": 8.0}, 2.0), ({"lobes": 6}, 2.0)]
)
def test_a_high_pressure_pump_goes_by_what_it_displaces(changed, times):
    before, after = usual_price(PUMP, 800.0), usual_price(PUMP.model_copy(update=changed), 800.0)
    assert 400.0 < before < after < 2400.0
    assert after / before == pytest.approx(2**0.5, rel=1e-3)
    usual = 923.0 / (PUMP.plunger_mm**2 * PUMP.stroke_mm * PUMP.strokes_a_turn)
    assert before == pytest.approx(800.0 / usual**0.5, abs=0.01)


def test_without_a_price_of_the_kind_there_is_none():
    assert usual_price(PUMP, None) is None
