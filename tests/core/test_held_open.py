"""Injectors held open pass what the pressure that really stands there passes, above its set pressure too."""

import numpy as np
import pytest
from hypothesis import given
from hypothesis import strategies as st

from iron_gulp.core.judge import judge
from iron_gulp.core.model import InjectorSet
from iron_gulp.core.solve import IDLE, PEAK, State, solve_points
from tests.draws import draws
from tests.garage import car, changed
from tests.systems import a_target, build, check_option, injectors

NEAR, AFTER = "bypass near the tank", "bypass after the rail"


def creeping(arrangement, flow_cc_min, creep_kpa, count=1, capacity_l_h=None, power_kw=260.0):
    """The check car on injectors that may be too small at the set pressure and do at the rail that really stands."""
    option = check_option(count, injectors=InjectorSet(part=injectors(flow_cc_min)))
    part = option.regulator.part.model_copy(
        update={"creep_kpa": creep_kpa, **({} if capacity_l_h is None else {"capacity_l_h": capacity_l_h})}
    )
    regulator = option.regulator.model_copy(update={"part": part, "arrangement": arrangement})
    one = build(option.model_copy(update={"regulator": regulator}), a_target(power_kw=power_kw, boost_kpa=100))
    return one, judge(one, one.options[0], one.targets[0])


def held_open(verdict, at=PEAK):
    """(fuel delivered, what all injectors pass held open at the pressure across them), kg/s."""
    points = verdict.points
    delivered = float(points.hydraulics.delivered_m3_s[at]) * verdict.fuel.density_kg_m3
    return delivered, 5 * float(points.open_kg_s[at])


@pytest.mark.parametrize("arrangement", [AFTER, NEAR])
@pytest.mark.parametrize("creep_kpa", [0.0, 8.0, 25.0])
@pytest.mark.parametrize("flow_cc_min", [420.0, 470.0, 520.0, 600.0])
def test_what_is_delivered_is_what_is_asked_or_what_the_pressure_there_passes(arrangement, creep_kpa, flow_cc_min):
    _, verdict = creeping(arrangement, flow_cc_min, creep_kpa)
    hyd = verdict.points.hydraulics
    assert int(hyd.state[PEAK]) != State.STARVED
    delivered, passes = held_open(verdict)
    assert delivered == pytest.approx(min(verdict.demand.chosen_kg_s, passes), rel=1e-6)
    assert float(hyd.lambda_factor[PEAK]) == pytest.approx(verdict.demand.chosen_kg_s / delivered, rel=1e-9)
    full = float(verdict.points.effective_ms[PEAK] / verdict.points.cycle_ms[PEAK])
    assert (full > 1.0 + 1e-6) == (float(hyd.lambda_factor[PEAK]) > 1.0 + 1e-6)


@draws(60)
@given(
    st.sampled_from([AFTER, NEAR]),
    st.floats(250.0, 900.0),
    st.floats(0.0, 40.0),
    st.integers(1, 3),
    st.floats(80.0, 900.0),
)
def test_lean_means_held_open_wherever_the_rail_stands(arrangement, flow_cc_min, creep_kpa, count, capacity_l_h):
    """Overrun included: a small regulator lifts the rail well above its set pressure."""
    _, verdict = creeping(arrangement, flow_cc_min, creep_kpa, count, capacity_l_h)
    hyd = verdict.points.hydraulics
    if int(hyd.state[PEAK]) == State.STARVED:
        return
    delivered, passes = held_open(verdict)
    assert delivered == pytest.approx(min(verdict.demand.chosen_kg_s, passes), rel=1e-5)
    supplied = float(hyd.supply_m3_s[PEAK])
    assert supplied == pytest.approx(float(hyd.delivered_m3_s[PEAK] + hyd.bypass_m3_s[PEAK]), rel=1e-6)


@pytest.mark.parametrize("flow_cc_min", [90.0, 140.0, 200.0, 260.0, 400.0])
@pytest.mark.parametrize("arrangement", [AFTER, NEAR])
def test_mass_balances_with_a_port_side_held_open_beside_a_high_side(arrangement, flow_cc_min):
    name = "Direct-injected four with a port rail above its ceiling"
    one = changed(car(name), {"~regulator/arrangement": arrangement, "~injectors/part/rated_flow_cc_min": flow_cc_min})
    for target in one.targets:
        verdict = judge(one, one.options[0], target)
        hyd, direct = verdict.points.hydraulics, verdict.points.direct
        for at in (PEAK, IDLE):
            taken = float(direct.delivered_kg_s[at] + direct.port_delivered_kg_s[at])
            assert float(hyd.delivered_m3_s[at]) * verdict.fuel.density_kg_m3 == pytest.approx(taken, rel=3e-4)
            count = one.engine.cylinders
            if int(hyd.state[at]) != State.STARVED and float(direct.port_kg_s[at]) > 0:
                passes = count * float(verdict.points.open_kg_s[at])
                asked = float(direct.port_kg_s[at])
                assert float(direct.port_delivered_kg_s[at]) == pytest.approx(min(asked, passes), rel=1e-4)


def test_many_points_at_once_are_solved_as_each_is_alone():
    one, _ = creeping(AFTER, 470.0, 25.0)
    target, option = one.targets[0], one.options[0]
    wanted = np.linspace(60.0, 160.0, 41) / 3600.0
    boosts = np.full_like(wanted, target.boost_kpa)
    many = solve_points(one, option, target, target.rpm, boosts, wanted).hydraulics
    for at in (0, 17, 30, 40):
        alone = solve_points(one, option, target, target.rpm, boosts[at : at + 1], wanted[at : at + 1]).hydraulics
        assert float(many.delivered_m3_s[at]) == pytest.approx(float(alone.delivered_m3_s[0]), rel=1e-6)
        assert float(many.rail_kpa[at]) == pytest.approx(float(alone.rail_kpa[0]), abs=0.05)
