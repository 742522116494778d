"""The design search returns the true front, found by trying everything; offers nothing with a stop or against a lock."""

from dataclasses import replace
from itertools import product
from types import SimpleNamespace

import numpy as np
import pytest
from hypothesis import given
from hypothesis import strategies as st

from iron_gulp.core.advise import find_troubles
from iron_gulp.core.judge import Load, judge_many
from iron_gulp.core.model import Catalogue, Rates, Sensor, apply, fitting, flow_at
from iron_gulp.core.physics import M3_S_PER_L_H
from iron_gulp.core.plan import Answers, Chosen, reasons, sizing
from iron_gulp.core.plan.complexity import parts_of_it
from iron_gulp.core.plan.costs import bill
from iron_gulp.core.plan.design import (
    Locks,
    Score,
    Search,
    System,
    front_of,
    headroom_class,
    headroom_of,
    nearest_words,
    opened,
    option_of,
)
from iron_gulp.core.plan.design.beside import _larger
from iron_gulp.core.plan.design.ease import PLAIN
from iron_gulp.core.plan.design.holding import broken, waived
from iron_gulp.core.plan.design.search import Unfit
from iron_gulp.core.plan.design.slender import slender
from iron_gulp.core.plan.design.start import lifted
from iron_gulp.core.solve import demand, fuel_state
from iron_gulp.services import starter
from iron_gulp.services.asking import asked_build
from iron_gulp.shelf import load_shelf
from tests.draws import EVERY_DEMO, LONG, draws
from tests.systems import demo

SHELF = load_shelf().catalogue


def small(pumps, injectors, lines, regulators, filters=("filter-glass-10-500", "filter-glass-10-1250")):
    """A shelf small enough to try everything."""

    def some(parts, ids):
        return tuple(one for one in parts if one.shelf_id in ids)

    return Catalogue(
        pumps=some(SHELF.pumps, pumps),
        injectors=some(SHELF.injectors, injectors),
        lines=some(SHELF.lines, lines),
        regulators=some(SHELF.regulators, regulators),
        filters=some(SHELF.filters, filters),
    )


def run(search, **how):
    *_, last = search.run(**how)
    return last


def with_sensors(search, option):
    """An option as it is read, and with every other sensor of the shelf in the place of each."""
    found = [option]
    for sensor in option.sensors:
        for part in search.catalogue.sensors:
            edits = fitting(f"options/{option.id}/sensors/{sensor.id}", type(sensor), part)
            found.append(apply(search.build.model_copy(update={"options": (option,)}), edits).options[0])
    return found


def tried(search):
    """Every combination the choices allow, judged whole one by one: scores and options of those that may be offered."""
    build, choices = search.build, search.choices
    need = max(demand(build, one).chosen_kg_s / fuel_state(build, one).density_kg_m3 for one in build.targets)
    found = []
    for base, arrangement in product(choices.bases(), choices.arrangements()):
        stages = choices.stages(base, need / M3_S_PER_L_H, arrangement)
        every = product(choices.meterings(base), stages, choices.feeds(), choices.backs(base, arrangement))
        options = [read for one in every for read in with_sensors(search, option_of(search.start, System(*one)))]
        judged = judge_many([(build, one, target) for one in options for target in build.targets], ceilings=False)
        count = len(build.targets)
        for number, option in enumerate(options):
            option, verdicts = slender(build, option, tuple(judged[number * count : (number + 1) * count]))
            if headroom_of(verdicts) < search.wanted - 1e-9 or broken(verdicts, PLAIN, waived(search.locks.keep)):
                continue
            paid = bill(build, search.before, option, search.rates).total
            if search.locks.budget is not None and paid > search.locks.budget + 0.5:
                continue
            troubles = find_troubles(build, option, list(verdicts), search.catalogue)
            if any(one.severity == "stop" or one.code not in search._stay for one in troubles):
                continue
            found.append((Score(round(paid), parts_of_it(option).points, headroom_class(headroom_of(verdicts))), option))
    return found


