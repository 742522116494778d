"""Pumps, wiring and lines against physics §4 and §5, and against the `fluids` package element by element."""

import numpy as np
import pytest
from fluids import one_phase_dP
from fluids.friction import Colebrook
from fluids.friction import friction_factor as library_factor
from hypothesis import given
from hypothesis import strategies as st

from iron_gulp.core.physics import (
    PumpTable,
    drop_v,
    floats,
    flow_and_current,
    lines,
    loop_resistance_ohm,
    mapped,
    shutoff_kpa,
    smallest_fuse_a,
    terminal_voltage_v,
)
from iron_gulp.core.solve import packed
from iron_gulp.core.solve.pump_curves import NODES, own_top_kpa, pump_characteristic
from tests.draws import draws
from tests.systems import CHECK_CURVE, check_option

TABLE = CHECK_CURVE.table("turbine", 11.0)
E60 = (762.2, 0.85)
L_H = 1e-3 / 3600


@pytest.mark.parametrize(("volts", "l_h"), [(13.5, 395.0), (12.0, 299.3), (11.0, 225.9)])
def test_pump_at_450_kpa(volts, l_h):
    assert float(flow_and_current([TABLE], 450, volts)[0]) == pytest.approx(l_h, abs=0.05)


def test_pump_beyond_its_table_never_flows_back():
    flows = flow_and_current([TABLE], np.linspace(0, 3000, 200), 9.0)[0]
    assert flows.min() == 0.0
    assert np.all(np.diff(flows) <= 1e-9)
    assert float(TABLE.flow(shutoff_kpa([TABLE], 13.5))) == pytest.approx(0.0, abs=1e-9)


def test_between_and_outside_voltage_tables():
    low = PumpTable.of(12.0, (0, 600), (400, 100), (8, 14), "turbine", 11.0)
    high = PumpTable.of(14.0, (0, 600), (500, 200), (10, 18), "turbine", 11.0)
    flow, current = flow_and_current([high, low], 300, [12.0, 13.0, 14.0])
    assert flow.tolist() == pytest.approx([250, 300, 350])
    assert current.tolist() == pytest.approx([11, 12.5, 14])
    below, above = (float(flow_and_current([low, high], 300, v)[0]) for v in (11.0, 15.0))
    assert below == pytest.approx(float(low.flow(300 * (12 / 11) ** 2)) * 11 / 12)
    assert above == pytest.approx(float(high.flow(300 * (14 / 15) ** 2)) * 15 / 14)


@pytest.mark.parametrize("volts", [11.0, 12.0, 12.2, 13.0, 13.9, 14.0, 15.0])
def test_two_tables_move_nothing_only_past_their_shut_off(volts):
    """Between its tables a pump moves fuel as long as the stronger one does, however far its voltage lies below."""
    tables = (
        PumpTable.of(12.0, (0, 600), (400, 100), (8, 14), "turbine", 11.0),
        PumpTable.of(14.0, (0, 600), (500, 200), (10, 18), "turbine", 11.0),
    )
    rise = np.linspace(0, 1600, 3201)
    moving = rise[flow_and_current(tables, rise, volts)[0] > 0]
    top = float(shutoff_kpa(tables, volts))
    assert moving[-1] <= top
    assert float(flow_and_current(tables, top, volts)[0]) == pytest.approx(0.0, abs=1e-9)


@pytest.mark.parametrize("kind", ["turbine", "gerotor", "brushless"])
@pytest.mark.parametrize("volts", [9.0, 12.0, 13.5, 15.0])
def test_one_table_is_shut_off_where_its_kind_stops_moving(kind, volts):
    """Between the last pressure at which it moves fuel and a tenth more, however its kind carries the table on."""
    table = PumpTable.of(13.5, (0, 300, 600), (400, 260, 80), (8, 11, 15), kind=kind, dropout_v=11.0)
    rise = np.linspace(0, 2500, 25_001)
    moving = rise[flow_and_current([table], rise, volts)[0] > 0]
    assert moving[-1] <= float(shutoff_kpa([table], volts)) <= max(1.1 * moving[-1], 735.0)


@given(st.floats(0, 900), st.floats(6, 16), st.floats(6, 16))
def test_more_voltage_never_moves_less(rise, one, other):
    low, high = sorted((one, other))
    flows = flow_and_current([TABLE], rise, [low, high])[0]
    assert flows[0] <= flows[1] + 1e-9


@pytest.mark.parametrize(("area", "volts"), [(1.5, 0.97), (2.5, 0.58), (4.0, 0.36)])
def test_loop_drop_check_values(area, volts):
    assert float(drop_v(14.0, loop_resistance_ohm(6.0, area))) == pytest.approx(volts, abs=0.005)


def test_warm_copper_and_fuse():
    cold, warm = loop_resistance_ohm(6, 2.5, 5.0, [20.0, 60.0])
    assert (warm - 0.005) / (cold - 0.005) == pytest.approx(1 + 0.00393 * 40)
    assert float(smallest_fuse_a(16.0)) == pytest.approx(20.0)


