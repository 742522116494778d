"""Mixing conserves volume and ethanol, never pours a negative or overflows; draining, cans, signals and proofs follow."""

from math import ceil, log, pi

import pytest
from hypothesis import assume, given
from hypothesis import strategies as st
from pydantic import ValidationError

from iron_gulp.core.judge import judge
from iron_gulp.core.model import EthanolSensor, Fill, Rail, apply
from iron_gulp.core.physics import (
    drain_to_blend,
    ethanol_signal,
    fill_to_blend,
    prove_sensor,
    read_ethanol_sensor,
    whole_cans,
)
from iron_gulp.core.solve import IDLE, PEAK
from iron_gulp.core.study import arrival, at_both_ends, tank_log
from tests.core.test_findings import codes, findings_of
from tests.draws import draws
from tests.garage import car
from tests.systems import build as built
from tests.systems import check_option, demo, line, split

pct = st.floats(0, 100)
litres = st.floats(1, 120)
share = st.floats(0, 1)


@draws(60)
@given(litres, share, pct, pct, pct, pct)
def test_filling_conserves_volume_and_ethanol(tank, held, held_pct, wanted, strong, weak):
    assume(strong > weak + 0.01)
    held = tank * held
    fill = fill_to_blend(tank, held, held_pct, wanted, strong, weak)
    assert fill.strong_l >= 0
    assert fill.weak_l >= -1e-9
    assert held + fill.strong_l + fill.weak_l == pytest.approx(tank, rel=1e-9)
    ethanol = held * held_pct + fill.strong_l * strong + fill.weak_l * weak
    assert ethanol == pytest.approx(tank * fill.reached_pct, rel=1e-9, abs=1e-7)
    assert fill.reachable == (fill.lowest_pct - 1e-9 <= wanted <= fill.highest_pct + 1e-9)


@draws(60)
@given(litres, st.floats(0, 0.9), pct, pct, st.floats(1, 100), st.floats(0, 0.99), st.floats(1, 12))
def test_whole_cans_never_overflow_and_no_other_pour_comes_nearer(tank, held, held_pct, wanted, strong, weaker, cans):
    held, weak = tank * held, strong * weaker
    can = (tank - held) / cans
    pour = whole_cans(tank, held, held_pct, wanted, strong, weak, can)
    assert held + pour.strong_l + pour.weak_l <= tank + 1e-6
    whole = held + pour.strong_l + pour.weak_l
    ethanol = held * held_pct + pour.strong_l * strong + pour.weak_l * weak
    assert ethanol == pytest.approx(whole * pour.reached_pct, rel=1e-9, abs=1e-7)
    most = int((tank - held) / can + 1e-9)
    for s in range(most + 1):
        for w in range(most + 1 - s):
            volume = held + (s + w) * can
            if volume > 0:
                other = (held * held_pct + can * (s * strong + w * weak)) / volume
                assert abs(pour.reached_pct - wanted) <= abs(other - wanted) + 1e-8


@draws(60)
@given(litres, share, pct, pct, pct)
def test_draining_leaves_what_filling_brings_to_the_blend(tank, held, held_pct, wanted, fill):
    held = tank * held
    found = drain_to_blend(tank, held, held_pct, wanted, fill, 20.0, 200.0, 10.0)
    assert -1e-9 <= found.keep_l <= held + 1e-9
    assert found.keep_l + found.drain_l == pytest.approx(held)
    assert found.keep_l <= found.level_l + 1e-9 <= tank + 2e-9
    assert found.minutes == pytest.approx(found.drain_l / 200 * 60)
    assert found.cans == ceil(found.drain_l / 20 - 1e-9)
    between = min(held_pct, fill) - 1e-9 <= wanted <= max(held_pct, fill) + 1e-9
    assert found.reachable == between
    if between and held > 0 and abs(held_pct - fill) > 0.01:
        mixed = (found.keep_l * held_pct + (found.level_l - found.keep_l) * fill) / max(found.level_l, 1e-12)
        if found.level_l > 1e-6:
            assert mixed == pytest.approx(wanted, abs=1e-6)