SMALL = small(
    ("pump-200", "pump-315", "pump-brushless-500", "pump-lift-315", "pump-lift-500"),
    ("inj-1250", "inj-1600"),
    ("ptfe-6", "ptfe-8"),
    ("reg-250", "reg-630"),
)
MODEST = small(("pump-160", "pump-250"), ("inj-500", "inj-800"), ("ptfe-6", "ptfe-8"), ("reg-250", "reg-400"))


def modest():
    """A new build on pump fuel and on a light blend."""
    build = starter.new_build(load_shelf())
    return apply(build, [("targets/t2/ethanol_pct", 30.0), ("targets/t2/power_kw", 170.0), ("car/coldest_c", 20.0)])


CASES = {
    "modest": (modest, MODEST, Locks()),
    "modest, returnless": (modest, MODEST, Locks(returns="returnless", most_pumps=2)),
    "modest, one pump within a budget": (modest, MODEST, Locks(most_pumps=1, budget=3600.0)),
    "strong, with a return": (lambda: demo("curlew"), SMALL, Locks(returns="with a return", most_pumps=2)),
    "strong, lines kept": (lambda: demo("curlew"), SMALL, Locks(keep=("lines",), returns="with a return")),
}
OPEN = small(
    ("pump-125", "pump-gerotor-250"), ("inj-315", "inj-400"), ("ptfe-6", "suction-10"), ("reg-250", "reg-filter-350")
)


def unboosted():
    """A new build without boost."""
    build = starter.new_build(load_shelf())
    asked = {"boost_kpa": 0.0, "power_kw": 95.0, "ethanol_pct": 10.0}
    edits = [(f"targets/{one}/{name}", value) for one in ("t1", "t2") for name, value in asked.items()]
    return apply(build, [*edits, ("engine/induction", "naturally aspirated")])


CASES["pump and regulator sit anywhere"] = (
    unboosted,
    OPEN,
    Locks(pumps_sit="may change", regulator_sits="may change", returns="with a return", most_pumps=1),
)


def sensed():
    """A new build whose rail sensor ends where a base of 300 kPa does; injectors of this size carry at 400 kPa alone."""
    build = starter.new_build(load_shelf())
    asked = {"ethanol_pct": 10.0, "power_kw": 190.0, "boost_kpa": 120.0, "rpm": 6500.0}
    edits = [(f"targets/{one}/{name}", value) for one in ("t1", "t2") for name, value in asked.items()]
    option = build.options[0].model_copy(update={"sensors": (Sensor(id="s1", name="Rail", reads_to_kpa=430.0),)})
    return apply(build.model_copy(update={"options": (option,)}), edits)


CASES["a rail sensor that ends below another base"] = (
    sensed,
    replace(MODEST, injectors=small((), ("inj-500",), (), ()).injectors, sensors=SHELF.sensors[:6]),
    Locks(returns="with a return", most_pumps=1),
)
CASES["carburettors, nothing returns"] = (lambda: demo("fieldfare"), SHELF, Locks())
QUICK = ("carburettors, nothing returns", *("modest, one pump within a budget", "modest, returnless") * EVERY_DEMO)


@pytest.mark.parametrize("name", CASES if LONG else QUICK)
def test_the_front_is_the_one_found_by_trying_everything(name):
    make, shelf, locks = CASES[name]
    build = make()
    search = Search(build, build.options[0], shelf, Rates(), locks)
    found = run(search)
    every = tried(search)
    true = [every[at][0] for at in front_of([score for score, _ in every])]
    assert sorted(one.score for one in found.front) == sorted(true)
    assert len(found.front) >= 1
    assert found.done
    assert found.total >= len(every)


