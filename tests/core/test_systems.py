"""Systems by the thousand: each system of a set is what it is alone, however its curves are read."""

from concurrent.futures import ThreadPoolExecutor

import numpy as np
import pytest
from hypothesis import given
from hypothesis import strategies as st

import iron_gulp.core.solve.hydraulics as hydraulics
from iron_gulp.core.judge import case_of, judge, judge_many, judge_rows, refitted, together
from iron_gulp.core.model import Carburettor, Rail, Regulator, RegulatorPart, Wiring, apply
from iron_gulp.core.physics import Stack, beside, join, key_of, mapped, power_law_root, rising_root, shape_of, take
from iron_gulp.core.solve import FluidState, Points, PumpState, packed, solve, solve_systems, supply_curve
from iron_gulp.core.solve.keeping import Remembered
from tests.draws import LONG, draws
from tests.systems import a_target, build, check_option, demo, fine_filter, lift_stage, line, pump, split

WIRE = Wiring(loop_m=6, connectors_mohm=10, fuse_a=30)
FIELDS = ("rail_kpa", "supply_m3_s", "delivered_m3_s", "bypass_m3_s", "feed_kpa", "return_kpa", "volts", "amps", "state")


def two_pumps(**changes):
    return check_option(**{"pumps": (pump(wiring=WIRE), pump(id="g2", wiring=WIRE)), "filter": fine_filter(), **changes})


def arranged(kind, **changes):
    option = two_pumps(**changes)
    return option.model_copy(update={"regulator": option.regulator.model_copy(update={"arrangement": kind})})


def carburetted(kind):
    part = RegulatorPart(name="r", min_base_kpa=10, max_base_kpa=80, capacity_l_h=200, droop_kpa=1.0)
    return two_pumps(
        injectors=None,
        carburettor=Carburettor(needles=2, needle_mm=2.5, highest_kpa=60.0),
        regulator=Regulator(part=part, base_kpa=40, reference="atmosphere", arrangement=kind),
    )


KINDS = {
    "bypass": lambda: two_pumps(),
    "bypass with creep": lambda: two_pumps(
        regulator=Regulator(part=RegulatorPart(name="r", capacity_l_h=350, creep_kpa=3.0))
    ),
    "two rails": lambda: two_pumps(
        split=split(line(8.7, 0.3, 1.0), line(6.0, 1.4, 0.5)), rail=Rail(count=2), lift=lift_stage(9.0)
    ),
    "near the tank": lambda: arranged("bypass near the tank"),
    "returnless": lambda: arranged("returnless, speed-controlled"),
    "deadhead": lambda: carburetted("carburettor, deadhead"),
    "carburettor bypass": lambda: carburetted("carburettor, bypass"),
}


def varied(rows, count, seed):
    """A set of systems with every number moved by up to 4 %."""
    generator = np.random.default_rng(seed)

    def spread(array):
        wide = np.repeat(array, count, axis=-1)
        if array.dtype == bool or not np.all(np.isfinite(array)):
            return wide
        return wide * generator.uniform(0.96, 1.04, count)

    return mapped(rows, spread)


@pytest.mark.parametrize("kind", KINDS)
def test_each_system_of_a_set_is_what_it_is_alone(kind):
    one = build(KINDS[kind](), a_target(power_kw=260, boost_kpa=90))
    cases = varied(case_of(one, one.options[0], one.targets[0]), 40, 8472)
    together = judge_rows(cases)
    for row in range(0, 40, 7):
        alone = judge_rows(take(cases, slice(row, row + 1)))
        for name in FIELDS:
            many = getattr(together.solved.points.hydraulics, name)[..., row]
            single = getattr(alone.solved.points.hydraulics, name).reshape(many.shape)
            assert many == pytest.approx(single, rel=1e-7, abs=1e-9), (name, row)
        for many, single in zip(together.shares, alone.shares, strict=True):
            assert many.component == single.component
            assert many.load[row] == pytest.approx(single.load[0], rel=1e-7)


