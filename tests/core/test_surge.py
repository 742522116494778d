"""The surge tank by two schools and by time (physics §6); a lap is driven until it repeats or the tank is empty."""

from dataclasses import replace

import numpy as np
import pytest
from hypothesis import given
from hypothesis import strategies as st

from iron_gulp.core.advise import find
from iron_gulp.core.judge import judge, judge_all, judge_many
from iron_gulp.core.model import LOAD_S, LOAD_SHARE, Car, PumpCurve, PumpPart, apply
from iron_gulp.core.physics import lasts_s, mean_drawn_m3_s, refill_s, surge_load, taken_l
from iron_gulp.core.solve import demand, fuel_state, solve_points
from iron_gulp.core.study import surge_lap
from iron_gulp.core.study.staging import field_demand_kg_s
from iron_gulp.shelf import load_shelf
from tests.draws import draws
from tests.systems import a_target, build, check_option, lift_stage, line

L_H = 1 / 3.6e6
CATALOGUE = load_shelf().catalogue


@pytest.mark.parametrize(
    ("use", "seconds", "left", "refill", "load"),
    [
        ("street", 15.0, 1.725, 4.14, 0.497),
        ("street", 60.0, 0.900, 16.6, 0.550),
        ("street", None, 1.725, 4.14, 0.497),
        ("track", None, 0.900, 16.6, 0.845),
        ("salt flat", None, 0.0, 30.1, 1.135),
    ],
)
def test_how_long_a_tank_lasts(use, seconds, left, refill, load):
    """2 L, lift 263, drawn 329, cruise 24 L/h."""
    drawn, cruise, lifted = 329 * L_H, 24 * L_H, 263 * L_H
    share, at_load = LOAD_SHARE[use], LOAD_S[use] if seconds is None else seconds
    assert float(lasts_s(drawn, lifted, 2.0)) == pytest.approx(109.1, abs=0.05)
    assert float(lasts_s(drawn, 0.0, 2.0)) == pytest.approx(21.9, abs=0.05)
    remains = max(2.0 - float(taken_l(drawn, lifted, at_load)), 0.0)
    assert remains == pytest.approx(left, abs=5e-4)
    assert float(refill_s(2.0 - remains, cruise, lifted)) == pytest.approx(refill, abs=0.06)
    assert float(surge_load(drawn, cruise, lifted, share, at_load, 2.0)) == pytest.approx(load, abs=5e-4)
    assert float(mean_drawn_m3_s(drawn, cruise, 0.35)) / L_H == pytest.approx(130.8, abs=0.06)


def test_two_litres_an_hour_short_are_no_stop():
    """Drawn 265 of 263 lifted, street: 0.412."""
    assert float(surge_load(265 * L_H, 24 * L_H, 263 * L_H, 0.35, 15.0, 2.0)) == pytest.approx(0.412, abs=5e-4)


def test_a_pump_that_moves_most_at_cruise_is_counted_there():
    assert float(mean_drawn_m3_s(200.0, 300.0, 0.9)) == 300.0


def lifting(litres_h, use="street", power_kw=300.0, **changes):
    """A car whose lift stage brings so much whatever its line loses."""
    curve = PumpCurve(
        voltage_v=13.5, pressure_kpa=(0, 100, 300), flow_l_h=(litres_h, litres_h * 0.999, 0), current_a=(4, 5, 6)
    )
    lift = lift_stage(1.0, part=PumpPart(name="lift", curves=(curve,)), line=line(60.0, 0.1, 0.0), **changes)
    target = a_target(power_kw=power_kw, power_at="crank", ethanol_pct=0.0, supply_v=13.5)
    return build(check_option(2, lift=lift), target, car=Car(use=use))


def drawn_l_h(one):
    target = one.targets[0]
    return demand(one, target).chosen_kg_s / fuel_state(one, target).density_kg_m3 / L_H


def codes(one):
    found = find(one, one.options[0], judge_all(one, one.options[0]), CATALOGUE)
    return {each.code: each.severity for each in found if each.code.startswith("lift-")}