def test_a_sensor_follows_the_base_pressure_the_search_takes():
    make, shelf, locks = CASES["a rail sensor that ends below another base"]
    search = Search(make(), make().options[0], shelf, Rates(), locks)
    best = run(search, first_only=True).best
    assert best.option.regulator.base_kpa > search.base.regulator.base_kpa
    (reads,) = best.option.sensors
    assert reads.reads_to_kpa > 430.0
    assert search.fatal(best.option, best.verdicts) == []
    told = [one for one in reasons(make(), Chosen(best, None, ()), shelf) if "reads the" in one.text]
    assert [one.values for one in told] == [{"part": reads.name, "what": "low rail pressure"}]
    stays = best.option.model_copy(update={"sensors": make().options[0].sensors})
    assert not any(
        "reads the" in one.text for one in reasons(make(), Chosen(replace(best, option=stays), None, ()), shelf)
    )
    bare_shelf = replace(shelf, sensors=())
    none = Search(make(), make().options[0], bare_shelf, Rates(), locks)
    assert run(none, first_only=True).best.option.sensors[0].reads_to_kpa > 430.0  # no part at hand: a figure to look for


@given(st.lists(st.builds(Score, st.integers(0, 9), st.integers(0, 9), st.integers(0, 9)), max_size=30))
@draws(60)
def test_a_front_is_what_nothing_beats_and_beats_all_else(scores):
    front = [scores[at] for at in front_of(scores)]
    assert all(not one.beats(other) for one in scores for other in front)
    assert all(any(one.no_worse(other) for one in front) for other in scores)
    assert len({(one.cost, one.complexity, one.headroom_pct) for one in front}) == len(front)


LOCKED = [
    Locks(keep=("injectors",)),
    Locks(keep=("pumps", "regulator", "lines", "filter")),
    Locks(returns="returnless"),
    Locks(returns="with a return", most_pumps=1),
    Locks(surge="none"),
    Locks(headroom_pct=25.0),
    Locks(budget=3000.0),
]


@pytest.mark.skipif(not LONG, reason="several whole searches")
@pytest.mark.parametrize("locks", LOCKED, ids=lambda one: ", ".join(one.closed) or "headroom")
def test_no_design_has_a_stop_or_violates_a_lock_and_the_same_asked_again_is_the_same(locks):
    build = demo("curlew")
    base = build.options[0]
    made = [Search(build, base, SMALL, Rates(), locks, before=base) for _ in range(2)]
    found, again = (run(search) for search in made)
    assert [one.score for one in found.front] == [one.score for one in again.front]
    start = made[0].start
    for one in found.front:
        troubles = find_troubles(build, one.option, list(one.verdicts), SHELF)
        assert not [each for each in troubles if each.severity == "stop"]
        assert one.headroom >= made[0].wanted - 1e-9
        assert sum(group.count for group in one.option.pumps) <= locks.most_pumps
        kept = {"injectors": "injectors", "pumps": "pumps", "regulator": "regulator/part", "filter": "filter"}
        for kind, place in kept.items():
            if kind in locks.keep:
                name, _, rest = place.partition("/")
                now, then = getattr(one.option, name), getattr(start, name)
                assert (getattr(now, rest) if rest else now) == (getattr(then, rest) if rest else then)
        if "lines" in locks.keep:
            assert (one.option.feed, one.option.return_line) == (start.feed, start.return_line)
        if locks.returns == "returnless":
            assert one.option.regulator.arrangement.startswith("returnless")
        if locks.returns == "with a return":
            assert not one.option.regulator.arrangement.startswith("returnless")
        if locks.surge == "none":
            assert one.option.lift is None
        if locks.budget is not None:
            assert one.bill.total <= locks.budget + 0.5


def test_what_is_judged_apart_is_what_is_judged_whole():
    build = demo("curlew")
    search = Search(build, build.options[0], SMALL, Rates(), Locks(returns="with a return", most_pumps=2))
    block = search._block(350.0, "bypass after the rail", "without a controller")
    least, _ = block.least()
    random = np.random.default_rng(3)
    for _ in range(60):
        place = tuple(int(random.integers(size)) for size in block.shape)
        option = option_of(search.start, block.system(*place))
        verdicts = judge_many([(build, option, target) for target in build.targets], ceilings=False)
        whole = headroom_of(verdicts)
        if whole > 0 and not broken(verdicts, PLAIN, frozenset()):  # what runs out drags the others along
            assert 1 / (1 + least[place]) == pytest.approx(1 / (1 + whole), abs=2e-3)
        else:
            assert least[place] < 2e-3
        paid = bill(build, search.before, option, search.rates).total
        assert block.summed(0)[place] == pytest.approx(paid, abs=0.02)
        assert block.summed(1)[place] == parts_of_it(option).points


