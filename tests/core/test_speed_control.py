"""Pumps under a speed controller: affinity in speed, the battery's amperes, the loop before the controller."""

import numpy as np
import pytest
from hypothesis import given
from hypothesis import strategies as st
from scipy.optimize import brentq

from iron_gulp.core.account import Context, value
from iron_gulp.core.judge import circuits, judge
from iron_gulp.core.model import Wiring
from iron_gulp.core.physics import (
    CONTROLLER_SHARE,
    controlled_current_a,
    controlled_flow_l_h,
    controlled_voltage_v,
    current_a,
    flow_l_h,
    terminal_voltage_v,
    told_voltage_v,
)
from iron_gulp.core.solve import PEAK, motor_power_w
from tests.draws import draws
from tests.systems import a_target, build, check_option, pump

PRESSURES, FLOWS = (0, 200, 300, 400, 500, 600), (520, 480, 450, 415, 375, 320)
AMPS = (7.5, 10.5, 12.2, 14, 16, 18)
KINDS = ("turbine", "brushless", "gerotor")


def tables(kind):
    part = pump().part
    curve = part.curves[0].model_copy(
        update={"voltage_v": 13.5, "pressure_kpa": PRESSURES, "flow_l_h": FLOWS, "current_a": AMPS}
    )
    return part.model_copy(update={"kind": kind, "curves": (curve,), "dropout_v": 11.0, "relief_kpa": None}).tables()


def brings(kind, wanted_l_h, source_v, rise_kpa=450.0, ohm=0.030):
    """Share of full speed that brings a flow, volts at the controller, amperes at the battery, volts told."""
    of = tables(kind)

    def volts(speed):
        return float(controlled_voltage_v(of, rise_kpa, source_v, ohm, speed))

    def short(speed):
        return float(controlled_flow_l_h(of, rise_kpa, volts(speed), speed)) - wanted_l_h

    speed = brentq(short, 0.3, 1.0)
    at = volts(speed)
    return speed, at, float(controlled_current_a(of, rise_kpa, at, speed)), float(told_voltage_v(of, at, speed))


@pytest.mark.parametrize(
    ("kind", "source", "share_pct", "volts", "amps", "told"),
    [
        ("brushless", 13.8, 83.86, 13.47, 11.11, 13.47),
        ("turbine", 13.8, 84.19, 13.45, 11.71, 11.32),
        ("gerotor", 13.8, 72.34, 13.46, 11.42, None),
        ("brushless", 10.3, 93.71, 9.844, 15.20, 9.844),
    ],
)
def test_check_values_of_speed_control(kind, source, share_pct, volts, amps, told):
    speed, at, drawn, motor = brings(kind, 250.0, source)
    assert 100.0 * speed == pytest.approx(share_pct, rel=5e-3)
    assert (at, drawn) == pytest.approx((volts, amps), rel=5e-3)
    if told is not None:
        assert motor == pytest.approx(told, rel=5e-3)


@draws(60)
@given(st.sampled_from(KINDS), st.floats(0.35, 1.0), st.floats(9.5, 15.0), st.floats(0.0, 550.0), st.floats(0.0, 0.06))
def test_a_controlled_pump_obeys_the_law_of_its_kind(kind, speed, source, rise, ohm):
    """Worked out again from the table alone: speed, the loop before the controller, and power through it."""
    of, top = tables(kind), 13.5
    at = float(controlled_voltage_v(of, rise, source, ohm, speed))
    drawn = float(controlled_current_a(of, rise, at, speed))
    assert at == pytest.approx(source - ohm * drawn, abs=1e-6)
    most = min(at / 11.0, 1.0) if kind == "brushless" else at / top
    share = speed * most
    if kind == "gerotor":
        flow = max(float(of[0].flow_bends.at(np.float64(rise))) + (share - 1.0) * 520.0, 0.0)
        amps = float(of[0].current(rise))
    else:
        flow = share * float(of[0].flow(rise / share**2))
        amps = share**2 * float(of[0].current(rise / share**2))
    power = share * top * amps
    efficiency = 1.0 if kind == "brushless" else CONTROLLER_SHARE
    assert float(controlled_flow_l_h(of, rise, at, speed)) == pytest.approx(flow, rel=1e-9, abs=1e-9)
    assert drawn == pytest.approx(power / (efficiency * at), rel=1e-9)


