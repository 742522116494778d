"""A limit is where a system stops working; a rule is a habit of the shop: never sold as the other (physics §6)."""

from collections import Counter

import pytest

from iron_gulp.core.advise import find
from iron_gulp.core.judge import judge, judge_all
from iron_gulp.core.model import LIMITS, RESERVED, RULES, Filter, FilterPart, Regulator, RegulatorPart, Wiring, apply
from iron_gulp.core.plan.design.ease import PLAIN
from iron_gulp.core.plan.design.holding import broken, headroom_of, waived
from iron_gulp.core.solve import wire_carries_a, wire_for_mm2
from iron_gulp.core.study import chances, envelope, worth
from iron_gulp.shelf import load_shelf
from tests.draws import LONG
from tests.garage import CARS, car
from tests.systems import a_target, build, check_option, demo, lift_stage, line, pump

CATALOGUE = load_shelf().catalogue
FINE = Filter(part=FilterPart(name="f", rated_flow_l_h=150, rated_drop_kpa=4, grade_um=10))
SHORT = Wiring(loop_m=4, connectors_mohm=5, area_mm2=4, fuse_a=15)  # 13 A and more through a fuse of 15 A
THIN = Wiring(loop_m=12, connectors_mohm=60, area_mm2=4.0, fuse_a=25)
WIDE = line(16.0, 4.2, 5.0)
AMPLE = Regulator(part=RegulatorPart(name="r", capacity_l_h=900, capacity_drop_kpa=100), base_kpa=300)
# A system that works, with one rule not kept.
OUTSIDE = {
    "feed": lambda: check_option(1, feed=line(4.6, 4.5, 4.0), return_line=WIDE, regulator=AMPLE),
    "return": lambda: check_option(1, regulator=AMPLE),
    "filter": lambda: check_option(1, filter=FINE, return_line=WIDE, regulator=AMPLE),
    "fuse": lambda: check_option(pumps=(pump(wiring=SHORT),), return_line=WIDE, regulator=AMPLE),
    "wire drop": lambda: check_option(pumps=(pump(wiring=THIN),), return_line=WIDE, regulator=AMPLE),
}
MODEST = {"power_kw": 170.0, "boost_kpa": 60.0, "ethanol_pct": 10.0}


def findings(one):
    return find(one, one.options[0], judge_all(one, one.options[0]), CATALOGUE)


@pytest.mark.parametrize("rule", OUTSIDE)
def test_a_rule_that_is_not_kept_ends_nothing(rule):
    one = build(OUTSIDE[rule](), a_target(**MODEST))
    option, target = one.options[0], one.targets[0]
    verdict = judge(one, option, target)
    assert verdict.load(rule).load > 1.0
    assert verdict.load(rule).status == "outside"
    assert [load.component for load in verdict.outside] == [rule]
    assert verdict.first_out.component in LIMITS
    assert verdict.status in ("ok", "close")
    assert verdict.load(rule).ceiling_kw is None
    assert rule not in {component for component, _ in worth(verdict).order}
    found = envelope(one, option, target)
    assert rule not in found.curves
    assert rule not in found.limiting
    assert headroom_of([verdict]) > 0
    assert broken([verdict], PLAIN, frozenset()) == rule
    assert broken([verdict], PLAIN, waived(("lines", "filter", "pumps"))) is None
    odds = chances(one, option, 200).of(target.id)
    assert odds.first_out in LIMITS
    assert odds.carried == pytest.approx(float((over_in(odds, LIMITS) == 0).mean()))
    assert not [each for each in findings(one) if each.severity == "stop"]


def over_in(odds, components):
    """How many of some loads are past 1 in each draw."""
    return sum((load > 1.0).astype(int) for one, load in odds.loads.items() if one in components)


def test_every_load_is_a_limit_or_a_rule_and_headroom_is_asked_of_pumps_wiring_and_the_high_side():
    assert not set(LIMITS) & set(RULES)
    assert set(RULES) == set(OUTSIDE)
    assert set(RESERVED) == {"pumps", "wiring", "high-pressure pump", "direct injectors", "high-pressure inlet"}


def test_a_load_reads_close_where_its_headroom_is_less_than_wanted():
    one = build(check_option(), a_target(**MODEST | {"power_kw": 530.0}))
    at_rest = judge(one, one.options[0], one.targets[0]).load("pumps")
    wanted = 1.0 / at_rest.load - 1.0
    for share, status in ((0.999, "ok"), (1.001, "close")):
        changed = apply(one, [("rules/headroom_pct", wanted * share * 100.0)])
        assert judge(changed, changed.options[0], changed.targets[0]).load("pumps").status == status