def test_opening_one_lock_leaves_the_others_closed():
    locks = Locks(keep=("pumps", "lines"), budget=3000.0)
    assert locks.without("lines") == Locks(keep=("pumps",), budget=3000.0)
    assert locks.without("budget") == Locks(keep=("pumps", "lines"))
    assert set(locks.closed) == {"pumps", "lines", "budget"}
    assert Locks(headroom_pct=30.0).closed == ("headroom_pct",)


def test_each_closed_lock_is_opened_alone_until_one_has_enough():
    """With searches that find their own locks: what each is asked, in turn, and nothing after a stop."""

    def search(locks):
        best = locks if locks.budget is None or "pumps" not in locks.keep else None
        return SimpleNamespace(run=lambda _stop, first_only: iter([first_only]), found=SimpleNamespace(best=best))

    locks = Locks(keep=("pumps", "lines"), budget=3000.0)
    told = dict(opened(search, locks))
    assert told == {(name,): locks.without(name) for name in ("pumps", "budget")}
    assert dict(opened(search, locks, stop=lambda: True)) == {}

    def both(wider):
        best = wider if wider.budget is None and "pumps" not in wider.keep else None
        return SimpleNamespace(run=lambda _stop, first_only: iter([first_only]), found=SimpleNamespace(best=best))

    assert dict(opened(both, locks)) == {("pumps", "budget"): Locks(keep=("lines",))}


@pytest.mark.parametrize(
    ("load", "component", "words"),
    [
        (0.87 * 1.03, "pumps", "carries, but misses the headroom wanted by 3 points"),
        (0.8697, "pumps", "by less than a point"),
        (0.54, "wiring", "carries with the headroom wanted"),
        (1.07, "pumps", "runs out"),
        (1.07, "feed", "is outside the shop's rule"),
    ],
)
def test_what_the_nearest_misses_is_told_by_what_it_is(load, component, words):
    """With 15 % wanted 87 % of what it bears would do."""
    told = nearest_words(Load(component, component.title(), load, "close", None, ""), 0.15)
    assert words in told
    assert f"{load * 100:.0f}" in told


def test_a_pump_that_stays_keeps_its_wear_and_a_new_one_has_none():
    build = modest()
    group = build.options[0].pumps[0]
    worn = apply(build, [(f"options/{build.options[0].id}/pumps/{group.id}/derate_pct", 12.0)])
    choices = Search(worn, worn.options[0], MODEST, Rates()).choices
    for part, derate in ((group.part, 12.0), (MODEST.pumps[0], 0.0)):
        assert choices._group(part, 2, "g1", None, 300.0).derate_pct == derate


def test_a_filter_that_passes_all_and_is_fine_enough_stays_or_grows():
    build = modest()
    option, pumps = build.options[0], build.options[0].pumps
    passing = sum(group.count * flow_at(group.part, 300.0) for group in pumps)

    def chosen(rated, grade):
        part = option.filter.part.model_copy(update={"rated_flow_l_h": rated, "grade_um": grade, "name": "As fitted"})
        fitted = option.model_copy(update={"filter": option.filter.model_copy(update={"part": part})})
        choices = Search(build, fitted, load_shelf().catalogue, Rates()).choices
        return [one.part for one in choices._filters(pumps, 300.0)]

    stays, *larger = chosen(passing * 1.01, 10.0)
    assert stays.name == "As fitted"
    assert [one.rated_flow_l_h > stays.rated_flow_l_h for one in larger] == [True]
    for rated, grade in ((passing * 0.99, 10.0), (passing * 1.01, 12.0)):
        several = chosen(rated, grade)
        assert len(several) == 2
        assert several[0].rated_flow_l_h < several[1].rated_flow_l_h  # the next larger loses less
        for new in several:
            assert new.name != "As fitted"
            assert new.rated_flow_l_h >= passing
            assert new.grade_um <= 10.0


