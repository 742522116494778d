"""The coupled solution: the check table of physics §6, an independent scalar solution, and what must always hold."""

import numpy as np
import pytest
from hypothesis import assume, given
from hypothesis import strategies as st

from bench.scalar_reference import feed_kpa, solve_point
from iron_gulp.core.model import (
    Filter,
    FilterPart,
    Passage,
    Pickup,
    Rail,
    Regulator,
    RegulatorPart,
    Suction,
    Tank,
    Wiring,
)
from iron_gulp.core.solve import Points, State, solve
from tests.draws import draws
from tests.systems import check_option, fitted_line, line, pump, split

L_H = 1e-3 / 3600
RHO, MU = 780.0, 1.0


def at(option, manifold, demand_l_h, volts=13.5, **more):
    return solve(option, Points(manifold, np.asarray(demand_l_h) * L_H * RHO, volts, RHO, MU, **more))


CHECKS = [  # pumps, demand, manifold, rail, supply, bypass, λ factor, state
    (1, 300, 100, 400.0, 411.4, 111.4, 1.0, State.REGULATING),
    (1, 420, 150, 424.5, 401.8, 0.0, 1.045, State.STARVED),
    (1, 4, -60, 280.6, 452.6, 448.6, 1.0, State.OVERRUN),
    (2, 4, -60, 572.9, 647.3, 643.3, 1.0, State.OVERRUN),
    (3, 700, 200, 500.0, 1044.1, 344.1, 1.0, State.REGULATING),
]


@pytest.mark.parametrize("row", CHECKS)
def test_check_table(row):
    pumps, demand, manifold, rail, supply, bypass, lean, state = row
    got = at(check_option(pumps), manifold, demand)
    assert got.rail_kpa[0] == pytest.approx(rail, rel=1e-3)
    assert got.supply_m3_s[0] / L_H == pytest.approx(supply, rel=1e-3)
    assert got.bypass_m3_s[0] / L_H == pytest.approx(bypass, rel=1e-3, abs=0.05)
    assert got.lambda_factor[0] == pytest.approx(lean, rel=1e-3)
    assert got.state[0] == state


def rich_option():
    """Wired, filtered, creeping, tank-pressurised: everything this slice knows."""
    part = RegulatorPart(name="r", capacity_l_h=350, capacity_drop_kpa=100, creep_kpa=2.0)
    wire = Wiring(loop_m=7, area_mm2=2.5, connectors_mohm=20, copper_temp_c=40)
    return check_option(
        tank=Tank(pressure_kpa=4.0),
        pumps=(pump(wiring=wire), pump(id="g2", wiring=wire, on_above_kpa=40.0, derate_pct=8.0)),
        filter=Filter(part=FilterPart(name="f", rated_flow_l_h=500, rated_drop_kpa=9.0), clogging=1.5),
        feed=line(7.9, 4.2, 5.5),
        regulator=Regulator(part=part, base_kpa=320),
    )


@draws(40)
@given(st.floats(-70, 220), st.floats(2, 900), st.floats(10.5, 14.5))
def test_agrees_with_an_independent_scalar_solution(manifold, demand, volts):
    option = rich_option()
    got = at(option, manifold, demand, volts)
    want = solve_point(option, manifold, demand * L_H * RHO, volts, RHO, MU)
    assert got.rail_kpa[0] == pytest.approx(want["rail_kpa"], rel=2e-3, abs=0.3)
    assert got.supply_m3_s[0] == pytest.approx(want["supply_m3_s"], rel=3e-3)
    assert got.delivered_m3_s[0] == pytest.approx(want["delivered_m3_s"], rel=3e-3)


def piped_option():
    """Fittings, suction, pickup, a passage and an unequal split to two rails."""
    return rich_option().model_copy(
        update={
            "pickup": Pickup(bore_mm=10.0),
            "suction": Suction(head_m=0.2, line=fitted_line(14.3, 0.6, ("entry from a tank, sharp", 1))),
            "feed": fitted_line(8.7, 3.5, ("swept elbow, 90°", 3), ("drilled block, 90°", 1)),
            "feed_passages": (Passage(id="p1", name="bulkhead", bore_mm=7.0, length_m=0.1),),
            "split": split(
                fitted_line(8.7, 0.3, ("swept elbow, 45°", 2)), line(6.0, 1.4, 0.5), fitting="tee, into the branch"
            ),
            "rail": Rail(count=2),
        }
    )