@draws(30)
@given(st.sampled_from(sorted(KINDS)), st.floats(-60, 200), st.floats(2, 900), st.floats(9.5, 14.5))
def test_curves_give_the_same_whole_or_node_by_node(kind, manifold, demand, volts):
    option = KINDS[kind]()
    if option.carburettor is not None:
        manifold = 0.0
    points = Points(manifold, demand * 1e-3 / 3600 * 770.0, volts, 770.0, 0.9)
    whole = solve(option, points)
    few = hydraulics.FEW
    try:
        hydraulics.FEW = 0
        walked = solve(option, points)
    finally:
        hydraulics.FEW = few
    for name in FIELDS:
        assert getattr(whole, name) == pytest.approx(getattr(walked, name), rel=1e-6, abs=1e-7), name


def test_builds_of_several_kinds_are_judged_in_one_call():
    asked = []
    for name in ("curlew", "fieldfare", "saltern"):
        one = demo(name)
        asked += [(one, option, each) for option in one.options for each in one.targets]
    for (one, option, each), verdict in zip(asked, judge_many(asked), strict=True):
        alone = judge(one, option, each)
        assert (verdict.option.id, verdict.target.id) == (option.id, each.id)
        assert [load.load for load in verdict.loads] == pytest.approx([load.load for load in alone.loads], rel=1e-7)


def test_a_set_follows_what_differs_in_it():
    one = build(two_pumps(), a_target(power_kw=200))
    longer = apply(one, [("options/o1/feed/length_m", 9.0)])
    weaker = apply(one, [("options/o1/pumps/g1/derate_pct", 30.0)])
    plain, long, weak = judge_many([(x, x.options[0], x.targets[0]) for x in (one, longer, weaker)])
    assert long.load("feed").load > plain.load("feed").load == weak.load("feed").load
    assert weak.load("pumps").load > long.load("pumps").load > plain.load("pumps").load


def test_points_and_systems_broadcast():
    option = two_pumps()
    systems = varied(packed(option), 30, 3)
    points = Points(np.array([[100.0], [-60.0], [0.0]]), np.full((3, 30), 0.03), 13.6, 770.0, 0.9)
    found = solve_systems(systems, points)
    assert found.rail_kpa.shape == (3, 30)
    assert found.volts.shape == (2, 3, 30)
    assert np.all(found.rail_kpa[0] >= found.rail_kpa[1])
    assert np.any(found.rail_kpa[0] > found.rail_kpa[1])


# Arrays of systems


def test_sets_are_joined_taken_and_known_by_their_numbers():
    one, other = packed(two_pumps()), packed(two_pumps(feed=line(8.7, 2.0, 1.0)))
    both = join([one, other])
    assert both.feed.length_m.tolist() == [4.5, 2.0]
    assert take(both, [1]).feed.length_m.tolist() == [2.0]
    assert key_of(one) == key_of(packed(two_pumps())) != key_of(other)
    assert shape_of(one) == shape_of(other) != shape_of(packed(check_option()))
    stacked = Stack(both, 2).take([1, 0])
    assert stacked.feed.length_m.tolist() == [2.0, 4.5]
    assert stacked.groups[0].pump.tables[0].flow_bends.cuts.shape == both.groups[0].pump.tables[0].flow_bends.cuts.shape


def test_tables_of_unequal_length_are_put_beside_and_behind_each_other():
    short = pump(id="g1")
    curve = short.part.curves[0]
    cut = curve.model_copy(update={name: getattr(curve, name)[:3] for name in ("pressure_kpa", "flow_l_h", "current_a")})
    brief = short.model_copy(update={"part": short.part.model_copy(update={"curves": (cut,)})})
    one, other = packed(check_option(pumps=(short,))), packed(check_option(pumps=(brief,)))
    rise = np.array([50.0, 350.0])
    for row, system in enumerate((one, other)):
        alone = system.groups[0].pump.tables[0]
        joined = take(join([one, other]), [row]).groups[0].pump.tables[0]
        assert joined.flow(rise) == pytest.approx(alone.flow(rise))
        side = beside([one.groups[0].pump.tables[0], other.groups[0].pump.tables[0]])
        assert side.flow(rise)[row, 0] == pytest.approx(alone.flow(rise))


# Roots


def test_rising_roots_are_found_in_brackets_and_at_their_ends():
    wanted = np.array([0.0, 0.3, 0.9, 2.0])
    found = rising_root(lambda x: x**3 - wanted, np.zeros(4), np.ones(4))
    assert found == pytest.approx([0.0, 0.3 ** (1 / 3), 0.9 ** (1 / 3), 1.0], abs=1e-9)
    jump = rising_root(lambda x: np.where(x < 0.37, -1.0, 5.0), np.zeros(1), np.ones(1))
    assert jump[0] == pytest.approx(0.37, abs=1e-9)


