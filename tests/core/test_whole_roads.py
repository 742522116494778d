"""Roads as whole systems: what the hardware of a road alone does not carry, its lines, regulator and pumps do."""

from dataclasses import replace

import pytest

from iron_gulp.core.advise import find_troubles
from iron_gulp.core.model import Catalogue, Rates, apply
from iron_gulp.core.plan import Search, headroom_of, recommended, roads, whole_road, within
from iron_gulp.core.plan.roads import on_blend
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


def searched(before, catalogue):
    return lambda build, option, locks: Search(build, option, catalogue, RATES, locks, before)


@pytest.fixture(scope="module")
def dunlin():
    return demo("dunlin")


@pytest.fixture(scope="module")
def today(dunlin):
    """The roads from Dunlin as found, by kind."""
    return {one.kind: one for one in roads(dunlin, dunlin.option("as-found"), SMALL, RATES)}


@pytest.fixture(scope="module")
def found(throttled):
    option = throttled.option("as-found")
    quick = {one.kind: one for one in roads(throttled, option, SMALL, RATES)}
    kinds = ("direct", "port") if LONG else ("port",)
    whole = {kind: whole_road(throttled, option, quick[kind], searched(option, SMALL), RATES) for kind in kinds}
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
        search = searched(option, SMALL)(throttled, quick[kind].option, lock_of(quick[kind]))
        for _ in search.run(first_only=True):
            pass
        assert road.bill.total == pytest.approx(search.found.best.bill.total, rel=0.02)  # but for a wire as proposed


def test_a_quick_road_that_can_be_signed_and_costs_no_more_stays(dunlin, today):
    option, quick = dunlin.option("as-found"), today["port"]
    search = searched(option, SMALL)
    assert whole_road(dunlin, option, quick, search, RATES) is quick
    dear = replace(quick, bill=replace(quick.bill, calibration_h=quick.bill.calibration_h + 10.0))
    if LONG:
        cheaper = whole_road(dunlin, option, dear, search, RATES)
        assert cheaper.bill.total < dear.bill.total
    assert whole_road(dunlin, option, dear, search, RATES, stop=lambda: True) is dear
    now = today["today"]
    assert whole_road(dunlin, option, now, search, RATES) is now


def test_a_lock_keeps_what_the_road_is_not_about(today):
    assert set(lock_of(today["port"]).keep) == {"high-pressure pumps", "direct injectors"}
    assert lock_of(today["both"]).keep == lock_of(today["port"]).keep
    assert lock_of(today["direct"]).keep == ()
    assert lock_of(today["pump"]).keep == ("direct injectors",)
    assert set(lock_of(today["blend"]).keep) == {"high-pressure pumps", "direct injectors"}
    assert lock_of(today["direct"]).returns == "with a return"
    for way in ("with a return", "returnless", "either"):
        assert lock_of(today["direct"], way).returns == way
    # A pump that keeps its speed is for who wants no return; else a turbine does.
    assert [lock_of(today["direct"], way).brushless for way in ("with a return", "returnless")] == [
        "none",
        "where it helps",
    ]


def test_a_weaker_blend_is_the_strongest_that_leaves_the_headroom_wanted(dunlin, today):
    option = dunlin.option("as-found")
    quick = today["blend"]
    assert headroom_of(quick.verdicts) < dunlin.rules.headroom_pct / 100  # within its limits, and no more
    blends = []

    def search(build, base, locks):
        blends.append(max(one.ethanol_pct for one in build.targets))
        return searched(option, SMALL)(build, base, locks)

    road = whole_road(dunlin, option, quick, search, RATES)
    assert headroom_of(road.verdicts) >= dunlin.rules.headroom_pct / 100 - 1e-9
    assert road.ethanol_pct == blends[-1] < quick.ethanol_pct
    assert blends == sorted(blends, reverse=True)
    assert blends[0] > quick.ethanol_pct  # stronger ones were looked at too
    assert find_troubles(on_blend(dunlin, road.ethanol_pct), road.option, list(road.verdicts), SMALL) == []
    high = road.option.high_side
    assert (high.pumps[0].part, high.injectors.part) == (option.high_side.pumps[0].part, option.high_side.injectors.part)


