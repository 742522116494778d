"""What pump circuits share: one failure takes all on it, and one fuse or relay carries them all."""

import numpy as np
import pytest
from hypothesis import given
from hypothesis import strategies as st

from iron_gulp.core.account import parts_list
from iron_gulp.core.judge import circuits, judge, judge_all
from iron_gulp.core.model import Wiring, apply, shared_by
from iron_gulp.core.plan import parts_of_it
from iron_gulp.core.solve import PEAK, solve_points
from iron_gulp.core.study import stages_of
from iron_gulp.core.study.staging import field_demand_kg_s
from tests.core.test_findings import codes, findings_of
from tests.draws import draws
from tests.systems import a_target, build, check_option, lift_stage, pump

GOOD = {"loop_m": 2.0, "area_mm2": 10.0, "fuse_a": 40.0, "switch_a": 100.0}


def staged(first=None, second=None, **changes):
    """A pump that always runs and two that join at one boost, by what the circuits of the two are called."""
    groups = (
        pump(derate_pct=60, wiring=Wiring(**GOOD)),
        pump(id="g2", on_above_kpa=30, wiring=Wiring(**GOOD, **(first or {}))),
        pump(id="g3", on_above_kpa=30, wiring=Wiring(**GOOD, **(second or {}))),
    )
    return build(check_option(pumps=groups, **changes), a_target(power_kw=420, boost_kpa=200))


def silent(one):
    found = next(finding for finding in findings_of(one) if finding.code == "stage-silent")
    return found.values


@pytest.mark.parametrize("field", ["output", "relay", "fuse", "ground_point"])
def test_groups_that_share_fall_silent_together(field):
    one = staged({field: "K 2"}, {field: " k  2"})
    target, option = one.targets[0], one.options[0]
    lost = stages_of(one, option, (target,))
    (missing,) = lost.missing[0]
    assert missing.groups == (1, 2)
    assert lost.out == [None]
    wanted = field_demand_kg_s(one, option, target, np.array([target.rpm]), np.array([target.boost_kpa]))
    alone = solve_points(one, option, target, target.rpm, np.array([target.boost_kpa]), wanted, frozenset({"g2", "g3"}))
    assert missing.rail_kpa == pytest.approx(float(alone.hydraulics.rail_kpa[0]))
    assert "stages-out" not in codes(one)
    assert silent(one)["shared"].endswith("K 2")


def test_groups_of_their_own_fall_silent_one_by_one():
    one = staged({"relay": "R1", "fuse": "F1"}, {"relay": "R2", "fuse": "F2"})
    lost = stages_of(one, one.options[0], one.targets)
    assert [missing.groups for missing in lost.missing[0]] == [(1,), (2,)]
    assert lost.out[0].groups == (1, 2)
    assert shared_by(one.options[0]) == ()


def test_losing_what_is_shared_is_never_milder_than_losing_one_of_them():
    apart, shared = staged(), staged({"relay": "R"}, {"relay": "R"})
    worst = max(stages_of(apart, apart.options[0], apart.targets).missing[0], key=lambda one: one.lambda_factor)
    together = stages_of(shared, shared.options[0], shared.targets).missing[0][0]
    assert together.lambda_factor >= worst.lambda_factor
    assert together.safe_power_kw < worst.safe_power_kw


def test_a_shared_lift_stage_is_told():
    one = staged({"relay": "R"}, {"relay": "R"}, lift=lift_stage(1.5, wiring=Wiring(relay="R")))
    (shared,) = shared_by(one.options[0])
    assert (shared.groups, shared.lift, shared.pumps) == ((1, 2), True, 3)
    found = next(finding for finding in findings_of(one) if finding.code == "stage-silent")
    assert "surge tank" in found.text


def test_pumps_that_always_run_are_lost_with_what_they_share():
    def told(*relays):
        groups = tuple(
            pump(id=f"g{number}", wiring=Wiring(**GOOD, relay=relay)) for number, relay in enumerate(relays, start=1)
        )
        one = build(check_option(pumps=groups), a_target(power_kw=1000, boost_kpa=300))
        return next(finding for finding in findings_of(one) if finding.code == "pump-silent").values

    assert told("", "", "")["lost"] == "the largest"
    assert told("R", "R", "")["lost"] == "those on relay R"
    assert told("R", "R", "")["share_pct"] == pytest.approx(told("", "", "")["share_pct"] / 2.0)
    assert told("R", "R", "R")["lost"] == "the largest"  # all at once stops the engine: nobody needs telling


