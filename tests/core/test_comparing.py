"""Curves laid over each other on the shelf are the parts' own data and physics."""

import numpy as np
import pytest
from fluids import one_phase_dP

from iron_gulp.core.physics import blend
from iron_gulp.core.study import compare
from iron_gulp.shelf import KINDS, load_shelf

SHELF = load_shelf()
L_H = 1e-3 / 3600


def charts(kind, *ids):
    return compare([SHELF.part(kind, one) for one in ids])


@pytest.mark.parametrize("kind", KINDS)
def test_every_part_of_the_shelf_can_be_compared_with_every_other_of_its_kind(kind):
    parts = SHELF.parts(kind)
    charts = compare(parts)
    together = [curve.part for chart in charts for curve in chart.curves]
    if kind == "sensors":  # a chart a quantity, each part on one of them
        assert sorted(together) == sorted(part.name for part in parts)
    else:
        assert together == [part.name for part in parts] * len(charts)
    for chart in charts:
        for curve in chart.curves:
            assert curve.x.shape == curve.y.shape
            assert np.isfinite(curve.y).all()
            assert np.all(np.diff(curve.x) > 0)


def test_nothing_ticked_nothing_drawn():
    assert compare([]) == []


def test_pump_curves_go_through_the_table():
    flow, current = charts("pumps", "pump-250")
    table = max(SHELF.part("pumps", "pump-250").curves, key=lambda one: one.voltage_v)
    (curve,), (amps,) = flow.curves, current.curves
    assert np.interp(table.pressure_kpa[2], curve.x, curve.y) == pytest.approx(table.flow_l_h[2], rel=0.01)
    assert np.interp(table.pressure_kpa[2], amps.x, amps.y) == pytest.approx(table.current_a[2], rel=0.01)


def test_injectors_are_shown_at_equal_pressure_whatever_their_rating():
    held, dead = charts("injectors", "inj-500", "inj-1250")
    small, large = held.curves
    at = [float(np.interp(300.0, one.x, one.y)) for one in (small, large)]
    assert at[1] / at[0] == pytest.approx(1250 / 500, rel=0.03)
    assert len(dead.curves) == 2


def test_a_lines_drop_is_that_of_the_library():
    (chart,) = charts("lines", "ptfe-6", "ptfe-10")
    fuel, part = blend(0.6, 30.0), SHELF.part("lines", "ptfe-6")
    curve = chart.curves[0]
    flow = float(curve.x[20])
    want = one_phase_dP(
        flow * L_H * float(fuel.density_kg_m3),
        float(fuel.density_kg_m3),
        float(fuel.viscosity_mpa_s) * 1e-3,
        part.bore_mm * 1e-3,
        part.roughness_um * 1e-6,
        4.0,
    )
    assert curve.y[20] == pytest.approx(want / 1000, rel=5e-3)
    assert np.all(chart.curves[1].y[1:] < curve.y[1:])


def test_filters_and_regulators_go_through_their_rated_points():
    (filters,) = charts("filters", "filter-glass-10-500")
    part = SHELF.part("filters", "filter-glass-10-500")
    curve = filters.curves[0]
    assert np.interp(part.rated_flow_l_h, curve.x, curve.y) == pytest.approx(part.rated_drop_kpa, rel=0.01)
    (regulators,) = charts("regulators", "reg-400")
    valve = SHELF.part("regulators", "reg-400")
    curve = regulators.curves[0]
    assert np.interp(valve.capacity_l_h, curve.x, curve.y) == pytest.approx(valve.capacity_drop_kpa, rel=0.01)


def test_regulators_are_drawn_a_fifth_past_the_largest():
    parts = SHELF.parts("regulators")
    (chart,) = compare(parts)
    most = max(part.capacity_l_h for part in parts)
    assert [float(curve.x[-1]) for curve in chart.curves] == pytest.approx([1.2 * most] * len(parts))


def test_each_high_pump_is_drawn_up_to_what_it_bears():
    part = SHELF.parts("high_pumps")[0]
    strong = part.model_copy(update={"name": "strong", "max_rail_kpa": 2 * part.max_rail_kpa})
    (chart,) = compare((part, strong))
    assert [float(curve.x[-1]) for curve in chart.curves] == [part.max_rail_kpa, strong.max_rail_kpa]
