"""The largest current a pump can be brought to draw is what fuse, wire and switch must bear (physics §4)."""

import numpy as np
import pytest
from hypothesis import given
from hypothesis import strategies as st

from iron_gulp.core.advise import find
from iron_gulp.core.judge import case_of, circuits, judge, judge_all, judge_many, judge_rows, largest, refitted, together
from iron_gulp.core.model import InjectorSet, PumpPart, Regulator, RegulatorPart, Wiring, apply
from iron_gulp.core.physics import next_fuse_a
from iron_gulp.core.plan.design.circuits import most_drawn_a, pressed_kpa, wired
from iron_gulp.core.solve import wiring_resistance_ohm
from iron_gulp.shelf import load_shelf
from tests.draws import draws
from tests.garage import CARS, car
from tests.systems import CHECK_CURVE, a_target, build, check_option, injectors, lift_stage, line, pump

SHELF = load_shelf()
WIDE = line(60.0, 0.1, 0.0)


def part(kind="turbine", relief_kpa=None):
    return PumpPart(name="p", curves=(CHECK_CURVE,), kind=kind, relief_kpa=relief_kpa)


@pytest.mark.parametrize(
    ("kind", "relief", "amps", "fuse"), [("gerotor", 480.0, 16.37, 20.5), ("turbine", None, 17.20, 21.5)]
)
def test_in_overrun_at_560_kilopascals(kind, relief, amps, fuse):
    """Points at 450 kPa and in overrun at 560, 13.5 V: what a relief valve lets it see, never the stall carried on."""
    assert most_drawn_a(part(kind, relief), 560.0) == pytest.approx(amps, abs=0.01)
    assert 1.25 * most_drawn_a(part(kind, relief), 560.0) == pytest.approx(fuse, abs=0.05)


def judged(option, **target):
    one = build(option, a_target(supply_v=13.5, **{"ethanol_pct": 0.0, **target}))
    return one, judge(one, one.options[0], one.targets[0])


def test_a_rail_that_sinks_counts_at_its_set_pressure():
    """Pumps short: the pump runs easier than it would with the regulator shut, where the fuse must hold."""
    large = InjectorSet(part=injectors(4000))
    option = check_option(1, feed=WIDE, return_line=WIDE, injectors=large)
    one, verdict = judged(option, power_kw=1100.0, boost_kpa=150.0)
    hyd = verdict.points.hydraulics
    assert hyd.rail_kpa[0] < hyd.set_kpa[0]
    solved = float(hyd.amps[0].max())
    assert verdict.largest_a[0] > solved
    assert verdict.largest_a[0] == pytest.approx(most_drawn_a(part(), float(hyd.set_kpa[0])), rel=5e-3)
    assert circuits(one.options[0], (verdict,))[0].least_fuse_a == pytest.approx(1.25 * verdict.largest_a[0])


def test_a_stage_that_joins_early_into_a_small_regulator_counts_there():
    small = Regulator(part=RegulatorPart(name="r", capacity_l_h=160, capacity_drop_kpa=100), base_kpa=300)
    stage = {"pumps": (pump(), pump(id="g2", on_above_kpa=30.0)), "regulator": small}
    _, verdict = judged(check_option(**stage, feed=WIDE, return_line=WIDE), power_kw=500.0, boost_kpa=200.0)
    peak = verdict.points.hydraulics.amps[:, 0].max()
    assert verdict.largest_a[1] > 1.02 * peak
    late = {**stage, "pumps": (pump(), pump(id="g2", on_above_kpa=195.0))}
    _, other = judged(check_option(**late, feed=WIDE, return_line=WIDE), power_kw=500.0, boost_kpa=200.0)
    assert other.largest_a[1] < verdict.largest_a[1]


@given(st.sampled_from(sorted(CARS)), st.floats(0.5, 1.6))
@draws(24)
def test_no_pump_draws_more_than_its_largest_and_a_fuse_by_it_holds(name, factor):
    built = car(name)
    edits = [(f"targets/{one.id}/power_kw", min(one.power_kw * factor, 4900.0)) for one in built.targets]
    built = apply(built, edits)
    option = built.options[0]
    verdicts = tuple(judge_all(built, option))
    for verdict in verdicts:
        for most, drawn in zip(verdict.largest_a, verdict.points.hydraulics.amps, strict=True):
            assert most >= float(drawn.max()) - 1e-9
    for one in circuits(option, verdicts, built.rules):
        assert one.largest_a >= one.current_a - 1e-9
        assert one.least_fuse_a >= 1.25 * one.largest_a - 1e-9


@pytest.mark.parametrize("shelf_id", [one.shelf_id for one in SHELF.catalogue.pumps if one.kind != "mechanical"])
def test_a_circuit_sized_for_a_pump_bears_it_and_is_no_larger_than_that(shelf_id):
    """Fuse at the next size to 1.25 times what it can draw, wire that carries it: not what a stall would."""
    chosen = next(one for one in SHELF.catalogue.pumps if one.shelf_id == shelf_id)
    one = build()
    rise = pressed_kpa(one, one.options[0].regulator, 300.0)
    made = wired(Wiring(loop_m=6.0), chosen, one, rise)
    amps = most_drawn_a(chosen, rise)
    assert made.fuse_a == next_fuse_a(1.25 * amps)
    assert made.area_mm2 <= 10.0 or amps >= 40.0 or made.fuse_a > 50.0
    if amps < 30.0:
        assert amps * wiring_resistance_ohm(made) <= 1.25 * one.rules.wire_drop_v