def test_a_search_stops_when_told_and_tells_its_first_design_early():
    build = modest()
    search = Search(build, build.options[0], MODEST, Rates())
    steps = iter(range(1000))
    early = list(search.run(stop=lambda: next(steps) >= 1))
    assert not early[-1].done


@pytest.mark.skipif(not LONG, reason="two whole searches")
def test_the_cheapest_alone_is_the_cheapest_of_all():
    build = modest()
    quick = run(Search(build, build.options[0], MODEST, Rates()), first_only=True)
    whole = run(Search(build, build.options[0], MODEST, Rates()))
    assert quick.best.score == whole.best.score


@pytest.mark.skipif(not EVERY_DEMO, reason="slow; in the long run, and where faults are put in on purpose")
@pytest.mark.parametrize("locks", [Locks(keep=("lines",), returns="returnless", most_pumps=1)])
def test_locks_hold_and_nothing_offered_has_a_stop(locks):
    build = modest()
    search = Search(build, build.options[0], MODEST, Rates(), locks)
    found = run(search)
    assert found.front
    for one in found.front:
        assert one.option.regulator.arrangement.startswith("returnless")
        assert (one.option.feed, one.option.return_line) == (search.start.feed, search.start.return_line)
        assert sum(group.count for group in one.option.pumps) == 1
        troubles = find_troubles(build, one.option, list(one.verdicts), SHELF)
        assert not [each for each in troubles if each.severity == "stop"]


@pytest.mark.skipif(not LONG, reason="several whole searches")
def test_a_wider_search_after_one_that_found_nothing_finds_what_a_fresh_one_does():
    """For a power that no set of injectors carries and idles: alone, then with two sets; the first as its wish is."""
    build = apply(modest(), [("targets/t1/power_kw", 300.0), ("targets/t1/boost_kpa", 200.0)])
    narrow = Locks(base_pressure="usual alone", brushless="none", budget=2600.0)
    first = Search(build, build.options[0], MODEST, Rates(), narrow)
    for _ in first.run(first_only=True):
        pass
    assert first.found.best is None
    for locks in (narrow.model_copy(update={"brushless": "where it helps"}), Locks(second_set="where it helps")):
        wider, fresh = first.wider(locks), Search(build, build.options[0], MODEST, Rates(), locks)
        for one in (wider, fresh):
            for _ in one.run(first_only=True):
                pass
        found = [None if one.found.best is None else one.found.best.score for one in (wider, fresh)]
        assert found[0] == found[1]
    assert found[0] is not None


def test_what_nothing_meters_is_not_looked_at_with_other_pumps_nor_forgotten():
    """Injectors too small for the power: no pumps are judged for them until a second set may help; the nearest is told"""
    build = apply(modest(), [("targets/t2/power_kw", 420.0), ("targets/t2/boost_kpa", 250.0)])
    locks = Locks(base_pressure="usual alone", brushless="none", returns="with a return")
    first = Search(build, build.options[0], MODEST, Rates(), locks)
    for _ in first.run(first_only=True):
        pass
    assert {type(one) for one in first._known.values()} == {Unfit}
    wider = first.wider(locks.model_copy(update={"brushless": "where it helps"}))
    for _ in wider.run(first_only=True):
        pass
    assert (wider.found.best, wider.found.tried) == (None, 0)
    near = wider.nearest()
    assert near is not None
    assert near.headroom < 0.10
    both = wider.wider(locks.model_copy(update={"second_set": "where it helps"}))
    for _ in both.run(first_only=True):
        pass
    assert both.found.tried > 0