def test_a_missed_school_is_a_check_where_it_is_wanted_and_more_than_a_twentieth_is_missing():
    full = drawn_l_h(lifting(100.0))
    assert codes(lifting(full * 1.01)) == {}
    assert codes(lifting(full * 0.97)) == {"lift-behind": "note"}
    assert codes(lifting(full * 0.93)) == {"lift-behind": "warn"}
    assert codes(lifting(full * 0.93, school="tank covers the pull")) == {"lift-behind": "note"}
    assert codes(lifting(full * 0.30, use="salt flat")) == {"lift-short": "stop"}
    assert codes(lifting(full * 0.60, surge_l=0.1)) == {"lift-short": "stop"}


@pytest.mark.parametrize("share", [0.93, 0.30])
def test_every_remedy_of_a_lift_stage_cures(share):
    one = lifting(drawn_l_h(lifting(100.0)) * share, use="track", surge_l=1.0)
    found = find(one, one.options[0], judge_all(one, one.options[0]), CATALOGUE)
    (finding,) = (each for each in found if each.code.startswith("lift-"))
    remedies = [each for each in finding.remedies if each.edits]
    assert remedies
    for remedy in remedies:
        after = codes(apply(one, remedy.edits))
        assert set(after.values()) <= {"note"}, remedy.label


def test_cruise_is_the_operating_fields():
    for use in LOAD_SHARE:
        one = lifting(200.0, use)
        option, target = one.options[0], one.targets[0]
        tank = judge(one, option, target).surge
        field = field_demand_kg_s(one, option, target, np.array([0.36 * target.rpm]), np.array([-38.0]))[0]
        assert tank.cruise_m3_s == pytest.approx(field / fuel_state(one, target).density_kg_m3, rel=1e-9)
        assert (tank.share, tank.load_s) == (LOAD_SHARE[use], LOAD_S[use])
    told = apply(lifting(200.0), [("targets/t1/load_s", 42.0)])
    assert judge(told, told.options[0], told.targets[0]).surge.load_s == 42.0


def test_what_returns_to_the_main_tank_is_all_drawn_at_cruise_too():
    one = lifting(400.0, return_to="main tank")
    option, target = one.options[0], one.targets[0]
    verdict = judge(one, option, target)
    assert verdict.surge.drawn_m3_s == pytest.approx(float(verdict.points.hydraulics.supply_m3_s[0]))
    burnt = field_demand_kg_s(one, option, target, np.array([0.36 * target.rpm]), np.array([-38.0]))[0]
    points = solve_points(one, option, target, 0.36 * target.rpm, -38.0, burnt)
    assert verdict.surge.cruise_m3_s == pytest.approx(float(points.hydraulics.supply_m3_s.item()), rel=1e-6)
    assert verdict.surge.cruise_m3_s > 5 * burnt / verdict.fuel.density_kg_m3


@given(
    st.floats(40, 500), st.sampled_from(sorted(LOAD_SHARE)), st.floats(0.3, 12), st.floats(5, 400),
    st.sampled_from(["surge tank", "main tank"]),
)  # fmt: skip
@draws(40)
def test_at_its_ceiling_a_lift_stage_is_at_its_limit(litres_h, use, surge_l, load_s, return_to):
    one = apply(lifting(litres_h, use, surge_l=surge_l, return_to=return_to), [("targets/t1/load_s", load_s)])
    option, target = one.options[0], one.targets[0]
    load = judge(one, option, target).load("lift")
    if load.ceiling_kw is None or load.ceiling_kw > 4500.0:
        return
    if load.ceiling_kw == 0:
        powers = [target.model_copy(update={"power_kw": kw}) for kw in (1.0, 30.0, 300.0)]
        for each in judge_many([(one, option, asked) for asked in powers], ceilings=False):
            assert each.load("lift").load > 1.0
        return
    if load.ceiling_kw < 1.0:
        return
    at = [target.model_copy(update={"power_kw": load.ceiling_kw * share}) for share in (0.995, 1.0, 1.005)]
    below, here, above = (
        each.load("lift").load for each in judge_many([(one, option, each) for each in at], ceilings=False)
    )
    assert here == pytest.approx(1.0, abs=0.01) or below < 1.0 < above


def test_a_lift_stage_too_small_at_any_power_ends_everything_first():
    """What the pumps return past the tank at cruise is more than it lifts: there is no power it carries."""
    one = lifting(60.0, return_to="main tank")
    verdict = judge(one, one.options[0], one.targets[0])
    assert verdict.load("lift").ceiling_kw == 0.0
    assert verdict.power_limit.component == "lift"
    assert verdict.power_limit.ceiling_kw == 0.0


