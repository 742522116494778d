"""What must hold for any system: more resistance never brings more, more pump or voltage never brings less, flow adds up.

Systems and points are drawn at random over everything the interface lets a user put together.
"""

import numpy as np
import pytest
from hypothesis import assume, given
from hypothesis import strategies as st

from iron_gulp.core.judge import judge
from iron_gulp.core.model import POWER_LIMITS, Filter, FilterPart, Option, Passage, Pickup, Rail, Suction, Wiring
from iron_gulp.core.solve import FluidState, Points, PumpState, State, return_curve, solve, split_flows_m3_s, supply_curve
from iron_gulp.core.study import propose, switches
from tests.draws import draws
from tests.systems import a_target, build, check_option, fitted_line, lift_stage, line, pump, split

L_H = 1e-3 / 3600
RHO, MU = 770.0, 0.9
FLUID = FluidState(RHO, MU)
ARRANGEMENTS = ["bypass after the rail", "bypass near the tank", "returnless, speed-controlled"]

bores = st.floats(5.0, 15.0)
lengths = st.floats(0.0, 8.0)
kinds = st.sampled_from(["swept elbow, 90°", "drilled block, 90°", "check valve, lift", "tee, into the branch"])


@st.composite
def options(draw):
    """A system of parallel pumps with everything around it drawn at random."""
    wire = Wiring(
        loop_m=draw(st.floats(0, 12)),
        area_mm2=draw(st.sampled_from([1.0, 2.5, 6.0])),
        ground=draw(st.sampled_from(["own wire to the battery", "painted or shared point"])),
    )
    groups = (pump(count=draw(st.integers(1, 3)), wiring=wire), pump(id="g2", wiring=wire, on_above_kpa=60.0))
    rails = draw(st.sampled_from([0, 2]))
    option = check_option(
        pumps=groups[: draw(st.integers(1, 2))],
        pickup=draw(st.sampled_from([None, Pickup(bore_mm=9.0)])),
        suction=Suction(head_m=draw(st.floats(-0.3, 0.5))),
        feed=fitted_line(draw(bores), draw(lengths), (draw(kinds), draw(st.integers(1, 4)))),
        return_line=fitted_line(draw(bores), draw(lengths), ("exit into a tank", 1)),
        filter=draw(st.sampled_from([None, Filter(part=FilterPart(name="f", rated_flow_l_h=300, rated_drop_kpa=9))])),
        split=split(*(line(draw(bores), draw(st.floats(0.1, 2)), 0.5) for _ in range(rails))) if rails else None,
        rail=Rail(count=max(rails, 1)),
    )
    arrangement = draw(st.sampled_from(ARRANGEMENTS))
    return option.model_copy(update={"regulator": option.regulator.model_copy(update={"arrangement": arrangement})})


points = st.tuples(st.floats(-70, 220), st.floats(1, 900), st.floats(9, 15))


def at(option: Option, point):
    manifold, demand, volts = point
    return solve(option, Points(manifold, demand * L_H * RHO, volts, RHO, MU))


def supply_at(option: Option, rail_kpa: float, volts: float) -> float:
    curve = supply_curve(option, (True,) * len(option.pumps), PumpState(volts), FLUID)
    return float(np.interp(rail_kpa, curve.rail_kpa, curve.flow_m3_s))


@draws(120)
@given(options(), points)
def test_flow_adds_up_at_every_node(option, point):
    hyd = at(option, point)
    assert np.all(np.isfinite(hyd.rail_kpa))
    supply, engine, bypass = hyd.supply_m3_s[0], hyd.delivered_m3_s[0], hyd.bypass_m3_s[0]
    assert supply == pytest.approx(engine + bypass, rel=1e-6, abs=1e-12)
    assert hyd.group_flow_m3_s[:, 0].sum() == pytest.approx(supply, rel=1e-6, abs=1e-12)
    if option.split is not None:
        for joined in (True, False):
            branches = split_flows_m3_s(option.split, np.array([supply]), FLUID, joined)
            assert branches.sum() == pytest.approx(supply, rel=1e-6, abs=1e-15)
    assert min(supply, engine, bypass) >= -1e-15
    assert hyd.lambda_factor[0] >= 1.0 - 1e-9


