"""A voltage booster: what its pumps see, what goes into it, when it works, and the rules about it."""

import numpy as np
import pytest

from iron_gulp.core.judge import circuits, judge, judge_many
from iron_gulp.core.model import apply
from iron_gulp.core.plan import Locks, Search
from iron_gulp.core.plan.costs import bill
from iron_gulp.core.plan.design import front_of
from iron_gulp.core.solve import IDLE, PEAK
from tests.core.test_design import MODEST, run, tried
from tests.core.test_findings import codes, findings_of
from tests.core.test_upgrade import RATES, later
from tests.draws import LONG
from tests.garage import CARS, car
from tests.systems import demo


def boosted(build, volts=17.0, **more):
    option = build.options[0]
    place = f"options/{option.id}/pumps/{option.pumps[0].id}"
    fields = {"booster_v": volts, "booster_from_kpa": 30.0, "booster_a": 60.0, **more}
    return apply(build, [(f"{place}/{name}", value) for name, value in fields.items()])


@pytest.mark.parametrize("name", ["Mild triple", "Returnless on E30", "Four on a strong blend, referenced"])
def test_pumps_behind_a_booster_are_those_of_a_battery_that_holds_as_much(name):
    """With every pump boosted all the time, nothing of the pumps tells it from a stronger battery."""
    build = car(name)
    option, target = build.options[0], build.targets[0]
    fed = {"booster_v": 16.0, "booster_from_kpa": None}
    groups = tuple(one.model_copy(update=fed) for one in option.pumps)
    high = target.model_copy(update={"supply_v": 16.0})
    one = judge(build, option.model_copy(update={"pumps": groups}), target).points.hydraulics
    other = judge(build, option, high).points.hydraulics
    for field in ("volts", "amps", "group_flow_m3_s", "supply_at_set_m3_s", "rail_kpa"):
        assert getattr(one, field) == pytest.approx(getattr(other, field), rel=2e-3), field


def test_it_works_from_its_boost_on_and_not_at_idle():
    build = car("Mild triple")
    plain, raised = (judge(one, one.options[0], one.targets[0]).points.hydraulics for one in (build, boosted(build)))
    assert raised.volts[0, PEAK] > plain.volts[0, PEAK] + 1.5
    assert raised.volts[0, IDLE] == pytest.approx(plain.volts[0, IDLE])
    never = boosted(build, booster_from_kpa=590.0)
    hyd = judge(never, never.options[0], never.targets[0]).points.hydraulics
    assert hyd.volts == pytest.approx(plain.volts)


def test_many_points_and_few_are_solved_alike():
    from iron_gulp.core.solve import solve_points

    build = boosted(demo("curlew"))
    option, target = build.options[0], build.targets[1]
    rng = np.random.default_rng(3)
    kpa = rng.uniform(-60, 160, 600)
    rpm, fuel = np.full(600, 6000.0), rng.uniform(0.002, 0.03, 600)
    many = solve_points(build, option, target, rpm, kpa, fuel).hydraulics
    for at in range(0, 600, 37):
        one = solve_points(build, option, target, rpm[at : at + 1], kpa[at : at + 1], fuel[at : at + 1]).hydraulics
        assert one.volts[0, 0] == pytest.approx(many.volts[0, at], rel=1e-3)
        assert one.supply_m3_s[0] == pytest.approx(many.supply_m3_s[at], rel=2e-3)


def test_what_goes_in_is_more_than_what_comes_out():
    build = boosted(car("Mild triple"), booster_pct=80.0)
    option, target = build.options[0], build.targets[0]
    group = option.pumps[0]
    assert group.source_v(target.supply_v, target.boost_kpa) == 17.0
    assert group.source_v(target.supply_v, 0.0) == target.supply_v
    share = 17.0 / target.supply_v / 0.8
    assert group.input_share(target.supply_v, target.boost_kpa) == pytest.approx(share)
    verdicts = tuple(judge_many([(build, option, one) for one in build.targets]))
    circuit = circuits(option, verdicts, build.rules)[0]
    amps = max(float(one.points.hydraulics.amps[0, at]) for one in verdicts for at in (PEAK, IDLE))
    assert circuit.least_fuse_a == pytest.approx(1.25 * amps * share)
    fused = judge(build, option, target).load("fuse").load
    assert fused >= 1.25 * amps * share / group.wiring.fuse_a - 1e-9
    assert circuit.boosted


def test_no_car_without_a_booster_is_told_of_one():
    for name in CARS:
        assert not [code for code in codes(car(name)) if code.startswith("booster")]


@pytest.mark.parametrize(
    ("changes", "code"),
    [
        ({"booster_a": 3.0}, "booster-weak"),
        ({"volts": 19.0}, "booster-past-table"),
        ({"booster_from_kpa": 590.0}, "booster-silent"),
        ({"volts": 13.0}, "booster-silent"),
    ],
)
def test_each_rule_speaks_and_its_remedy_cures(changes, code):
    sane = boosted(car("Mild triple"), volts=14.6, booster_from_kpa=10.0)
    assert not [one for one in codes(sane) if one.startswith("booster")]
    wrong = boosted(car("Mild triple"), **{"volts": 14.6, "booster_from_kpa": 10.0, **changes})
    assert code in codes(wrong)
    remedy = next(one for one in findings_of(wrong) if one.code == code).remedies[0]
    if remedy.edits:
        assert code not in codes(apply(wrong, remedy.edits))


def test_a_booster_has_its_price_and_counts_as_a_controller_that_may_fail_unseen():
    from iron_gulp.core.plan import parts_of_it

    plain = car("Mild triple")
    with_it = boosted(plain).options[0]
    before, after = parts_of_it(plain.options[0]), parts_of_it(with_it)
    assert after.controllers == before.controllers + 1
    assert "voltage booster" in after.silent
    rows = bill(plain, plain.options[0], with_it, RATES).rows
    assert [(one.what, one.each) for one in rows] == [("Voltage booster", RATES.booster)]


@pytest.mark.skipif(not LONG, reason="tries everything")
def test_a_search_may_use_one_or_a_pump_in_line_and_still_finds_the_true_front():
    build = apply(later(), [("targets/t2/power_kw", 150.0)])
    locks = Locks(keep=("injectors", "filter", "regulator"), returns="with a return", most_pumps=2)
    plain, helped = locks, locks.model_copy(update={"booster": "where it helps"})
    fronts = []
    for one in (plain, helped):
        search = Search(build, build.options[0], MODEST, RATES, one, build.options[0])
        front, every = run(search).front, tried(search)
        true = [every[at][0] for at in front_of([score for score, _ in every])]
        assert sorted(each.score for each in front) == sorted(true)
        fronts.append(every)
    assert any(option.pumps[0].booster_v for _, option in fronts[-1])
    assert any(option.pumps[-1].place != "in parallel" for _, option in fronts[-1])
    assert len(fronts[0]) < len(fronts[1])