def test_at_full_speed_a_brushless_pump_is_what_it_is_without_a_word_of_speed():
    of = tables("brushless")
    for source in (13.8, 11.5, 10.0):
        plain = float(terminal_voltage_v(of, 450.0, source, 0.03))
        assert float(controlled_voltage_v(of, 450.0, source, 0.03, 1.0)) == pytest.approx(plain)
        assert float(controlled_flow_l_h(of, 450.0, plain, 1.0)) == pytest.approx(float(flow_l_h(of, 450.0, plain)))
        assert float(controlled_current_a(of, 450.0, plain, 1.0)) == pytest.approx(float(current_a(of, 450.0, plain)))


def returnless(kind, **changes):
    part = pump().part
    curve = part.curves[0].model_copy(
        update={"voltage_v": 13.5, "pressure_kpa": PRESSURES, "flow_l_h": FLOWS, "current_a": AMPS}
    )
    part = part.model_copy(update={"kind": kind, "curves": (curve,), "dropout_v": 11.0, "relief_kpa": None})
    option = check_option(
        pumps=(pump(part=part, wiring=Wiring(loop_m=4.0, area_mm2=4.0, connectors_mohm=10.0), **changes),)
    )
    regulator = option.regulator.model_copy(update={"arrangement": "returnless, speed-controlled"})
    one = build(option.model_copy(update={"regulator": regulator}), a_target(power_kw=200, boost_kpa=100))
    return one, judge(one, one.options[0], one.targets[0])


@pytest.mark.parametrize("kind", KINDS)
def test_the_solution_holds_the_rail_by_that_speed(kind):
    one, verdict = returnless(kind)
    hyd, of = verdict.points.hydraulics, one.options[0].pumps[0].part.tables()
    rise, speed, asked = float(hyd.pump_rise_kpa[PEAK]), float(hyd.speed[PEAK]), float(hyd.delivered_m3_s[PEAK]) * 3.6e6
    ohm = 4.0 / 4.0 * 1.724e-2 + 10e-3
    source = one.targets[0].supply_v

    def short(share):
        at = float(controlled_voltage_v(of, rise, source, ohm, share))
        return float(controlled_flow_l_h(of, rise, at, share)) - asked

    share = brentq(short, 0.2, 1.0)
    at = float(controlled_voltage_v(of, rise, source, ohm, share))
    assert speed == pytest.approx(share, rel=2e-3)
    assert float(hyd.amps[0, PEAK]) == pytest.approx(float(controlled_current_a(of, rise, at, share)), rel=5e-3)
    assert float(hyd.volts[0, PEAK]) == pytest.approx(float(told_voltage_v(of, at, share)), rel=5e-3)
    power = float(motor_power_w(one.options[0], hyd)[0, PEAK])
    kept = 1.0 if kind == "brushless" else CONTROLLER_SHARE
    assert power == pytest.approx(kept * at * float(hyd.amps[0, PEAK]), rel=1e-2)


@pytest.mark.parametrize("kind", KINDS)
def test_what_arrives_is_what_the_wire_leaves_and_figures_open_on_it(kind):
    one, verdict = returnless(kind)
    (circuit,) = circuits(one.options[0], (verdict,))
    assert circuit.controlled
    assert circuit.arrives_v == pytest.approx(one.targets[0].supply_v - circuit.drop_v)
    context = Context(one, verdict)
    hyd = verdict.points.hydraulics
    assert float(value("pump.volts_v", context)) == pytest.approx(float(hyd.volts[0, PEAK]), rel=1e-3)
    assert float(value("pump.current_a", context)) == pytest.approx(float(hyd.amps[0, PEAK]), rel=5e-3)


def test_a_group_at_full_speed_beside_a_controlled_one_draws_through_no_controller():
    one, verdict = returnless("turbine", drive="always full speed")
    hyd, of = verdict.points.hydraulics, one.options[0].pumps[0].part.tables()
    volts = float(
        terminal_voltage_v(of, float(hyd.pump_rise_kpa[PEAK]), one.targets[0].supply_v, 4.0 / 4.0 * 1.724e-2 + 10e-3)
    )
    assert float(hyd.volts[0, PEAK]) == pytest.approx(volts, rel=1e-3)