def test_where_nothing_carries_the_nearest_is_told_and_what_the_others_fell_to():
    build = apply(modest(), [("targets/t2/power_kw", 420.0), ("targets/t2/boost_kpa", 250.0)])
    found = run(Search(build, build.options[0], MODEST, Rates(), Locks(returns="either" if LONG else "with a return")))
    assert not found.front
    assert found.nearest is not None
    assert found.nearest.headroom < 0.10
    assert sum(found.fell.values()) >= found.total
    assert replace(found.nearest.score) == found.nearest.score


@pytest.mark.parametrize(("worth_s", "sent"), [(60.0, 0), (-1.0, 7)])
def test_a_search_soon_over_starts_no_processes(monkeypatch, worth_s, sent):
    """A longer one judges its first base pressure here, to know how long it will be, and sends the others away."""
    jobs = []

    class Away:
        def __init__(self, **how):
            assert how["n_jobs"] == 2

        def __call__(self, tasks):
            for function, arguments, named in tasks:
                jobs.append(arguments)
                yield function(*arguments, **named)

    monkeypatch.setattr("iron_gulp.core.plan.design.search.Parallel", Away)
    monkeypatch.setattr("iron_gulp.core.plan.design.search.WORTH_PROCESSES_S", worth_s)
    search = Search(demo("fieldfare"), demo("fieldfare").options[0], SHELF, Rates())
    found = run(search, workers=2)
    assert len(jobs) == sent
    assert [one.option.regulator.base_kpa for one in found.front] == [20.0]


def test_a_stage_joins_at_a_third_of_the_lowest_boost():
    build = demo("curlew")
    lowest = min(one.boost_kpa for one in build.targets)
    search = Search(build, build.options[0], SHELF, Rates())
    stages = [one for one in search.choices.stages(300.0, 300.0, "bypass after the rail") if len(one.pumps) == 2]
    joins = {group.on_above_kpa for one in stages for group in one.pumps if group.staged}
    assert joins == {max(round(lowest * 0.35 / 5) * 5.0, 20.0)}


def test_the_smallest_lift_pump_that_lifts_enough_is_taken():
    build = demo("curlew")
    option = build.options[0]

    def load(one):
        judged = judge_many([(build, one, target) for target in build.targets], ceilings=False)
        return max(each.load("lift").load for each in judged)

    assert load(option) <= 1.0
    assert lifted(build, option, SHELF) == option
    worn = option.model_copy(update={"lift": option.lift.model_copy(update={"derate_pct": 40.0})})
    assert load(worn) > 1.0
    larger = lifted(build, worn, SHELF)
    assert larger.lift.part != option.lift.part
    assert load(larger) <= 1.0


def test_a_circuit_of_its_own_is_a_reason_only_where_there_is_one():
    """With a design made by hand: a driven pump has no circuit, whatever is written in it, nor has one without a fuse."""
    build = modest()
    option = build.options[0]
    verdicts = tuple(judge_many([(build, option, one) for one in build.targets]))
    group = option.pumps[0]
    driven = group.part.model_copy(update={"kind": "mechanical"})
    unfused = group.wiring.model_copy(update={"fuse_a": None})
    for changes, told in (({}, True), ({"part": driven}, False), ({"wiring": unfused}, False)):
        changed = option.model_copy(update={"pumps": (group.model_copy(update=changes),)})
        design = SimpleNamespace(verdicts=verdicts, option=changed)
        words = [one.text for one in sizing._pumps(build, design, {}, frozenset())]
        assert any("circuit of its own" in one for one in words) is told


def test_what_stands_beside_a_design_is_one_size_larger_of_each_kind_there_is():
    build = modest()
    option = apply(build, [("options/" + build.options[0].id + "/pumps/0/count", 1)]).options[0]
    own = option.model_copy(update={"pumps": (option.pumps[0].model_copy(update={"part": MODEST.pumps[0]}),)})
    verdicts = tuple(judge_many([(build, own, one) for one in build.targets]))
    found = list(_larger(build, SimpleNamespace(option=own, verdicts=verdicts), MODEST))
    assert {one.what for one in found} >= {"pumps"}
    assert next(one for one in found if one.what == "pumps").part == MODEST.pumps[1]
    none = replace(MODEST, pumps=())
    assert "pumps" not in {one.what for one in _larger(build, SimpleNamespace(option=own, verdicts=verdicts), none)}