def test_pumps_now_are_the_first_step_of_the_whole_road_of_direct_hardware(dunlin, today):
    option, quick = dunlin.option("as-found"), today["pump"]
    larger = few(SHELF.pumps, "pump-315")[0]
    groups = tuple(one.model_copy(update={"part": larger}) for one in today["direct"].option.pumps)
    whole = replace(today["direct"], option=today["direct"].option.model_copy(update={"pumps": groups}))
    road = whole_road(dunlin, option, quick, searched(option, SMALL), RATES, direct=whole)
    assert road.option.pumps == groups  # what the later step needs is bought once
    assert road.option.high_side.pumps == whole.option.high_side.pumps
    assert road.option.high_side.injectors == option.high_side.injectors
    # Where larger direct hardware buys no injectors there is no such step.
    assert (
        whole_road(dunlin, option, quick, searched(option, SMALL), RATES, direct=replace(whole, option=road.option))
        is None
    )


@pytest.mark.skipif(not LONG, reason="searches again")
def test_a_road_is_offered_without_a_return_where_that_is_asked_for(dunlin, today):
    option = dunlin.option("as-found")
    plenty = replace(SMALL, pumps=(*SMALL.pumps, *few(SHELF.pumps, "pump-brushless-500")))
    road = whole_road(dunlin, option, today["port"], searched(option, plenty), RATES, low_side="returnless")
    assert road.option.regulator.arrangement == "returnless, speed-controlled"
    assert road.as_asked
    assert find_troubles(dunlin, road.option, list(road.verdicts), plenty) == []


def test_where_no_system_is_as_asked_that_is_said(dunlin, today):
    option = dunlin.option("as-found")
    none = replace(SMALL, pumps=(), lines=())
    road = whole_road(dunlin, option, today["plenum"], searched(option, none), RATES, low_side="returnless")
    assert not road.as_asked
    assert road.option == today["plenum"].option


def test_prices_count_against_what_is_fitted_today_where_that_was_said(dunlin, today):
    option, before = dunlin.option("as-found"), dunlin.option("direct")
    had = {one.kind: one.bill.total for one in roads(dunlin, option, SMALL, RATES, before)}
    assert had["both"] < today["both"].bill.total  # its pump is there already


def test_the_recommendation_says_what_is_safe_until_then_and_where_the_air_ends(dunlin, today):
    found = list(today.values())
    said = recommended(dunlin, found, RATES)
    safe = [one.target for one in found[0].verdicts if within(one)]
    assert said.values["safe"] == max(safe, key=lambda one: one.power_kw).name
    assert any("{safe}" in step for step in said.steps)
    best = next(one for one in found if one.kind == said.kind)
    hardest = max(best.verdicts, key=lambda one: one.load("engine").load)
    assert said.values["air_kw"] == pytest.approx(hardest.demand.air_limited_power_kw)
    assert any("{air_kw}" in step for step in said.steps)
    # A weaker blend for which something is bought is no answer until parts are there.
    fed = [
        replace(one, bill=replace(one.bill, rows=today["port"].bill.rows)) if one.kind == "blend" else one
        for one in found
    ]
    assert "blend_cost" not in said.values
    assert any("{blend_cost} of lines" in step for step in recommended(dunlin, fed, RATES).steps)
    assert "arrives" not in said.values  # no part of the generic shelf says when it comes

    def dated(road):
        return replace(road, bill=replace(road.bill, rows=tuple(replace(one, lead_days=9) for one in road.bill.rows)))

    assert recommended(dunlin, [dated(one) for one in found], RATES).values["arrives"] == "9 days"


@pytest.mark.skipif(not LONG, reason="searches twice over")
def test_where_a_return_carries_nothing_the_road_may_do_without_one(throttled, found):
    """With no regulator to be had that lets so much back, the pumps' speed holds the pressure."""
    quick, _ = found
    option = throttled.option("as-found")
    none = replace(SMALL, regulators=(), pumps=(*SMALL.pumps, *few(SHELF.pumps, "pump-brushless-500")))
    road = whole_road(throttled, option, quick["port"], searched(option, none), RATES)
    assert road.carries
    assert road.option.regulator.arrangement == "returnless, speed-controlled"
    assert find_troubles(throttled, road.option, list(road.verdicts), none) == []