@draws(25)
@given(st.floats(-70, 220), st.floats(2, 900), st.floats(10.5, 14.5))
def test_fittings_split_and_suction_agree_with_the_scalar_solution(manifold, demand, volts):
    option = piped_option()
    got = at(option, manifold, demand, volts)
    want = solve_point(option, manifold, demand * L_H * RHO, volts, RHO, MU)
    assert got.rail_kpa[0] == pytest.approx(want["rail_kpa"], rel=2e-3, abs=0.3)
    assert got.supply_m3_s[0] == pytest.approx(want["supply_m3_s"], rel=3e-3)
    assert got.delivered_m3_s[0] == pytest.approx(want["delivered_m3_s"], rel=3e-3)


@st.composite
def systems(draw):
    """Any ordinary system of the three arrangements: one to three groups, wired, filtered, with a passage or without."""

    def at(low, high):
        return draw(st.floats(low, high))

    def group(number):
        wire = Wiring(loop_m=at(0, 9), area_mm2=draw(st.sampled_from([1.5, 2.5, 4.0, 6.0])), connectors_mohm=at(0, 40))
        joins = {"on_above_kpa": at(10, 150)} if number > 1 and draw(st.booleans()) else {}
        return pump(id=f"g{number}", count=draw(st.integers(1, 2)), wiring=wire, derate_pct=at(0, 30), **joins)

    part = RegulatorPart(name="r", capacity_l_h=at(150, 1300), capacity_drop_kpa=100, creep_kpa=at(0, 3))
    arrangement = draw(st.sampled_from(["bypass after the rail", "bypass near the tank", "returnless, speed-controlled"]))
    fine = Filter(part=FilterPart(name="f", rated_flow_l_h=at(200, 1200), rated_drop_kpa=at(2, 20)), clogging=at(1, 3))
    return check_option(
        tank=Tank(pressure_kpa=at(-3, 6)),
        pumps=tuple(group(number) for number in range(1, draw(st.integers(1, 3)) + 1)),
        filter=fine if draw(st.booleans()) else None,
        feed=line(at(6, 14), at(1, 6), at(0, 8)),
        feed_passages=(Passage(id="p1", name="block", bore_mm=at(5, 12)),) if draw(st.booleans()) else (),
        return_line=line(at(6, 14), at(1, 6), at(0, 8)),
        regulator=Regulator(part=part, base_kpa=at(250, 450), arrangement=arrangement, slowest_pct=at(20, 60)),
    )


@draws(100)
@given(systems(), st.floats(-60, 180), st.floats(3, 900), st.floats(11, 14.5))
def test_random_systems_agree_with_the_scalar_solution(option, manifold, demand, volts):
    if option.regulator.arrangement == "bypass near the tank":  # no pulse is meant where the feed takes everything
        assume(option.regulator.base_kpa - feed_kpa(option, demand * L_H, RHO, MU) > 20)
    got = at(option, manifold, demand, volts)
    want = solve_point(option, manifold, demand * L_H * RHO, volts, RHO, MU)
    assert got.rail_kpa[0] == pytest.approx(want["rail_kpa"], rel=5e-3, abs=0.5)
    assert got.delivered_m3_s[0] == pytest.approx(want["delivered_m3_s"], rel=5e-3)
    assert got.supply_m3_s[0] == pytest.approx(want["supply_m3_s"], rel=5e-3)


@draws(60)
@given(st.floats(-90, 500), st.floats(0, 3000), st.floats(5, 32), st.sampled_from([0.0, 1.0, 3.0]))
def test_mass_is_conserved_and_numbers_exist(manifold, demand, volts, ratio):
    base = rich_option()
    regulator = base.regulator.model_copy(update={"reference": "rising rate", "rising_ratio": ratio})
    got = at(base.model_copy(update={"regulator": regulator}), manifold, demand, volts)
    assert got.supply_m3_s[0] == pytest.approx(got.delivered_m3_s[0] + got.bypass_m3_s[0], rel=1e-6, abs=1e-12)
    assert got.supply_m3_s[0] == pytest.approx(got.group_flow_m3_s[:, 0].sum(), rel=1e-3, abs=1e-8)
    for name in ("rail_kpa", "feed_kpa", "return_kpa", "volts", "amps", "bypass_m3_s"):
        assert np.all(np.isfinite(getattr(got, name)))
    assert got.bypass_m3_s[0] >= 0
    assert got.lambda_factor[0] >= 1 - 1e-9


@draws(40)
@given(st.floats(-60, 220), st.floats(0, 1200), st.integers(1, 5))
def test_another_pump_never_lowers_the_rail(manifold, demand, count):
    rails = [at(check_option(n), manifold, demand).rail_kpa[0] for n in (count, count + 1)]
    assert rails[0] <= rails[1] + 1e-6