@pytest.mark.parametrize("ohm", [0.0, 0.05, 0.4, 5.0])
def test_voltage_and_current_agree(ohm):
    rise = np.array([0.0, 300.0, 700.0])
    volts = terminal_voltage_v([TABLE], rise, 13.8, ohm)
    current = flow_and_current([TABLE], rise, volts)[1]
    assert volts + current * ohm == pytest.approx(np.full(3, 13.8), abs=1e-5)


@pytest.mark.parametrize(("bore", "kpa"), [(8.7, 45.9), (11.1, 15.0), (14.3, 4.74)])
def test_line_drop_check_values(bore, kpa):
    assert float(lines.line_drop_kpa(520 * L_H, bore, 5.2, 4.5, *E60)) == pytest.approx(kpa, rel=5e-3)


def test_velocity_and_laminar_check_values():
    assert float(lines.velocity_m_s(520 * L_H, 8.7)) == pytest.approx(2.43, abs=0.005)
    assert float(lines.line_drop_kpa(20 * L_H, 8.7, 5.2, 0.0, *E60)) == pytest.approx(0.1746, rel=1e-3)


@draws(60)
@given(st.floats(1e2, 5e6), st.floats(0, 0.02))
def test_friction_factor_is_the_librarys(reynolds, roughness):
    ours = float(lines.friction_factor(reynolds, roughness))
    if abs(reynolds / 2040 - 1) > 1e-6:
        assert ours == pytest.approx(library_factor(Re=reynolds, eD=roughness), rel=1e-4)


@pytest.mark.parametrize("reynolds", [2100.0, 3e3, 1e4, 1e5])
@pytest.mark.parametrize("roughness", [0.0, 1e-6, 1e-4])
def test_the_friction_factor_solves_colebrook_to_rounding(reynolds, roughness):
    assert float(lines.friction_factor(reynolds, roughness)) == pytest.approx(Colebrook(reynolds, roughness), rel=1e-13)


@draws(60)
@given(st.floats(1, 3000), st.floats(3, 25), st.floats(0.01, 12), st.floats(0, 25))
def test_line_drop_is_the_librarys(l_h, bore, length, roughness):
    flow, rho, mu = l_h * L_H, 780.0, 1.0
    ours = float(lines.line_drop_kpa(flow, bore, length, 0.0, rho, mu, roughness))
    theirs = one_phase_dP(flow * rho, rho, mu * 1e-3, bore * 1e-3, roughness * 1e-6, length)
    reynolds = rho * float(lines.velocity_m_s(flow, bore)) * bore
    if abs(reynolds / 2040 - 1) > 1e-3:
        assert ours == pytest.approx(theirs / 1000, rel=5e-3)


@given(st.floats(0, 2000), st.floats(0, 2000), st.floats(0, 20), st.floats(0, 20))
def test_drop_rises_with_flow_and_length(flow1, flow2, length1, length2):
    low, high = sorted((flow1, flow2))
    short, long = sorted((length1, length2))
    drops = lines.line_drop_kpa(np.array([low, high]) * L_H, 8.7, short, 1.0, *E60)
    assert drops[0] <= drops[1] + 1e-12
    longer = lines.line_drop_kpa(high * L_H, 8.7, long, 1.0, *E60)
    assert drops[1] <= float(longer) + 1e-12


def test_no_flow_and_no_length_mean_no_drop():
    assert float(lines.line_drop_kpa(0.0, 8.7, 5.0, 5.0, *E60)) == 0.0
    assert float(lines.line_drop_kpa(100 * L_H, 8.7, 0.0, 0.0, *E60)) == 0.0


def test_filter_passes_through_its_rated_point_and_clogs():
    rated = 500 * L_H
    assert float(lines.filter_drop_kpa(rated, rated, 9.0, 0.7)) == pytest.approx(9.0)
    assert float(lines.filter_drop_kpa(rated / 2, rated, 9.0, 0.7, 3.0)) == pytest.approx(27 * (0.35 + 0.075))


def test_acceleration_head_check_value():
    assert float(lines.acceleration_head_kpa(770, 3.4, 1.2)) == pytest.approx(30.8, rel=2e-3)


@pytest.mark.parametrize("volts", [8.0, 9.7, 11.3, 12.9, 13.5, 14.6])
def test_at_its_shut_off_and_beyond_a_pump_brings_nothing_at_all(volts):
    """No residue of rounding: it would be carried on far beyond the shut-off. On few points and on whole curves alike."""
    fitted = mapped(packed(check_option()).groups[0].pump, lambda array: array[..., None, :])
    supply, rpm = floats(np.array([[volts]])), floats(np.array([[6000.0]]))
    top = own_top_kpa(fitted, supply)
    few = floats(top * np.array([[0.999], [1.0], [1.0 + 1e-12], [1.3], [4.0]]))
    many = floats(top * np.linspace(0.0, 2.0, 2 * NODES - 1)[:, None])
    flow = pump_characteristic(fitted, few, top, supply, rpm)[0]
    assert flow[0, 0] > 0
    assert np.all(flow[1:] == 0.0)
    whole = pump_characteristic(fitted, many, top, supply, rpm)[0]
    assert np.all(whole[NODES - 2] > 0)
    assert np.all(whole[NODES - 1 :] == 0.0)
