"""Numbers against calculations of their own: not by the code they check, and not merely present."""

import math

import numpy as np
import pytest
from fluids import one_phase_dP

from iron_gulp.core.account import Context, explain, value
from iron_gulp.core.advise import find
from iron_gulp.core.judge import judge_all
from iron_gulp.core.model import Passage, Tank
from iron_gulp.core.physics import ETHANOL, GASOLINE, METHANOL
from iron_gulp.core.solve import IDLE, PEAK
from iron_gulp.core.study import compare
from iron_gulp.shelf import load_shelf
from tests.systems import a_target, build, check_option, demo, pump

L_H = 1e-3 / 3600
SHELF = load_shelf()


def judged(option, one_target=None):
    one = build(option, one_target or a_target())
    return one, judge_all(one, one.options[0])[0]


def test_base_fuels_are_those_of_the_literature():
    # Density at 15 °C, air for one of fuel, lower heating value (Heywood, appendix D); CH3OH burns with 1.5 O2.
    air = 1.5 * (32.0 + 3.773 * 28.16) / 32.04
    assert METHANOL.stoich_afr == pytest.approx(air, rel=0.01)
    assert (METHANOL.density_15c_kg_m3, METHANOL.lhv_mj_kg) == pytest.approx((796, 20.0), rel=0.01)
    assert (ETHANOL.density_15c_kg_m3, ETHANOL.stoich_afr, ETHANOL.lhv_mj_kg) == pytest.approx((794, 9.0, 26.9), rel=0.01)
    assert (GASOLINE.density_15c_kg_m3, GASOLINE.stoich_afr, GASOLINE.lhv_mj_kg) == pytest.approx(
        (745, 14.7, 43.4), rel=0.01
    )


@pytest.mark.parametrize("tank_kpa", [0.0, 12.0])
def test_the_return_floor_is_tank_regulator_line_and_passages(tank_kpa):
    tube = Passage(id="p1", name="tube", bore_mm=4.0, length_m=0.4, k_sum=1.5)
    _, verdict = judged(check_option(3, tank=Tank(pressure_kpa=tank_kpa), return_passages=(tube,)))
    hyd, option, fuel = verdict.points.hydraulics, verdict.option, verdict.fuel
    flow, part = float(hyd.bypass_m3_s[IDLE]), option.regulator.part
    assert flow > 0
    wide_open = part.capacity_drop_kpa * (flow / (part.capacity_l_h * L_H)) ** 2
    lost = 0.0
    for bore, length, k, rough in (
        (option.return_line.part.bore_mm, option.return_line.length_m, option.return_line.k_sum, 1.5),
        (4.0, 0.4, 1.5, 1.5),
    ):
        if bore != 4.0:
            rough = option.return_line.part.roughness_um
        speed = flow / (math.pi / 4 * (bore * 1e-3) ** 2)
        pipe = one_phase_dP(
            flow * fuel.density_kg_m3, fuel.density_kg_m3, fuel.viscosity_mpa_s * 1e-3, bore * 1e-3, rough * 1e-6, length
        )
        lost += (pipe + k * fuel.density_kg_m3 * speed**2 / 2) / 1e3
    assert not option.return_line.fittings
    assert float(hyd.return_kpa[IDLE]) == pytest.approx(lost, rel=2e-3)
    assert float(hyd.floor_kpa[IDLE]) == pytest.approx(tank_kpa + wide_open + lost, rel=2e-3)


def test_required_fuel_is_a_cylinder_of_air_at_the_stoichiometric_mixture():
    one, verdict = judged(check_option(2))
    opened = explain("injector.required_fuel_ms", Context(one, verdict))
    given = {row.symbol: row.value for row in opened.inputs}
    # A cylinder of air at 101.3 kPa and 20 °C weighs 1.2 g a litre.
    air_g = one.engine.displacement_l / one.engine.cylinders * 1.2
    assert opened.value == pytest.approx(air_g / verdict.fuel.stoich_afr / given["q"] * 1e3, rel=0.03)


def test_the_pulse_needs_the_mixture():
    lean, rich = (judged(check_option(2), a_target(lambda_=number, school="air"))[1] for number in (1.0, 0.8))
    assert rich.demand.air_school_kg_s / lean.demand.air_school_kg_s == pytest.approx(1.25)
    air = rich.demand.air_kg_s
    assert rich.demand.air_school_kg_s == pytest.approx(air / (0.8 * rich.fuel.stoich_afr), rel=1e-6)


def test_a_boosting_group_passes_what_the_others_bring():
    series = "in series, boosting the others"
    one = check_option(1, pumps=(pump(), pump(id="g2", place=series, count=2)))
    hyd = judged(one)[1].points.hydraulics
    flows = hyd.group_flow_m3_s[:, PEAK]
    # The same fuel passes both groups: nothing is added to the flow, only to the pressure.
    assert flows[1] == pytest.approx(flows[0], rel=1e-3)
    assert float(hyd.supply_m3_s[PEAK]) == pytest.approx(flows[0], rel=1e-3)


def test_lines_are_drawn_to_four_metres_a_second_in_the_widest():
    (chart,) = compare([SHELF.part("lines", "ptfe-6"), SHELF.part("lines", "ptfe-10")])
    widest = max(SHELF.part("lines", one).bore_mm for one in ("ptfe-6", "ptfe-10"))
    top = chart.curves[0].x[-1]
    assert top * L_H / (math.pi / 4 * (widest * 1e-3) ** 2) == pytest.approx(4.0, rel=1e-9)


def test_regulators_are_drawn_a_fifth_past_their_capacity():
    part = SHELF.parts("regulators")[0]
    (chart,) = compare([part])
    curve = chart.curves[0]
    assert curve.x[-1] == pytest.approx(1.2 * part.capacity_l_h)
    assert np.interp(part.capacity_l_h, curve.x, curve.y) == pytest.approx(part.capacity_drop_kpa, rel=0.01)
    assert curve.y[-1] == pytest.approx(1.44 * part.capacity_drop_kpa)


def test_every_figure_of_speed_is_flow_over_area():
    one = demo("curlew")
    verdict = judge_all(one, one.options[0])[0]
    hyd, option = verdict.points.hydraulics, verdict.option
    feed = float(hyd.supply_m3_s[PEAK]) / (math.pi / 4 * (option.feed.part.bore_mm * 1e-3) ** 2)
    back = float(hyd.bypass_m3_s[IDLE]) / (math.pi / 4 * (option.return_line.part.bore_mm * 1e-3) ** 2)
    assert value("feed.velocity_m_s", Context(one, verdict)) == pytest.approx(feed, rel=1e-6)
    assert value("regulator.return_velocity_m_s", Context(one, verdict)) == pytest.approx(back, rel=1e-6)


def test_a_stage_chatters_by_its_hysteresis_against_the_signals_ripple():
    def chattering(limit, hysteresis_pct):
        stage = pump(id="g2", on_above_kpa=limit, hysteresis_pct=hysteresis_pct, min_on_s=0.0)
        one = build(check_option(pumps=(pump(), stage)), a_target(boost_kpa=150))
        found = find(one, one.options[0], judge_all(one, one.options[0]), SHELF.catalogue)
        return next((each for each in found if each.code == "stage-chatters"), None)

    assert chattering(100.0, 2.5) is None  # 2.5 kPa, more than boost ripples
    told = chattering(80.0, 2.0)
    assert told.values["band_kpa"] == pytest.approx(1.6)
    widened = dict(told.remedies[0].edits)["options/o1/pumps/g2/hysteresis_pct"]
    assert widened == math.ceil(2.0 / 80.0 * 100)