def test_a_tank_brought_down_by_hand():
    """60 L with 40 L of E78, wanted E30 with E10: 60 × (30 − 10) ÷ (78 − 10) = 17.65 L may stay."""
    found = drain_to_blend(60, 40, 78, 30, 10, 20, 200, 12)
    assert found.keep_l == pytest.approx(17.647, abs=1e-3)
    assert found.drain_l == pytest.approx(22.353, abs=1e-3)
    assert (found.cans, found.level_l) == (2, pytest.approx(60))
    assert found.ampere_h == pytest.approx(22.353 / 200 * 12, abs=1e-3)
    little = drain_to_blend(60, 10, 78, 30, 10, 20, 200, 12)
    assert (little.drain_l, little.level_l) == (pytest.approx(0), pytest.approx(34))
    assert not drain_to_blend(60, 40, 78, 90, 10, 20, 200, 12).reachable


@draws(40)
@given(pct, st.floats(-40, 125), st.floats(0, 2), st.floats(2.5, 5))
def test_a_signal_told_reads_back(ethanol, temp, zero, full):
    signal = ethanol_signal(ethanol, temp, zero, full)
    reading = read_ethanol_sensor(signal.frequency_hz, signal.pulse_ms, zero, full)
    assert reading.ethanol_pct == pytest.approx(ethanol, abs=1e-9)
    assert reading.temp_c == pytest.approx(temp, abs=1e-6)
    assert reading.output_v == pytest.approx(signal.output_v)


@pytest.mark.parametrize(("read", "passes"), [(52, True), (53, True), (53.5, False), (46, False)])
def test_a_sensor_is_proven_against_a_known_mix(read, passes):
    found = prove_sensor(1, 0, 1, 100, read, 3)
    assert (found.expected_pct, found.off_points, found.passes) == (50, read - 50, passes)


@pytest.mark.parametrize(
    "wrong",
    [
        lambda: ethanol_signal(120, 20),
        lambda: ethanol_signal(50, 200),
        lambda: prove_sensor(0, 10, 0, 20, 15, 3),
        lambda: whole_cans(60, 58, 10, 50, 85, 10, 5),
        lambda: whole_cans(60, 8, 10, 50, 85, 10, 0),
        lambda: drain_to_blend(60, 70, 78, 30, 10, 20, 200, 12),
        lambda: drain_to_blend(60, 40, 78, 30, 10, 0, 200, 12),
    ],
)
def test_what_cannot_be_is_refused_in_words(wrong):
    with pytest.raises(ValueError, match=r"\w+ \w+"):
        wrong()


def test_a_new_blend_arrives_by_volume_over_flow():
    """Without a surge tank: the feed, its filter and the rail pass it on as it comes."""
    build = demo("dunlin")
    verdict = judge(build, build.option("port"), build.targets[0])
    option, found = verdict.option, arrival(verdict)
    feed = option.feed
    line_l = pi / 4 * (feed.part.bore_mm / 100) ** 2 * feed.length_m * 10 + 0.3
    pumps_l_min = float(verdict.points.hydraulics.supply_m3_s[1]) * 60e3
    assert option.suction.line is None
    assert found.sensor_idle_min == pytest.approx(line_l / pumps_l_min, rel=1e-6)
    assert found.rail_idle_min > found.sensor_idle_min
    curlew = demo("curlew")
    surge = judge(curlew, curlew.options[0], curlew.targets[0])
    stirred = log(20) * surge.option.lift.surge_l / (surge.lift.flow_m3_s * 60e3)
    assert arrival(surge).sensor_load_min > stirred


