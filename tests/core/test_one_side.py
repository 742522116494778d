"""A direct side that brings nothing leaves what the port side alone would have: stopped, of no share, or handed over."""

import numpy as np
import pytest
from hypothesis import given
from hypothesis import strategies as st

from iron_gulp.core.judge import judge, judge_many
from iron_gulp.core.model import apply
from iron_gulp.core.solve import PEAK, State, fuel_state, solve_points, stopped_sides
from tests.draws import draws
from tests.garage import car, changed

CARS = (
    "Direct-injected four with a port rail above its ceiling",
    "Direct-injected V6 whose port side joins with boost",
)
AFTER, NEAR, NONE = "bypass after the rail", "bypass near the tank", "returnless, speed-controlled"
NO_SHARE = {"~delivery/mode": "share", "~delivery/direct_share_pct": 0.0}
HANDED_OVER = {
    "~delivery/mode": "threshold",
    "~delivery/signal": "manifold_kpa",
    "~delivery/start": -100.0,
    "~delivery/width": 0.0,
    "~delivery/port_share_pct": 100.0,
}


def port_alone(one, target, demand_kg_s):
    """What the port side brings of a demand in the mode that knows no other, kg/s."""
    alone = apply(one, [("options/o1/delivery/mode", "port only")])
    boost = np.array([target.boost_kpa])
    found = solve_points(alone, alone.options[0], target, target.rpm, boost, np.array([demand_kg_s])).hydraulics
    return float(found.delivered_m3_s[0]) * fuel_state(one, target).density_kg_m3


@draws(40)
@given(
    st.sampled_from(CARS),
    st.floats(0.0, 88.0),
    st.sampled_from([AFTER, NEAR, NONE]),
    st.sampled_from([None, 250.0, 300.0, 420.0, 700.0]),
    st.sampled_from([{}, NO_SHARE, HANDED_OVER]),
    st.floats(150.0, 900.0),
)
def test_without_the_direct_side_it_is_the_port_side_alone(name, worn_pct, arrangement, own_kpa, told, flow_cc_min):
    edits = {
        "~pumps/g1/derate_pct": worn_pct,
        "~regulator/arrangement": arrangement,
        "~delivery/port_base_kpa": own_kpa,
        "~injectors/part/rated_flow_cc_min": flow_cc_min,
    }
    one = changed(car(name), edits | told)
    target, option = one.targets[-1], one.options[0]
    verdict = judge_many([(one, option, target)], ceilings=False)[0]
    direct = verdict.points.direct
    alone = port_alone(one, target, float(direct.port_kg_s[PEAK]))
    left = float(stopped_sides(one, option, target, verdict.points).without_direct_kg_s[PEAK])
    assert left == pytest.approx(alone, rel=1e-3, abs=1e-7)
    if told:
        assert float(direct.direct_kg_s[PEAK]) == 0.0
        assert float(direct.port_delivered_kg_s[PEAK]) == pytest.approx(alone, rel=1e-3, abs=1e-7)


def test_a_weak_low_pump_sinks_the_node_when_the_direct_side_stops():
    """What remains is what the pump brings at the pressure that stands there, not what the set pressure would pass."""
    one = changed(car(CARS[0]), NO_SHARE | {"~pumps/g1/derate_pct": 85.0})
    target, option = one.targets[-1], one.options[0]
    verdict = judge(one, option, target)
    hyd = verdict.points.hydraulics
    assert int(hyd.state[PEAK]) == State.STARVED
    assert float(hyd.rail_kpa[PEAK]) < 0.7 * float(hyd.set_kpa[PEAK])
    left = float(stopped_sides(one, option, target, verdict.points).without_direct_kg_s[PEAK])
    brought = float(hyd.supply_m3_s[PEAK]) * verdict.fuel.density_kg_m3
    assert left == pytest.approx(brought, rel=1e-3)


@pytest.mark.parametrize(("own_kpa", "across"), [(None, 400.0), (250.0, 250.0), (900.0, 400.0)])
def test_port_only_keeps_the_port_rails_own_regulator(own_kpa, across):
    edits = {"~delivery/mode": "port only", "~delivery/port_base_kpa": own_kpa, "~delivery/port_reference": "manifold"}
    edits |= {"~regulator/base_kpa": 400.0, "~regulator/reference": "manifold", "~regulator/part/creep_kpa": 0.0}
    one = changed(car(CARS[0]), edits)
    hyd = judge(one, one.options[0], one.targets[0]).points.hydraulics
    assert float(hyd.meant_kpa[PEAK]) == pytest.approx(across)
    assert float(hyd.differential_kpa[PEAK]) == pytest.approx(across, abs=0.5)