@draws(120)
@given(options(), points)
def test_pressures_add_up_from_tank_to_rail(option, point):
    hyd = at(option, point)
    assume(hyd.supply_m3_s[0] > 1e-9)
    losses = hyd.filter_kpa[0] + hyd.passages_kpa[0] + hyd.feed_kpa[0] + hyd.split_kpa[0]
    built_up = hyd.inlet_kpa[0] + hyd.pump_rise_kpa[0] - losses
    # Near the tank the regulator stands before the feed: what it passes back does not go through the losses.
    # Losses go with the square of flow and are read off between two nodes: a share of them is the curve's step.
    allowed = 0.6 + 2e-3 * losses + 5e-3 * abs(hyd.rail_kpa[0])
    # A pump gives no more than at no pressure: injectors that draw beyond it, under vacuum, empty the rail below that.
    if hyd.pump_rise_kpa[0] > 0:
        assert built_up == pytest.approx(hyd.rail_kpa[0], rel=0, abs=allowed)
    assert hyd.rail_kpa[0] <= built_up + allowed


@pytest.mark.parametrize("arrangement", ARRANGEMENTS)
def test_injectors_that_draw_more_than_a_pump_at_no_pressure_empty_the_rail(arrangement):
    option = check_option(pumps=(pump(),), feed=fitted_line(5.0, 0.0, ("swept elbow, 90°", 1)))
    option = option.model_copy(update={"regulator": option.regulator.model_copy(update={"arrangement": arrangement})})
    hyd = at(option, (-68.0, 900.0, 9.0))
    assert hyd.pump_rise_kpa[0] == 0
    assert hyd.rail_kpa[0] < 0
    assert hyd.bypass_m3_s[0] == 0
    assert hyd.delivered_m3_s[0] == pytest.approx(hyd.supply_m3_s[0], rel=1e-6)
    assert hyd.lambda_factor[0] > 1


@draws(60)
@given(options(), points, st.sampled_from(["feed", "return_line"]), st.floats(0.1, 6))
def test_a_longer_line_never_raises_supply(option, point, which, more):
    longer = getattr(option, which)
    longer = longer.model_copy(update={"length_m": longer.length_m + more})
    manifold, _, volts = point
    for rail in (100.0, 300.0 + max(manifold, 0.0)):
        after = supply_at(option.model_copy(update={which: longer}), rail, volts)
        assert after <= supply_at(option, rail, volts) + 1e-12


@draws(60)
@given(options(), kinds, st.sampled_from(["fitting", "passage", "branch", "pickup", "clogging"]), st.floats(9, 15))
def test_nothing_put_in_the_way_raises_supply(option, kind, what, volts):
    if what == "fitting":
        changed = option.model_copy(
            update={"feed": fitted_line(option.feed.part.bore_mm, option.feed.length_m, (kind, 9))}
        )
        option = option.model_copy(
            update={"feed": fitted_line(option.feed.part.bore_mm, option.feed.length_m, (kind, 1))}
        )
    elif what == "passage":
        changed = option.model_copy(update={"feed_passages": (Passage(id="p1", name="tube", bore_mm=5.0),)})
    elif what == "branch":
        assume(option.split is not None)
        narrow = [one.line.model_copy(update={"k_sum": 9.0}) for one in option.split.branches]
        changed = option.model_copy(update={"split": split(*narrow)})
    elif what == "pickup":
        changed = option.model_copy(update={"pickup": Pickup(bore_mm=6.0, k_sum=4.0)})
    else:
        assume(option.filter is not None)
        changed = option.model_copy(update={"filter": option.filter.model_copy(update={"clogging": 4.0})})
    assert supply_at(changed, 350.0, volts) <= supply_at(option, 350.0, volts) + 1e-12