def test_least_headroom_is_of_what_it_is_asked_of_and_what_else_is_past_its_limit_does_not_carry():
    one = demo("curlew")
    option = one.options[0]
    for verdict in judge_all(one, option):
        past = [load.load for load in verdict.loads if load.component in LIMITS and load.load > 1.0]
        past = [load for load in past if load and load != verdict.load("engine").load]
        asked = [load.load for load in verdict.loads if load.component in RESERVED]
        assert headroom_of([verdict]) == pytest.approx(1.0 / max([*past, *asked]) - 1.0)


@pytest.mark.parametrize("seed", range(40 if LONG else 3))
def test_the_lift_pumps_wire_is_judged_by_the_shops_rule_as_well(seed):
    """The circuit that loses most decides, be it the lift pump's."""
    loop = 5.0 + seed
    lift = lift_stage(9.0, wiring=Wiring(loop_m=loop, connectors_mohm=200, area_mm2=1.0, fuse_a=25))
    one = build(check_option(lift=lift), a_target(**MODEST))
    (verdict,) = judge_all(one, one.options[0])
    ohm = 1.724e-8 * loop / 1e-6 + 0.200
    assert verdict.load("wire drop").load == pytest.approx(verdict.lift.amps * ohm / 0.5, rel=1e-6)
    (said,) = (each for each in findings(one) if each.code == "wiring-drop")
    assert said.values["circuit"].startswith("Lift pump")
    remedy = next(each for each in said.remedies if each.edits)
    cured = apply(one, remedy.edits)
    assert "wiring-drop" not in {each.code for each in findings(cured)}


def test_below_forty_amperes_no_wire_is_made_thicker_than_ten_for_volts_alone():
    poor = Wiring(loop_m=6.0, connectors_mohm=9.0)
    assert wire_for_mm2(poor, 25.0, 30.0, 0.5) == 10.0
    assert wire_for_mm2(Wiring(loop_m=9.0), 41.0, 50.0, 0.5) > 10.0
    hot = Wiring(loop_m=6.0, copper_temp_c=85.0)
    area = wire_for_mm2(hot, 39.0, 50.0, 0.5)
    assert wire_carries_a(hot, area) >= 50.0  # what carries its fuse is no matter of volts


def test_a_fuse_above_eighty_per_cent_is_a_note_and_past_its_rating_a_stop():
    for fuse, severity, code in ((20.0, "note", "fuse-warm"), (10.0, "stop", "fuse-small")):
        one = build(
            check_option(pumps=(pump(wiring=SHORT.model_copy(update={"fuse_a": fuse}), count=2),)), a_target(**MODEST)
        )
        said = {each.code: each.severity for each in findings(one)}
        assert said[code] == severity
        (verdict,) = judge_all(one, one.options[0])
        assert (verdict.load("wiring").load > 1.0) == (severity == "stop")


OFTEN = {"free-flow-rating", "feed-large", "pumps-large", "injectors-large", "return-pressure"}


def test_a_note_that_would_ring_on_nearly_every_car_rings_on_one_in_six_at_most():
    """And is raised by a fault of some car (test_garage)."""
    rings = Counter()
    for name in CARS:
        one = car(name)
        said = {each.code for each in find(one, one.options[0], judge_all(one, one.options[0]), CATALOGUE)}
        rings.update(said & OFTEN)
    assert all(count <= len(CARS) / 6 for count in rings.values()), rings


def test_the_next_size_of_a_line_is_not_the_same_size_with_another_bore():
    for part in CATALOGUE.lines:
        for larger in (True, False):
            other = CATALOGUE.line_next(part, larger)
            assert other is None or not part.size or other.size != part.size


def test_a_fixed_filter_regulator_is_not_told_to_follow_the_manifold():
    """On a boosted engine the remedy is a regulator that has a port, where this one cannot be referenced."""
    part = next(one for one in CATALOGUE.regulators if one.shelf_id == "reg-filter-300")
    fixed = Regulator(part=part, base_kpa=300.0, reference="atmosphere", arrangement="bypass near the tank")
    one = build(check_option(regulator=fixed), a_target(power_kw=300.0, boost_kpa=220.0, ethanol_pct=10.0))
    (said,) = (each for each in findings(one) if each.code == "fixed-reference")
    assert "lean" in said.values["lean"]
    remedies = [each for each in said.remedies if each.edits]
    assert remedies
    for remedy in remedies:
        after = apply(one, remedy.edits)
        regulator = after.options[0].regulator
        assert (regulator.reference, regulator.part.works) == ("manifold", "by bypass")
        assert not {each.code for each in findings(after)} & {"fixed-reference", "no-reference-port", "regulator-overrun"}