def test_power_laws_are_met_and_what_never_rises_says_so():
    wanted = np.array([3.0, 40.0])
    found = power_law_root(lambda q: 2.0 * q**1.75 + q, np.full(2, 0.1), wanted)
    assert 2.0 * found**1.75 + found == pytest.approx(wanted, rel=1e-9)
    assert np.isinf(power_law_root(lambda q: 0.0 * q + 1e-9, np.full(2, 0.1), wanted)).all()


def test_what_is_remembered_stays_within_its_bytes():
    made = []

    def make(number):
        made.append(number)
        return np.zeros(100)  # 800 bytes

    kept = Remembered(2_000)
    for number in (1, 2, 1, 3, 1, 2):
        kept.get_or_make(number, lambda number=number: make(number))
    assert made == [1, 2, 3, 2]  # room for two, the one not asked for longest goes
    kept.get_or_make("large", lambda: np.zeros(1_000))
    assert kept.get_or_make("large", lambda: make("again")).size == 1_000  # the latest always stays


def test_what_is_remembered_may_be_asked_for_side_by_side():
    kept = Remembered(5_000)

    def ask(seed):
        draw = np.random.default_rng(seed)
        return all(
            kept.get_or_make(at, lambda at=at: np.full(100, float(at)))[0] == at
            for at in map(int, draw.integers(0, 30, 3_000))
        )

    with ThreadPoolExecutor(8) as pool:
        assert all(pool.map(ask, range(8)))
    assert kept._bytes == 800 * len(kept._kept) <= 5_000


def test_many_points_of_a_staged_system_are_each_what_it_is_alone():
    """Points that differ by nothing but the pumps that run share a curve a state; each must find its own."""
    option = check_option(pumps=(pump(), pump(id="g2", on_above_kpa=60.0), pump(id="g3", on_above_kpa=140.0)))
    manifold = np.random.default_rng(4).permutation(np.linspace(0.0, 200.0, 90))
    demand = 0.02 + manifold * 1e-4
    together = solve(option, points(manifold, demand))
    assert {tuple(one) for one in together.running.T} == {(True, False, False), (True, True, False), (True, True, True)}
    for at in range(0, 90, 7):
        alone = solve(option, points(manifold[[at]], demand[[at]]))
        assert together.rail_kpa[at] == pytest.approx(alone.rail_kpa[0], rel=1e-6)
        assert together.group_flow_m3_s[:, at] == pytest.approx(alone.group_flow_m3_s[:, 0], rel=1e-5)