@draws(40)
@given(st.floats(-60, 220), st.floats(0, 1200), st.floats(0, 20), st.floats(0, 20))
def test_a_longer_feed_never_brings_more(manifold, demand, one, other):
    short, long = sorted((one, other))
    supply = [
        at(check_option(2, feed=line(8.7, length, 4.0)), manifold, demand).supply_at_set_m3_s[0]
        for length in (short, long)
    ]
    assert supply[1] <= supply[0] + 1e-12


def test_points_are_independent_of_their_company():
    option = rich_option()
    manifold, demand = np.array([-60.0, 20.0, 60.0, 180.0]), np.array([4.0, 80.0, 300.0, 700.0])
    volts = np.array([13.2, 13.8, 13.8, 12.1])
    together = at(option, manifold, demand, volts)
    for index in range(4):
        alone = at(option, manifold[index], demand[index], volts[index])
        assert together.rail_kpa[index] == pytest.approx(alone.rail_kpa[0], rel=1e-12)
        assert together.amps[:, index] == pytest.approx(alone.amps[:, 0])
        assert together.running[:, index].tolist() == alone.running[:, 0].tolist()


def test_staged_group_joins_above_its_boost():
    got = at(rich_option(), [39.9, 40.1], [100.0, 100.0])
    assert got.running.tolist() == [[True, True], [False, True]]
    assert got.group_flow_m3_s[1, 0] == 0.0
    assert got.group_flow_m3_s[1, 1] > 0.0


def test_no_differential_delivers_nothing():
    option = check_option(regulator=check_option().regulator.model_copy(update={"reference": "atmosphere"}))
    got = at(option, 320.0, 200.0)
    assert got.state[0] == State.NO_DIFFERENTIAL != State.STARVED
    assert got.delivered_m3_s[0] == 0.0
    assert np.isinf(got.lambda_factor[0])


def test_injectors_cannot_be_asked_for_more_than_they_pass():
    got = at(check_option(2), 100.0, 400.0, open_limit_kg_s=300.0 * L_H * RHO)
    assert got.delivered_m3_s[0] / L_H == pytest.approx(300.0)
    assert got.lambda_factor[0] == pytest.approx(4 / 3)


def test_what_wants_nothing_is_neither_lean_nor_rich():
    for option, kpa in ((check_option(2), -60.0), (check_option(1), 150.0)):
        got = at(option, [kpa, kpa], [0.0, 4.0])
        assert got.delivered_m3_s[0] == 0.0
        assert got.lambda_factor == pytest.approx([1.0, 1.0])


def test_low_voltage_costs_what_the_table_says():
    option = check_option(1, feed=line(40.0, 0.0, 0.0))
    brought = [at(option, 150.0, 0.0, volts).supply_at_set_m3_s[0] / L_H for volts in (13.5, 12.0, 11.0)]
    assert brought == pytest.approx([395.0, 299.3, 225.9], rel=1e-3)


def test_a_restricted_return_raises_idle_pressure():
    free = at(check_option(1, return_line=line(11.1, 4.2, 5.0)), -60.0, 4.0).rail_kpa[0]
    choked = at(check_option(1, return_line=line(11.1, 4.2, 300.0)), -60.0, 4.0).rail_kpa[0]
    assert choked > free + 10


def test_a_stalled_pump_leaves_the_rail_at_the_manifold():
    got = at(check_option(1), 150.0, 300.0, 4.0)
    assert got.state[0] == State.STARVED
    assert got.rail_kpa[0] - 150.0 < 1.0
    assert got.delivered_m3_s[0] == pytest.approx(0.0, abs=1e-6)


@pytest.mark.parametrize("arrangement", ["bypass after the rail", "bypass near the tank", "returnless, speed-controlled"])
def test_pumps_without_voltage_bring_nothing_and_break_nothing(arrangement):
    option = check_option(pumps=(pump(derate_pct=90.0, wiring=Wiring(loop_m=60, area_mm2=0.2, connectors_mohm=2000)),))
    option = option.model_copy(update={"regulator": option.regulator.model_copy(update={"arrangement": arrangement})})
    for volts in (0.0, 1e-6, 5.0):
        got = at(option, [-60.0, 100.0, 300.0], [0.0, 4.0, 500.0], volts)
        assert np.isfinite(got.rail_kpa).all()
        assert np.all(got.delivered_m3_s <= got.supply_m3_s + 1e-15)
    silent = solve(option, Points(100.0, 0.01, 13.5, RHO, MU), without=frozenset({"g1"}))
    assert silent.supply_m3_s[0] == pytest.approx(0.0, abs=1e-12)
    assert silent.lambda_factor[0] > 1e6