def test_a_helper_pump_comes_only_where_a_stage_could_join():
    build, locks = modest(), Locks(booster="where it helps")
    calm = apply(build, [(f"targets/{one.id}/boost_kpa", 0.0) for one in build.targets])
    for one, helped in ((build, True), (calm, False)):
        choices = Search(one, one.options[0], MODEST, Rates(), locks).choices
        found = list(choices._helped(one.options[0].pumps[:1], 300.0, one.options[0].suction))
        assert bool(found) is helped
        assert all(pumps[-1].place == "in series, boosting the others" for pumps in found)


@pytest.mark.parametrize(("ethanol", "offered"), [(0.0, True)] * LONG + [(15.0, True), (16.0, False)])
def test_the_next_smaller_part_is_fit_for_the_fuel(ethanol, offered):
    """A smaller pump that alcohol ruins is held against the one chosen only where there is no alcohol."""
    build = modest()
    for target in build.targets:
        build = apply(build, [(f"targets/{target.id}/ethanol_pct", ethanol)])
    one_way = small(("pump-160", "pump-250"), ("inj-500", "inj-800"), ("ptfe-8",), ("reg-400",))
    search = Search(build, build.options[0], one_way, Rates(), Locks(returns="with a return", most_pumps=1))
    design = run(search).front[0]
    chosen = design.option.pumps[0].part
    curves = tuple(
        one.model_copy(update={"flow_l_h": tuple(flow * 0.97 for flow in one.flow_l_h)}) for one in chosen.curves
    )
    frail = chosen.model_copy(update={"name": "Frail pump", "shelf_id": "frail", "alcohol_ok": False, "curves": curves})
    found = reasons(build, Chosen(design, None, ()), replace(MODEST, pumps=(*MODEST.pumps, frail)))
    assert any("Frail pump" in map(str, one.values.values()) for one in found) is offered


def test_ways_of_regulating_start_with_the_one_fitted():
    build = modest()
    after, near, none = "bypass after the rail", "bypass near the tank", "returnless, speed-controlled"
    for now, locks, ways in (
        (after, Locks(), [after, none]),
        (near, Locks(), [near, none]),
        (none, Locks(), [after, none]),
        (near, Locks(returns="with a return"), [near]),
        (near, Locks(returns="returnless"), [none]),
        (none, Locks(keep=("regulator",)), [none]),
        (none, Locks(keep=("regulator",), returns="with a return"), []),
    ):
        fitted = apply(build, [(f"options/{build.options[0].id}/regulator/arrangement", now)])
        assert Search(fitted, fitted.options[0], MODEST, Rates(), locks).choices.arrangements() == ways


@pytest.mark.parametrize(("stalls_kpa", "floats"), [(120.0, True), (170.0, False), (700.0, False)])
def test_a_pump_that_makes_pressure_is_none_for_floats(stalls_kpa, floats):
    """One that still moves fuel at 150 kPa would lift the needles, unless its relief opens first."""
    build = demo("fieldfare")
    first = build.options[0].pumps[0].part
    curve = first.curves[0].model_copy(
        update={"pressure_kpa": (0.0, stalls_kpa), "flow_l_h": (150.0, 0.0), "current_a": (3.0, 5.0)}
    )
    part = first.model_copy(update={"shelf_id": None, "name": "Tried", "relief_kpa": None, "curves": (curve,)})
    relieved = part.model_copy(update={"name": "Relieved", "relief_kpa": 60.0})
    shelf = replace(SHELF, pumps=(part, relieved))
    choices = Search(build, build.options[0], shelf, Rates()).choices
    found = {one.name for one in choices._pump_parts(20.0, choices.base.suction)}
    assert ("Tried" in found, "Relieved" in found) == (floats, True)


