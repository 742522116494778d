"""Where little flows or much is drawn: drops at idle, inlets that no pump draws below a vacuum, surge tanks that fill."""

import numpy as np
import pytest
from hypothesis import given
from hypothesis import strategies as st

from iron_gulp.core.account import solve_report
from iron_gulp.core.judge import judge
from iron_gulp.core.model import Filter, FilterPart, Pickup, Suction, restrictions
from iron_gulp.core.solve import IDLE, PEAK, FluidState, filter_loss_kpa, line_loss_kpa, passages_loss_kpa
from iron_gulp.core.study import overflow
from tests.draws import draws
from tests.garage import CARS, car, changed
from tests.systems import build, check_option, lift_stage, line


@pytest.mark.parametrize("name", list(CARS))
def test_filter_and_return_lose_at_idle_what_passes_them(name):
    one = changed(car(name), {})
    option = one.options[0]
    verdict = judge(one, option, one.targets[0])
    hyd, fuel = verdict.points.hydraulics, verdict.fuel
    fluid = FluidState(fuel.density_kg_m3, fuel.viscosity_mpa_s)
    for at in (PEAK, IDLE):
        passing, back = (row[at : at + 1] for row in (hyd.supply_m3_s, hyd.bypass_m3_s))
        if option.filter is not None:
            lost = float(filter_loss_kpa(option.filter, passing)[0])
            assert float(hyd.filter_kpa[at]) == pytest.approx(lost, rel=0.01, abs=1e-4)
        if float(back[0]) > 0:
            standing = tuple(each.element for each in restrictions(option, "return"))
            hose = line_loss_kpa(option.return_line, back, fuel.density_kg_m3, fuel.viscosity_mpa_s)
            lost = float((hose + passages_loss_kpa(standing, back, fluid))[0])
            assert float(hyd.return_kpa[at]) == pytest.approx(lost, rel=0.01, abs=1e-4)


@draws(40)
@given(st.floats(1.0, 50.0), st.floats(5.0, 400.0), st.floats(0.5, 6.0), st.integers(1, 4), st.floats(-1.5, 1.0))
def test_no_inlet_lies_below_a_vacuum(clogging, rated_l_h, bore_mm, count, head_m):
    part = FilterPart(name="strainer", rated_flow_l_h=rated_l_h, rated_drop_kpa=5.0, grade_um=100.0)
    suction = Suction(
        place="external", head_m=head_m, line=line(bore_mm, 1.5, 2.0), filter=Filter(part=part, clogging=clogging)
    )
    one = build(check_option(count, suction=suction))
    verdict = judge(one, one.options[0], one.targets[0])
    hyd = verdict.points.hydraulics
    assert float(hyd.inlet_kpa.min()) >= -101.325
    for at in (PEAK, IDLE):
        balance = float(hyd.delivered_m3_s[at] + hyd.bypass_m3_s[at])
        assert float(hyd.supply_m3_s[at]) == pytest.approx(balance, rel=1e-6, abs=1e-12)


@pytest.mark.parametrize("bore_mm", [0.5, 0.8, 1.2, 4.0, 12.0])
def test_a_lift_pump_draws_no_vacuum_deeper_than_none(bore_mm):
    one = build(check_option(lift=lift_stage(4.0), pickup=Pickup(bore_mm=bore_mm)))
    solved = judge(one, one.options[0], one.targets[0]).lift
    assert solved.inlet_kpa >= -101.325
    assert solved.flow_m3_s > 0


@pytest.mark.parametrize("bore_mm", [1.0, 2.0, 3.0, 5.0, 8.0, 12.0])
def test_a_surge_tank_stands_at_no_more_than_its_lift_pump_makes(bore_mm):
    """The pump's table ends at 40 kPa and stalls at 80: behind a pinhole that is what stands there."""
    one = build(check_option(lift=lift_stage(6.0)))
    verdict = judge(one, one.options[0], one.targets[0])
    found, wider = overflow(verdict, bore_mm), overflow(verdict, bore_mm + 1.0)
    stall = max(float(table.stall_kpa) for table in one.options[0].lift.part.tables())
    assert wider.kpa <= found.kpa <= stall
    pipe = line(bore_mm, one.options[0].lift.line.length_m, 4.0)
    pipe = pipe.model_copy(update={"part": one.options[0].lift.line.part.model_copy(update={"bore_mm": bore_mm})})
    fuel = verdict.fuel
    lost = line_loss_kpa(pipe, np.array([found.back_m3_s]), fuel.density_kg_m3, fuel.viscosity_mpa_s)
    assert found.kpa == pytest.approx(float(lost[0]), rel=1e-3, abs=1e-6)


def test_the_ripple_told_is_that_of_the_bank_that_takes_most():
    name = "Direct-injected V6, a pump and a rail a bank"
    one = changed(car(name), {"~high_side/feed": "series", "~high_side/branches/1/part/bore_mm": 1.3})
    target = one.targets[-1]
    verdict = judge(one, one.options[0], target)
    rails = [float(rail.delivered_kg_s[PEAK]) for rail in verdict.points.direct.rails]
    high = one.options[0].high_side
    shot = max(rails) / (one.engine.cylinders / 2) * 120.0 / target.rpm
    density = float(verdict.points.direct.density_kg_m3[PEAK])
    meant = high.bulk_modulus_mpa * 1e3 * shot / density / (high.rail_volume_cc * 1e-6)
    told = solve_report(one, None, target.id)["peak"]["high_side"]
    assert max(rails) > min(rails)
    assert told["hp_rail_ripple_kpa"] == pytest.approx(meant, rel=1e-6)