def test_a_lap_is_driven_until_it_repeats_or_the_tank_is_empty():
    full = drawn_l_h(lifting(100.0))
    # A little more goes out in each turn than comes in: it lasts many turns, and not for ever.
    slow = lifting(full * 1.2, covered_s=20.0, uncovered_s=4.05, surge_l=4.0)
    lap = surge_lap(judge(slow, slow.options[0], slow.targets[0]))
    assert lap.empty_s is not None
    assert lap.empty_s > 5 * 24.05
    kept = lifting(full * 1.2, covered_s=20.0, uncovered_s=3.5, surge_l=4.0)
    lap = surge_lap(judge(kept, kept.options[0], kept.targets[0]))
    assert lap.empty_s is None
    ends = [litres for second, litres in lap.level if abs(second % 23.5) < 1e-6 or abs(second % 23.5 - 23.5) < 1e-6]
    assert ends[-1] == pytest.approx(ends[-2], abs=1e-6)


def shelf_lift(name, **changes):
    return next(one for one in CATALOGUE.pumps if one.shelf_id == f"pump-lift-{name}").model_copy(update=changes)


def first_remedies(fitted, wanted_l_h, catalogue=CATALOGUE, **wiring):
    """What is said first of a lift pump that brings less than is drawn."""
    lift = lift_stage(5.0).model_copy(update={"part": fitted, "surge_l": 2.0})
    lift = lift.model_copy(update={"wiring": lift.wiring.model_copy(update=wiring)})
    target = a_target(power_kw=300.0, boost_kpa=100.0, ethanol_pct=0.0)
    drawn = drawn_l_h(build(check_option(lift=lift), target))
    one = build(check_option(lift=lift), a_target(power_kw=300.0 * wanted_l_h / drawn, boost_kpa=100.0, ethanol_pct=0.0))
    found = find(one, one.options[0], judge_all(one, one.options[0]), catalogue)
    (finding,) = (each for each in found if each.code.startswith("lift-"))
    return one, [each for each in finding.remedies if each.edits]


def kinds(remedies):
    told = {"count": "second", "part": "larger"}
    return [told[field] for each in remedies if (field := each.edits[0][0].rpartition("/")[2]) in told]


def test_a_second_lift_pump_is_weighed_against_a_larger_one_by_what_they_cost():
    """One size up costs less than a second pump with its circuit, two sizes up more; a stated price decides first."""
    assert kinds(first_remedies(shelf_lift("200"), 290.0)[1]) == ["larger", "second"]
    assert kinds(first_remedies(shelf_lift("125"), 285.0)[1]) == ["second", "larger"]
    dear = replace(
        CATALOGUE,
        pumps=tuple(
            one.model_copy(update={"price": 400.0}) if one.shelf_id == "pump-lift-315" else one for one in CATALOGUE.pumps
        ),
    )
    assert kinds(first_remedies(shelf_lift("200", price=100.0), 290.0, dear)[1]) == ["second", "larger"]
    cheap = shelf_lift("125", price=400.0)
    assert kinds(first_remedies(cheap, 285.0, dear)[1]) == ["larger", "second"]


def test_a_larger_lift_pump_brings_fuse_and_wire_and_leaves_the_wear_of_the_old_one():
    circuit = {"fuse_a": 4.0, "area_mm2": 0.75, "loop_m": 6.0}
    one, remedies = first_remedies(shelf_lift("200"), 290.0, **circuit)
    one = apply(one, [("options/o1/lift/derate_pct", 6.0)])
    found = find(one, one.options[0], judge_all(one, one.options[0]), CATALOGUE)
    remedies = [each for finding in found if finding.code.startswith("lift-") for each in finding.remedies if each.edits]
    larger = next(each for each in remedies if "part" in each.values)
    assert {path.rpartition("/")[2] for path, _ in larger.edits} == {"part", "derate_pct", "fuse_a", "area_mm2"}
    assert "fuse" in larger.label
    after = apply(one, larger.edits)
    left = {each.code for each in find(after, after.options[0], judge_all(after, after.options[0]), CATALOGUE)}
    assert not left & {"fuse-small", "fuse-large", "fuse-warm", "fuse-segment", "wire-thin", "lift-short", "lift-behind"}