def test_past_the_high_pressure_pump_a_new_blend_moves_by_what_is_injected():
    """At idle that is a cup of coffee's time: 120 cc at about a litre an hour, not the seconds the feed takes."""
    build = demo("dunlin")
    verdict = judge(build, build.option("as-found"), build.targets[0])
    option, direct, found = verdict.option, verdict.points.direct, arrival(verdict)
    high = option.high_side
    for at, minutes, before in (
        (IDLE, found.rail_idle_min, found.sensor_idle_min),
        (PEAK, found.rail_load_min, found.sensor_load_min),
    ):
        l_min = [float(pump.delivered_kg_s[at]) / verdict.fuel.density_kg_m3 * 60e3 for pump in direct.pumps]
        lines = [pi / 4 * (one.part.bore_mm / 100) ** 2 * one.length_m * 10 for one in high.branches]
        rail = high.rail_volume_cc / 1e3 / (sum(l_min) / high.banks)
        if high.feed == "series":
            way = lines[0] / sum(l_min) + lines[1] / l_min[1]
        else:
            way = max(litres / flow for litres, flow in zip(lines, l_min, strict=True))
        assert minutes == pytest.approx(before + way + rail, rel=1e-6)
    assert found.rail_idle_min > 2.0
    assert found.rail_load_min < 0.5


def test_a_branch_is_passed_at_its_own_flow_and_a_sensor_reads_where_it_sits():
    """At idle a dead-ended branch passes half of what the engine burns; a return that flows passes on what is left."""
    legs = {"split": split(line(8.0, 1.0, 0.0), line(8.0, 1.0, 0.0)), "rail": Rail(count=2)}

    def told(place, arrangement="returnless, speed-controlled"):
        option = check_option(1, ethanol_sensor=EthanolSensor(place=place, length_m=0.0), **legs)
        regulator = option.regulator.model_copy(update={"arrangement": arrangement})
        one = built(option.model_copy(update={"regulator": regulator}))
        return judge(one, one.options[0], one.targets[0])

    feed, branch = told("in the feed, before the split"), told("in one branch")
    half = float(branch.points.hydraulics.delivered_m3_s[IDLE]) * 60e3 / 2
    more = arrival(branch).sensor_idle_min - arrival(feed).sensor_idle_min
    assert more == pytest.approx(pi / 4 * 0.08**2 * 10 / half, rel=1e-3)
    assert arrival(told("in the return")).sensor_idle_min is None
    flowing = told("in the return", "bypass after the rail")
    assert arrival(flowing).sensor_idle_min == pytest.approx(arrival(flowing).rail_idle_min)


def test_both_ends_of_the_season_are_judged_for_strong_targets_alone():
    build = demo("curlew")
    found = at_both_ends(build, build.options[0], build.targets)
    assert [one.name for one, _, _ in found] == [one.name for one in build.targets if one.ethanol_pct >= 51]
    for target, weak, strong in found:
        assert (weak.target.ethanol_pct, strong.target.ethanol_pct) == (51, 83)
        again = judge(build, build.options[0], target.model_copy(update={"ethanol_pct": 83.0, "vapour_kpa_abs": None}))
        assert strong.first_out.load == pytest.approx(again.first_out.load)


@draws(40)
@given(st.lists(st.tuples(litres, st.floats(0, 1), pct, st.one_of(st.none(), pct)), min_size=1, max_size=8))
def test_the_fill_log_keeps_ethanol_and_restarts_from_what_was_measured(steps):
    fills, level = [], 0.0
    for number, (poured, left, percent, read) in enumerate(steps):
        fills.append(Fill(id=f"f{number}", left_l=left * level, poured_l=poured, poured_pct=percent, measured_pct=read))
        level = left * level + poured
    held = None
    for fill, one in zip(fills, tank_log(fills), strict=True):
        assert one.level_l == pytest.approx(fill.left_l + fill.poured_l)
        if fill.left_l <= 1e-9:
            assert one.computed_pct == pytest.approx(fill.poured_pct, abs=1e-6)
        else:
            ethanol = held * fill.left_l + fill.poured_pct * fill.poured_l
            assert one.computed_pct * one.level_l == pytest.approx(ethanol, rel=1e-9, abs=1e-9)
        held = one.computed_pct if fill.measured_pct is None else fill.measured_pct
        assert one.held_pct == held
        if fill.measured_pct is not None:
            assert one.parted == (abs(fill.measured_pct - one.computed_pct) > 5)


