"""An ethanol sensor costs pressure where it sits: in the feed, in the return, or in one branch of the split."""

import numpy as np
import pytest

from iron_gulp.core.judge import judge
from iron_gulp.core.model import EthanolSensor, Rail
from iron_gulp.core.solve import IDLE, PEAK, FluidState, branch_loss_kpa, line_loss_kpa, passage_loss_kpa
from iron_gulp.core.study import legs
from tests.systems import a_target, build, check_option, line, split

FEED, RETURN, BRANCH = "in the feed, before the split", "in the return", "in one branch"
ARRANGEMENTS = ("bypass after the rail", "bypass near the tank", "returnless, speed-controlled")


def told(place, *, arrangement="bypass after the rail", parted=True, **sensor):
    fitted = None if place is None else EthanolSensor(bore_mm=5.0, place=place, **sensor)
    two = {"split": split(line(8.0, 1.0, 1.0), line(8.0, 1.0, 1.0)), "rail": Rail(count=2)} if parted else {}
    option = check_option(1, ethanol_sensor=fitted, **two)
    regulator = option.regulator.model_copy(update={"arrangement": arrangement})
    one = build(option.model_copy(update={"regulator": regulator}), a_target(power_kw=200, boost_kpa=60))
    return judge(one, one.options[0], one.targets[0])


def lost(verdict, flow_m3_s):
    """What the sensor itself loses at a flow, kPa."""
    fuel, sensor = verdict.fuel, EthanolSensor(bore_mm=5.0)
    return float(passage_loss_kpa(sensor, np.array([flow_m3_s]), fuel.density_kg_m3, fuel.viscosity_mpa_s)[0])


@pytest.mark.parametrize("arrangement", ARRANGEMENTS)
def test_in_the_feed_the_pumps_make_its_drop(arrangement):
    verdict = told(FEED, arrangement=arrangement)
    hyd = verdict.points.hydraulics
    through = hyd.delivered_m3_s if arrangement == "bypass near the tank" else hyd.supply_m3_s
    assert float(hyd.passages_kpa[PEAK]) == pytest.approx(lost(verdict, float(through[PEAK])), rel=5e-4)
    assert float(told(None, arrangement=arrangement).points.hydraulics.passages_kpa[PEAK]) == 0.0


def test_in_the_return_it_costs_the_return_and_nothing_else():
    verdict, bare = told(RETURN), told(None)
    hyd = verdict.points.hydraulics
    fuel, flow = verdict.fuel, hyd.bypass_m3_s[IDLE : IDLE + 1]
    hose = float(line_loss_kpa(verdict.option.return_line, flow, fuel.density_kg_m3, fuel.viscosity_mpa_s)[0])
    assert float(hyd.return_kpa[IDLE]) == pytest.approx(hose + lost(verdict, float(flow[0])), rel=1e-4)
    assert float(hyd.passages_kpa[PEAK]) == 0.0
    assert float(hyd.rail_kpa[IDLE]) >= float(bare.points.hydraulics.rail_kpa[IDLE])


def test_where_nothing_returns_one_in_the_return_costs_nothing():
    with_it, bare = (told(place, arrangement="returnless, speed-controlled") for place in (RETURN, None))
    assert np.array_equal(with_it.points.hydraulics.rail_kpa, bare.points.hydraulics.rail_kpa)


def test_in_one_branch_the_branches_part_the_flow_by_it():
    verdict = told(BRANCH)
    one, other = (leg for leg in legs(verdict) if leg.name.startswith("Branch"))
    assert one.flow_m3_s < other.flow_m3_s
    assert one.drop_kpa == pytest.approx(other.drop_kpa, rel=1e-3)
    fuel = verdict.fuel
    fluid = FluidState(fuel.density_kg_m3, fuel.viscosity_mpa_s)
    own = branch_loss_kpa(verdict.option.split, verdict.option.split.branches[0], np.array([one.flow_m3_s]), fluid)
    assert one.drop_kpa == pytest.approx(float(own[0]) + lost(verdict, one.flow_m3_s), rel=1e-6)
    assert float(verdict.points.hydraulics.passages_kpa[PEAK]) == 0.0


def test_in_one_branch_of_dead_ends_that_branch_loses_it_at_half_the_flow():
    verdict, bare = (told(place, arrangement="bypass near the tank") for place in (BRANCH, None))
    half = float(verdict.points.hydraulics.delivered_m3_s[PEAK]) / 2.0
    more = float(verdict.points.hydraulics.split_kpa[PEAK] - bare.points.hydraulics.split_kpa[PEAK])
    assert more == pytest.approx(lost(verdict, half), rel=1e-3)


def test_without_a_split_one_branch_is_the_feed():
    one, other = told(BRANCH, parted=False), told(FEED, parted=False)
    assert np.array_equal(one.points.hydraulics.rail_kpa, other.points.hydraulics.rail_kpa)
    assert float(one.points.hydraulics.passages_kpa[PEAK]) > 0.0