@draws(60)
@given(options(), points)
def test_more_pump_never_lowers_the_rail(option, point):
    first = option.pumps[0]
    more = option.model_copy(update={"pumps": (first.model_copy(update={"count": first.count + 1}), *option.pumps[1:])})
    before, after = at(option, point), at(more, point)
    assert after.rail_kpa[0] >= before.rail_kpa[0] - max(0.05, 1e-3 * abs(before.rail_kpa[0]))
    assert after.delivered_m3_s[0] >= before.delivered_m3_s[0] * (1 - 1e-3)


@draws(60)
@given(options(), points, st.floats(0.1, 2))
def test_more_voltage_never_brings_less(option, point, more):
    manifold, demand, volts = point
    before, after = at(option, point), at(option, (manifold, demand, volts + more))
    assert after.supply_at_set_m3_s[0] >= before.supply_at_set_m3_s[0] * (1 - 1e-6)
    assert after.delivered_m3_s[0] >= before.delivered_m3_s[0] * (1 - 1e-3)


@draws(60)
@given(options(), points, st.floats(0.5, 100))
def test_more_demand_never_raises_a_starved_rail(option, point, more):
    manifold, demand, volts = point
    before, after = at(option, point), at(option, (manifold, demand + more, volts))
    assume(before.state[0] == State.STARVED)
    assert after.state[0] == State.STARVED
    assert after.rail_kpa[0] <= before.rail_kpa[0] + 0.05
    assert after.lambda_factor[0] >= before.lambda_factor[0] - 1e-6


@draws(40)
@given(options(), st.floats(1e-6, 5e-4))
def test_a_restriction_in_the_return_raises_the_floor(option, most):
    open_ = return_curve(option, most, FLUID)
    bore = option.return_line.part.bore_mm / 2
    throttled = option.model_copy(update={"return_passages": (Passage(id="r1", name="tank end", bore_mm=bore),)})
    assert np.all(return_curve(throttled, most, FLUID).floor_kpa >= open_.floor_kpa)
    assert np.all(np.diff(open_.floor_kpa) >= 0)


@draws(30)
@given(st.floats(120, 500), st.floats(0, 220), st.floats(0, 98), st.sampled_from(POWER_LIMITS))
def test_at_its_ceiling_a_component_is_just_loaded(power, boost, ethanol, component):
    one = build(check_option(2, lift=lift_stage(4.0)), a_target(power_kw=power, boost_kpa=boost, ethanol_pct=ethanol))
    load = judge(one, one.options[0], one.targets[0]).load(component)
    assume(load.ceiling_kw is not None and 1 < load.ceiling_kw < 5000)
    there = one.targets[0].model_copy(update={"power_kw": load.ceiling_kw})
    again = judge(one.model_copy(update={"targets": (there,)}), one.options[0], there).load(component)
    assert again.load == pytest.approx(1.0, rel=0.02)


@draws(25)
@given(st.floats(20, 190), st.floats(0, 60), st.floats(200, 420))
def test_a_stage_leaves_at_or_below_where_it_joins(joins, hysteresis, power):
    groups = (pump(), pump(id="g2", on_above_kpa=joins, hysteresis_pct=hysteresis))
    one = build(check_option(pumps=groups), a_target(boost_kpa=200, power_kw=power))
    (switch,) = switches(one, one.options[0], one.targets[0])
    assert switch.joins.manifold_kpa == pytest.approx(joins, abs=0.01)
    assert switch.leaves.manifold_kpa == pytest.approx(joins * (1 - hysteresis / 100), abs=0.01)
    assert switch.after_rail_kpa >= switch.before_rail_kpa - 0.01
    (proposal,) = propose(one, one.options[0], one.targets[0])
    assert 0.0 <= proposal.on_above_kpa <= 200.0