def test_one_fuse_carries_all_pumps_on_it():
    shared = build(check_option(pumps=(pump(count=2, wiring=Wiring(**GOOD, fuse="F")),)))
    apart = build(check_option(pumps=(pump(count=2, wiring=Wiring(**GOOD)),)))
    one, other = (circuits(each.options[0], judge_all(each, each.options[0]))[0] for each in (shared, apart))
    assert one.fused_a == pytest.approx(2.0 * other.fused_a)
    assert one.switched_a == pytest.approx(other.switched_a)
    assert "fuse below the current" not in other.problems
    loads = [judge(each, each.options[0], each.targets[0]).load("fuse").load for each in (shared, apart)]
    assert loads[0] == pytest.approx(2.0 * loads[1])


@given(
    st.lists(st.tuples(st.integers(1, 3), st.sampled_from(["", "A", "B"]), st.sampled_from(["", "A", "B"])), max_size=4),
    st.floats(10.0, 60.0),
)
@draws(25)
def test_loads_of_shared_circuits_are_those_of_the_circuits_told(drawn, fuse_a):
    groups = tuple(
        pump(id=f"g{at}", count=count, wiring=Wiring(loop_m=2.0, fuse_a=fuse_a, fuse=fuse, relay=relay))
        for at, (count, fuse, relay) in enumerate(drawn)
    ) or (pump(wiring=Wiring(loop_m=2.0, fuse_a=fuse_a)),)
    one = build(check_option(pumps=groups))
    verdict = judge(one, one.options[0], one.targets[0])
    found = circuits(one.options[0], (verdict,))
    assert verdict.load("fuse").load == pytest.approx(max(1.25 * each.fused_a / fuse_a for each in found))
    assert verdict.load("wiring").load == pytest.approx(
        max(
            max(each.largest_a / each.wire_carries_a, each.fused_a / fuse_a, each.switched_a / each.wiring.switch_a)
            for each in found
        )
    )
    assert float(verdict.points.hydraulics.amps[:, PEAK].max()) <= max(each.largest_a for each in found) + 1e-9


def test_the_first_remedy_of_a_shared_fuse_parts_the_circuits():
    wiring = Wiring(**GOOD | {"fuse_a": 20.0}, fuse="F")
    one = build(check_option(pumps=(pump(wiring=wiring), pump(id="g2", wiring=wiring))))
    found = next(finding for finding in findings_of(one) if finding.code == "fuse-small")
    after = apply(one, found.remedies[0].edits)
    assert shared_by(after.options[0]) == ()
    assert not {"fuse-small", "fuse-warm", "fuse-large"} & codes(after)


@pytest.mark.parametrize("field", ["output", "relay"])
def test_one_switch_cannot_switch_at_two_places(field):
    def car(*joins):
        groups = tuple(
            pump(id=f"s{at}", on_above_kpa=kpa, wiring=Wiring(**GOOD, **{field: "S"})) for at, kpa in enumerate(joins)
        )
        return build(check_option(pumps=(pump(), *groups)))

    assert "switch-shared" not in codes(car(30.0, 30.0))
    found = next(finding for finding in findings_of(car(30.0, 60.0)) if finding.code == "switch-shared")
    for remedy in found.remedies:
        assert "switch-shared" not in codes(apply(car(30.0, 60.0), remedy.edits))


def test_what_is_shared_is_bought_once():
    apart, shared = staged(), staged({"relay": "R", "fuse": "F"}, {"relay": "R", "fuse": "F"})

    def bought(one, what):
        option = one.options[0]
        return sum(row.count or 0 for row in parts_list(one, option, judge_all(one, option)) if what in row.part)

    for what in ("Fuse", "Relay"):
        assert bought(apart, what) - bought(shared, what) == 1
    assert parts_of_it(apart.options[0]).relays - parts_of_it(shared.options[0]).relays == 1
