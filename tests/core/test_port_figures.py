"""Figures of a port side that has direct injection beside it: what its own injectors pass, nothing of the other side."""

import pytest

from iron_gulp.core.account import FIGURES, Context
from iron_gulp.core.judge import judge
from iron_gulp.core.physics import M3_S_PER_L_H
from iron_gulp.core.solve import PEAK
from tests.systems import demo


@pytest.fixture(scope="module")
def context():
    build = demo("dunlin")
    option = build.option("port")
    return Context(build, judge(build, option, build.targets[1]))


def opened(context, key):
    return {row.symbol: row.value for row in FIGURES[key].rows(context)}


def test_pulse_and_duty_are_worked_out_from_what_port_injectors_are_asked_for(context):
    points = context.verdict.points
    for key in ("injector.pulse_ms", "injector.duty_pct"):
        shown = opened(context, key)
        assert shown["ṁ"] == pytest.approx(float(points.metered_kg_s[PEAK]) * 3600)
        assert shown["q"] == pytest.approx(float(points.open_kg_s[PEAK]) * 1e3)


def test_a_port_side_at_rest_has_no_pulse_at_idle(context):
    assert FIGURES["injector.idle_pulse_ms"].value(context) == 0.0


def test_what_high_pressure_pumps_draw_never_reaches_the_port_rail(context):
    points = context.verdict.points
    hyd, density = points.hydraulics, context.verdict.fuel.density_kg_m3
    shown = opened(context, "injector.rail_drop_kpa")
    through = shown["V̇"] * M3_S_PER_L_H
    assert through - shown["V̇_e"] * M3_S_PER_L_H == pytest.approx(float(points.metered_kg_s[PEAK]) / density, rel=1e-6)
    assert through < float(hyd.supply_m3_s[PEAK])