def test_a_tank_of_unknown_fuel_is_known_from_the_first_measurement_on():
    fills = [
        Fill(id="a", left_l=10, poured_l=30, poured_pct=85),
        Fill(id="b", left_l=10, poured_l=30, poured_pct=85, measured_pct=80),
        Fill(id="c", left_l=20, poured_l=20, poured_pct=10),
    ]
    first, second, third = tank_log(fills)
    assert (first.computed_pct, first.held_pct) == (None, None)
    assert (second.computed_pct, second.held_pct, second.off_points) == (None, 80, None)
    assert third.computed_pct == pytest.approx(45)


@pytest.mark.parametrize("wrong", [{"day": "31.5.2026"}, {"left_l": -1}, {"poured_pct": 120}, {"measured_pct": 101}])
def test_a_wrong_fill_is_refused(wrong):
    with pytest.raises(ValidationError):
        Fill(**{"id": "a", "left_l": 1, "poured_l": 2, "poured_pct": 10, **wrong})


def graded(*told):
    """Fills of (left, poured, grade, scale)."""
    return tank_log(
        [
            Fill(id=f"f{number}", left_l=left, poured_l=poured, poured_pct=10, grade=grade, grade_system=scale)
            for number, (left, poured, grade, scale) in enumerate(told)
        ]
    )


def test_the_tanks_grade_is_the_lowest_of_any_tenth_and_unsaid_or_mixed_scales_give_none():
    assert graded((0, 40, 98, "RON"))[-1].grade == (98, "RON")
    assert graded((0, 40, 95, "RON"), (20, 20, 100, "RON"))[-1].grade == (95, "RON")
    # 4 of 40 litres are a tenth, 3.9 are not.
    assert graded((0, 40, 95, "RON"), (4, 36, 100, "RON"))[-1].grade == (95, "RON")
    assert graded((0, 40, 95, "RON"), (3.9, 36.1, 100, "RON"))[-1].grade == (100, "RON")
    # Twice filled on a half, a quarter is left of the first.
    twice = graded((0, 40, 95, "RON"), (20, 20, 98, "RON"), (20, 20, 100, "RON"))
    assert {grade: share for grade, _, share in twice[-1].grades} == {95: 0.25, 98: 0.25, 100: 0.5}
    assert graded((5, 35, 98, "RON"))[-1].grade is None
    assert graded((0, 40, None, "RON"))[-1].grade is None
    mixed = graded((0, 40, 95, "RON"), (20, 20, 93, "(R+M)/2"))[-1]
    assert mixed.grade is None


@pytest.mark.parametrize(
    ("grade", "when", "found"), [(95, "now", True), (98, "now", False), (100, "now", False), (95, "later", False)]
)
def test_a_fill_below_the_grade_of_a_target_that_runs_now_is_a_stop(grade, when, found):
    build = car("Naturally aspirated six")
    told = apply(build, [("targets/t1/fuel_grade", 98), ("targets/t1/when", when)])
    fills = (Fill(id="f1", left_l=0, poured_l=40, poured_pct=5, grade=grade),)
    assert ("grade-low" in codes(told.model_copy(update={"fills": fills}))) == found


def test_of_several_targets_the_one_that_asks_for_most_names_the_grade():
    build = car("Naturally aspirated six")
    first = build.targets[0].model_copy(update={"fuel_grade": 98.0})
    others = tuple(first.model_copy(update={"id": f"t{n}", "name": f"At {n}", "fuel_grade": n}) for n in (96, 100))
    fills = (Fill(id="f1", left_l=0, poured_l=40, poured_pct=5, grade=97),)
    one = build.model_copy(update={"targets": (first, *others), "fills": fills})
    found = next(each for each in findings_of(one) if each.code == "grade-low")
    assert (found.values["target_name"], found.values["wanted"], found.values["grade"]) == ("At 100", "100", "97")
    assert found.targets == (first.name, "At 100")