def test_points_of_several_blocks_are_each_what_they_are_alone():
    """More than are solved at once: what one block has alike everywhere another may not."""
    option, count = check_option(pumps=(pump(), pump(id="g2", on_above_kpa=60.0))), 20_000
    manifold = np.concatenate([np.full(count // 2, 20.0), np.linspace(0.0, 180.0, count // 2)])
    demand = np.concatenate([np.full(count // 2, 0.05), np.linspace(0.0, 0.2, count // 2)])
    together = solve(option, points(manifold, demand))
    chosen = np.r_[0:30, count // 2 - 3 : count // 2 + 3, 3000:count:1700]
    few = solve(option, points(manifold[chosen], demand[chosen]))
    for name in ("rail_kpa", "state", "bypass_m3_s", "delivered_m3_s", "return_kpa", "speed", "lambda_factor"):
        assert getattr(together, name)[chosen] == pytest.approx(getattr(few, name), rel=1e-6), name


def points(manifold, demand):
    return Points(manifold, demand, 13.5, 740.0, 0.6, np.inf, 6000.0, 0.0)


def test_a_supply_curve_tells_each_groups_own_flow_volts_and_amps():
    small, large = pump(), pump(id="g2", count=2, wiring=Wiring(loop_m=6.0, area_mm2=2.5))
    state, fluid = PumpState(13.5), FluidState(740.0, 0.6)
    both = supply_curve(check_option(pumps=(small, large)), (True, True), state, fluid)
    assert both.group_flow_m3_s.shape == both.volts.shape == both.amps.shape == (2, both.rail_kpa.size)
    assert both.group_flow_m3_s.sum(axis=0)[:-1] == pytest.approx(both.flow_m3_s[:-1], rel=1e-9, abs=1e-12)
    assert both.group_flow_m3_s[1, 0] > 1.5 * both.group_flow_m3_s[0, 0]
    for at, group in enumerate((small, large)):
        alone = supply_curve(check_option(pumps=(group,)), (True,), state, fluid)
        for name in ("group_flow_m3_s", "volts", "amps"):
            told = np.interp(200.0, both.rise_kpa, getattr(both, name)[at])
            assert told == pytest.approx(np.interp(200.0, alone.rise_kpa, getattr(alone, name)[0]), rel=1e-3), name
    off = supply_curve(check_option(pumps=(small, large)), (True, False), state, fluid)
    assert not off.group_flow_m3_s[1].any()
    assert not off.amps[1].any()


def test_a_stage_behind_the_others_passes_all_their_flow_and_adds_its_rise():
    state, fluid = PumpState(13.5), FluidState(740.0, 0.6)
    behind = pump(id="g2", place="in series, boosting the others")
    both = supply_curve(check_option(pumps=(pump(count=2), behind)), (True, True), state, fluid)
    alone = supply_curve(check_option(pumps=(pump(),)), (True,), state, fluid)
    for at in (260, 300, 340):  # where the stage behind could pass more
        total = float(both.flow_m3_s[at])
        assert both.group_flow_m3_s[:, at] == pytest.approx([total, total], rel=1e-6)
        falls = slice(None, int(np.argmin(alone.group_flow_m3_s[0] > 0)) or None)
        flow, rise = alone.group_flow_m3_s[0][falls][::-1], alone.rise_kpa[falls][::-1]
        first, second = np.interp(total / 2, flow, rise), np.interp(total, flow, rise)
        assert both.rise_kpa[at] == pytest.approx(first + second, rel=0.01)
        for name in ("volts", "amps"):
            own = getattr(alone, name)[0][falls][::-1]
            told = getattr(both, name)[:, at]
            assert told == pytest.approx([np.interp(total / 2, flow, own), np.interp(total, flow, own)], rel=0.01), name


def alike_but(option, what):
    """Options that share every part but one with each other, the very same objects."""
    if what == "base":
        changed = [
            option.regulator.model_copy(update={"base_kpa": option.regulator.base_kpa * by}) for by in (0.9, 1.0, 1.1)
        ]
        return [option.model_copy(update={"regulator": one}) for one in changed]
    line = getattr(option, what)
    parts = [line.part.model_copy(update={"bore_mm": line.part.bore_mm * by}) for by in (0.8, 1.0, 1.3)]
    return [option.model_copy(update={what: line.model_copy(update={"part": one})}) for one in parts]


@pytest.mark.parametrize("what", ["base", "feed", "return_line"] if LONG else ["feed"])
@pytest.mark.parametrize("name", ["curlew", "saltern", "dunlin", "fieldfare"])
def test_systems_that_share_the_very_same_parts_are_judged_together_as_one_by_one(name, what):
    """What is one object in all of a set stands there once; every number is as if each stood alone, of one target too."""
    built = demo(name)
    for own in built.options if LONG else built.options[-1:]:
        for arrangement in {own.regulator.arrangement, "returnless, speed-controlled"}:
            if own.carburettor is not None and arrangement != own.regulator.arrangement:
                continue
            base = own.model_copy(update={"regulator": own.regulator.model_copy(update={"arrangement": arrangement})})
            options = alike_but(base, what)
            for target in built.targets if LONG else built.targets[:1]:
                # As a search does it: what the target asks is worked out once for all that meter alike.
                first = case_of(built, options[0], target)
                cases = [first, *(refitted(first, one, target) for one in options[1:])]
                ((positions, joined),) = together(cases)
                rows = {share.component: share.load for share in judge_rows(joined).shares}
                for position, row in enumerate(positions):
                    alone = judge(built, options[row].model_copy(deep=True), target)
                    for load in alone.loads:
                        found = np.broadcast_to(rows[load.component], len(options))[position]
                        assert load.load == pytest.approx(float(found), rel=1e-7, abs=1e-9, nan_ok=True), load.component
