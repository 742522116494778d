"""Roads as whole systems: what the hardware of a road alone does not carry, its lines, regulator and pumps do."""

from dataclasses import replace

import pytest

from iron_gulp.core.advise import find_troubles
from iron_gulp.core.model import Catalogue, Rates, apply
from iron_gulp.core.plan import Search, headroom_of, recommended, roads, whole_road, within
from iron_gulp.core.plan.whole_roads import lock_of
from iron_gulp.shelf import load_shelf
from tests.draws import LONG
from tests.systems import demo

pytestmark = pytest.mark.xdist_group("roads")
SHELF = load_shelf().catalogue
RATES = Rates()


def few(parts, *ids):
    return tuple(one for one in parts if one.shelf_id in ids)


SMALL = Catalogue(
    pumps=few(SHELF.pumps, "pump-250"),
    injectors=few(SHELF.injectors, "inj-250", "inj-400"),
    lines=few(SHELF.lines, "ptfe-6", "ptfe-8", "ptfe-10"),
    regulators=few(SHELF.regulators, "reg-250", "reg-630"),
    filters=few(SHELF.filters, "filter-glass-10-500", "filter-glass-10-1250"),
    high_pumps=few(SHELF.high_pumps, "hp-125", "hp-160"),
    direct_injectors=few(SHELF.direct_injectors, "di-1600", "di-2000"),
)


@pytest.fixture(scope="module")
def throttled():
    """Dunlin with a feed no larger hardware helps: the lines of the shelf do."""
    build = demo("dunlin")
    return apply(build, [("options/as-found/feed/part/bore_mm", 4.6)])


def searched(build, before, catalogue):
    return lambda option, locks: Search(build, option, catalogue, RATES, locks, before)


@pytest.fixture(scope="module")
def found(throttled):
    option = throttled.option("as-found")
    quick = {one.kind: one for one in roads(throttled, option, SMALL, RATES)}
    kinds = ("direct", "port") if LONG else ("port",)
    whole = {kind: whole_road(option, quick[kind], searched(throttled, option, SMALL), RATES) for kind in kinds}
    return quick, whole


def test_what_larger_hardware_alone_does_not_carry_a_whole_system_does(throttled, found):
    quick, whole = found
    for kind, road in whole.items():
        was = quick[kind]
        # Its feed is outside the rule of the shop, or it does not carry: none would sign it.
        assert find_troubles(throttled, was.option, list(was.verdicts), SMALL)
        assert road.carries
        assert headroom_of(road.verdicts) >= throttled.rules.headroom_pct / 100 - 1e-9
        assert road.option.feed.part.bore_mm > 5.0
        assert any(row.what.startswith(road.option.feed.part.name) for row in road.bill.rows)
        assert find_troubles(throttled, road.option, list(road.verdicts), SMALL) == []


@pytest.mark.skipif(not LONG, reason="searches again")
def test_it_is_what_the_search_finds_under_the_same_lock(throttled, found):
    quick, whole = found
    option = throttled.option("as-found")
    for kind, road in whole.items():
        search = searched(throttled, option, SMALL)(quick[kind].option, lock_of(quick[kind]))
        for _ in search.run(first_only=True):
            pass
        assert road.bill.total == pytest.approx(search.found.best.bill.total, rel=0.02)  # but for a wire as proposed


def test_a_quick_road_that_can_be_signed_and_costs_no_more_stays():
    build = demo("dunlin")
    option = build.option("as-found")
    quick = next(one for one in roads(build, option, SMALL, RATES) if one.kind == "port")
    assert whole_road(option, quick, searched(build, option, SMALL), RATES) is quick
    dear = replace(quick, bill=replace(quick.bill, calibration_h=quick.bill.calibration_h + 10.0))
    if LONG:
        cheaper = whole_road(option, dear, searched(build, option, SMALL), RATES)
        assert cheaper.bill.total < dear.bill.total
    assert whole_road(option, dear, searched(build, option, SMALL), RATES, stop=lambda: True) is dear
    blend = replace(quick, kind="blend")
    assert whole_road(option, blend, searched(build, option, SMALL), RATES) is blend


def test_a_lock_keeps_what_the_road_is_not_about():
    build = demo("dunlin")
    quick = {one.kind: one for one in roads(build, build.option("as-found"), SMALL, RATES)}
    assert set(lock_of(quick["port"]).keep) == {"high-pressure pumps", "direct injectors"}
    assert lock_of(quick["both"]).keep == lock_of(quick["port"]).keep
    assert lock_of(quick["direct"]).keep == ()
    assert lock_of(quick["direct"]).returns == "with a return"


def test_prices_count_against_what_is_fitted_today_where_that_was_said():
    build = demo("dunlin")
    option, before = build.option("as-found"), build.option("direct")
    plain = {one.kind: one.bill.total for one in roads(build, option, SMALL, RATES)}
    had = {one.kind: one.bill.total for one in roads(build, option, SMALL, RATES, before)}
    assert had["both"] < plain["both"]  # its pump is there already


def test_the_recommendation_says_what_is_safe_until_then_and_where_the_air_ends():
    build = demo("dunlin")
    option = build.option("as-found")
    found = roads(build, option, SMALL, RATES)
    said = recommended(build, found, RATES)
    safe = [one.target for one in found[0].verdicts if within(one)]
    assert said.values["safe"] == max(safe, key=lambda one: one.power_kw).name
    assert any("{safe}" in step for step in said.steps)
    best = next(one for one in found if one.kind == said.kind)
    hardest = max(best.verdicts, key=lambda one: one.load("engine").load)
    assert said.values["air_kw"] == pytest.approx(hardest.demand.air_limited_power_kw)
    assert any("{air_kw}" in step for step in said.steps)
    assert "arrives" not in said.values  # no part of the generic shelf says when it comes

    def dated(road):
        return replace(road, bill=replace(road.bill, rows=tuple(replace(one, lead_days=9) for one in road.bill.rows)))

    assert recommended(build, [dated(one) for one in found], RATES).values["arrives"] == "9 days"


@pytest.mark.skipif(not LONG, reason="searches twice over")
def test_where_a_return_carries_nothing_the_road_may_do_without_one(throttled, found):
    """With no regulator to be had that lets so much back, the pumps' speed holds the pressure."""
    quick, _ = found
    option = throttled.option("as-found")
    none = replace(SMALL, regulators=(), pumps=(*SMALL.pumps, *few(SHELF.pumps, "pump-brushless-500")))
    road = whole_road(option, quick["port"], searched(throttled, option, none), RATES)
    assert road.carries
    assert road.option.regulator.arrangement == "returnless, speed-controlled"
    assert find_troubles(throttled, road.option, list(road.verdicts), none) == []