def test_the_shelfs_small_pumps_draw_what_their_work_takes():
    """Flow × pressure over volts × current: 0.15 and up from 100 L/h; 125 L/h about 5.5 A at 400 kPa."""
    for one in SHELF.catalogue.pumps:
        table = max(one.tables(), key=lambda table: table.voltage_v) if one.kind == "turbine" else None
        if table is None or float(table.flow(400.0)) < 99.0:
            continue
        eta = float(table.flow(400.0)) / 3.6e6 * 400e3 / (float(table.voltage_v) * float(table.current(400.0)))
        assert 0.15 <= eta <= 0.20, one.name
    small = next(one for one in SHELF.catalogue.pumps if one.shelf_id == "pump-125")
    assert float(max(small.tables(), key=lambda t: t.voltage_v).current(400.0)) == pytest.approx(5.5, abs=0.2)


def test_a_remedys_pump_comes_with_a_fuse_and_a_wire_that_bear_it():
    large = InjectorSet(part=injectors(3000))
    short = check_option(
        1, injectors=large, pumps=(pump(wiring=Wiring(loop_m=4, area_mm2=4, connectors_mohm=5, fuse_a=15)),)
    )
    one = build(short, a_target(power_kw=900.0, boost_kpa=120.0, ethanol_pct=0.0))
    found = find(one, one.options[0], judge_all(one, one.options[0]), SHELF.catalogue)
    finding = next(each for each in found if each.code == "pumps-short")
    remedy = next(each for each in finding.remedies if each.edits)
    after = apply(one, remedy.edits)
    left = {each.code for each in find(after, after.options[0], judge_all(after, after.options[0]), SHELF.catalogue)}
    assert not left & {"fuse-small", "fuse-large", "wire-thin", "pumps-short"}


def test_systems_of_one_target_are_judged_together_as_each_alone():
    """What they share is one array for all of them; stages and lift stages ask further points of each."""
    target = a_target(power_kw=300.0, boost_kpa=150.0)
    options = []
    for bore, joins in ((8.0, 40.0), (10.0, 60.0), (12.0, 40.0)):
        lift = lift_stage(5.0, return_to="main tank")
        pumps = (pump(), pump(id="g2", on_above_kpa=joins))
        options.append(check_option(pumps=pumps, lift=lift, feed=line(bore, 4.5, 4.0)))
    one = build(options[0], target)
    together = judge_many([(one, option, target) for option in options])
    for option, found in zip(options, together, strict=True):
        alone = judge(one, option, target)
        assert found.largest_a == pytest.approx(alone.largest_a, rel=1e-9)
        for load in alone.loads:
            assert found.load(load.component).load == pytest.approx(load.load, rel=1e-9), load.component


def test_stages_of_their_own_on_a_target_that_is_one_for_all():
    """As a search judges them: only what brings fuel differs, and so where each stage joins."""
    target = a_target(power_kw=300.0, boost_kpa=150.0)
    options = [
        check_option(pumps=(pump(), pump(id="g2", on_above_kpa=joins)), feed=line(bore, 4.5, 4.0))
        for bore, joins in ((8.0, 40.0), (10.0, 60.0), (12.0, 90.0))
    ]
    one = build(options[0], target)
    first = case_of(one, options[0], target)
    ((positions, cases),) = together([first, *(refitted(first, option, target) for option in options[1:])])
    found = judge_rows(cases).solved.largest_a
    for place, at in enumerate(positions):
        alone = judge(one, options[at], target).largest_a
        assert [float(group[place]) for group in found] == pytest.approx(list(alone), rel=1e-9)


@given(
    st.sampled_from((60.0, 160.0, 400.0, 1000.0)),
    st.tuples(st.floats(5.0, 260.0), st.floats(40.0, 900.0)),
    st.floats(80.0, 700.0),
    st.sampled_from((0.0, 1.0)),
    st.sampled_from(("bypass after the rail", "bypass near the tank")),
)
@draws(40)
def test_where_a_bound_says_no_joining_stage_lifts_the_rail_none_does(capacity, joins, power_kw, creep, arrangement):
    """Solving every joining point finds no larger current than solving only those the bound leaves open."""
    part = RegulatorPart(name="r", capacity_l_h=capacity, capacity_drop_kpa=100, creep_kpa=creep)
    regulator = Regulator(part=part, base_kpa=300, arrangement=arrangement)
    stages = (pump(), pump(id="g2", on_above_kpa=joins[0]), pump(id="g3", on_above_l_h=joins[1]))
    option = check_option(pumps=stages, regulator=regulator, feed=WIDE)
    case = case_of(built := build(option, a_target(power_kw=power_kw, boost_kpa=200.0)), option, built.targets[0])
    found = [float(amps[0]) for amps in judge_rows(case).solved.largest_a]
    with pytest.MonkeyPatch.context() as patch:
        patch.setattr(largest, "may_stand_higher", lambda systems, peak, points: np.ones(peak.rail_kpa.size, dtype=bool))
        assert [float(amps[0]) for amps in judge_rows(case).solved.largest_a] == pytest.approx(found, rel=1e-9)