def test_pumps_are_sized_by_what_they_move_at_four_hundred_kilopascals_or_for_floats_at_thirty():
    for part in load_shelf().catalogue.pumps:
        at_400 = flow_at(part, 400.0)
        assert sizing._size(part) == (at_400 if at_400 > 0 else flow_at(part, 30.0))


def test_own_parts_come_first_and_alone_they_may_not_do():
    build = modest()
    locks = Locks(shelf="own parts before others", most_pumps=1)
    pump, injector = MODEST.pumps[1].shelf_id, MODEST.injectors[1].shelf_id
    # The larger pump and injectors are the shop's own: they are taken though the smaller would be cheaper or would do.
    own = Search(build, build.options[0], MODEST, Rates(), locks, own=frozenset({pump, injector}))
    found = run(own, first_only=True)
    assert not found.others
    assert found.best.option.pumps[0].part.shelf_id == pump
    assert found.best.option.injectors.part.shelf_id == injector
    alone = Search(build, build.options[0], MODEST, Rates(), Locks(shelf="own parts alone"), own=frozenset({pump}))
    assert run(alone, first_only=True).best is None


@pytest.mark.skipif(not LONG, reason="searches with parts of all sizes")
def test_where_own_parts_do_not_do_the_others_are_looked_at_and_that_is_said():
    build = modest()
    locks = Locks(shelf="own parts before others", most_pumps=1)
    pump = MODEST.pumps[1].shelf_id
    more = apply(build, [("targets/t2/power_kw", 240.0), ("targets/t2/boost_kpa", 200.0)])
    small = Search(more, more.options[0], MODEST, Rates(), locks, own=frozenset({MODEST.pumps[0].shelf_id}))
    asked = run(small, first_only=True)
    assert asked.others
    assert asked.best.option.pumps[0].part.shelf_id == pump


@pytest.mark.parametrize("area", [16.0, 25.0])
def test_no_wire_above_ten_square_millimetres_is_offered_for_less_than_forty_amperes(area):
    build = modest()
    (group,) = build.options[0].pumps
    thick = group.model_copy(update={"wiring": group.wiring.model_copy(update={"area_mm2": area})})
    option = build.options[0].model_copy(update={"pumps": (thick,)})
    judged = tuple(judge_many([(build, option, one) for one in build.targets], ceilings=False))
    changed, verdicts = slender(build, option, judged)
    assert changed.pumps[0].wiring.area_mm2 <= 10.0
    assert len(verdicts) == len(build.targets)
    same = slender(build, changed, verdicts)
    assert same[0] is changed
    assert same[1] is verdicts


@pytest.mark.skipif(not LONG, reason="tries every lift stage with everything else")
@pytest.mark.parametrize("power_kw", [150.0, 230.0])
def test_no_other_lift_stage_would_have_made_a_better_front(power_kw):
    """Lift pump, how many of them and the surge tank are chosen before the rest: as trying them all with it would."""
    asked = Answers(power_kw=power_kw, use="track", fuel="strong blend, E85")
    build, _ = asked_build(load_shelf(), asked)
    lifts = [f"pump-lift-{size}" for size in (125, 200, 315, 500)]
    shelf = small(("pump-250", "pump-400", *lifts), ("inj-630", "inj-1000"), ("ptfe-6", "ptfe-8"), ("reg-250", "reg-400"))
    locks = Locks(returns="with a return", most_pumps=1, base_pressure="usual alone")
    search = Search(build, build.options[0], shelf, Rates(), locks)
    found = run(search)
    start, leave = search.begun
    every = []
    for part in (one for one in shelf.pumps if "Lift" in one.name):
        for count, litres in product((1, 2), (1.6, 2.5, 4.0)):
            lift = start.lift.model_copy(update={"part": part, "count": count, "surge_l": litres})
            begun = start.model_copy(update={"lift": lift}), leave
            other = Search(build, build.options[0], shelf, Rates(), locks, begun=begun)
            every += [score for score, _ in tried(other)]
    true = {every[at] for at in front_of(every)}
    assert found.front
    assert {one.score for one in found.front} == true
