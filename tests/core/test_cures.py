"""A cure from the shelf cures its finding, makes nothing else worse, changes what it says alone, and no less would do."""

from itertools import islice

import pytest

from iron_gulp.core.advise import find_troubles
from iron_gulp.core.judge import judge_many
from iron_gulp.core.model import RESERVED, RULES, Rates, apply
from iron_gulp.core.physics import M3_S_PER_L_H
from iron_gulp.core.plan import COUNTED, Locks, Search, curable, cures, leaves_of, locks_for
from iron_gulp.core.plan.costs import bill
from iron_gulp.core.plan.design import Choices, System, kinds_of, option_of
from iron_gulp.core.plan.design.local import ABOUT, BASE, SLACK
from iron_gulp.core.plan.differing import choices_of
from iron_gulp.core.solve import demand, fuel_state
from tests.core.test_design import SHELF, SMALL
from tests.draws import LONG
from tests.garage import CARS, car, changed
from tests.systems import demo

RATES = Rates()
# What a kind of change may make another, as an option's choices are named.
NAMED = {
    "injectors": {"injectors", "second set"},
    "pumps": {"pumps"},
    "lines": {"feed", "return"},
    "regulator": {"regulator"},
    "filter": {"filter"},
    "high-pressure pumps": {"high-pressure pumps"},
    "direct injectors": {"direct injectors"},
    BASE: {"base pressure"},
}


def troubles_of(build, option, shelf=SHELF):
    judged = judge_many([(build, option, one) for one in build.targets], ceilings=False)
    return judged, find_troubles(build, option, judged, shelf)


def sought(build, option, finding, judged, troubles, shelf=SHELF):
    """All cures of a finding."""

    def search(locks, leave):
        return Search(build, option, shelf, RATES, locks, option, frozenset(), leave)

    leaves = leaves_of(build, finding, troubles, judged, locks_for(option))
    return list(cures(search, option, finding.code, leaves))


def looked_at():
    """(name, build, option) of everything that has something to cure: demo options, and faults put into sane cars."""
    for name in ("curlew", "dunlin", "fieldfare", "saltern"):
        build = demo(name)
        yield from ((f"{name} {one.id}", build, one) for one in build.options)
    for name, told in CARS.items():
        for number, fault in enumerate(told.get("faults", ())):
            if fault["finds"] in ABOUT:
                build = changed(car(name), fault["edits"])
                yield f"{name} {fault['finds']} {number}", build, build.options[0]


QUICK = ("curlew as-built", "curlew one-large", "fieldfare bypass", "dunlin split")


@pytest.mark.parametrize(
    ("build", "option"),
    [pytest.param(build, option, id=name) for name, build, option in looked_at() if LONG or name in QUICK],
)
def test_a_cure_cures_and_makes_nothing_else_worse(build, option):
    judged, troubles = troubles_of(build, option)
    for finding in (one for one in troubles if curable(one, option)):
        about, most = ABOUT[finding.code][0], 1.0 / (1.0 + build.rules.headroom_pct / 100.0)
        found = sought(build, option, finding, judged, troubles)
        for cure in found:
            after = cure.design.option
            verdicts, left = troubles_of(build, after)
            assert {one.code for one in left} <= {one.code for one in troubles} - {finding.code}, cure.told
            for was, now in zip(judged, verdicts, strict=True):
                for load in (one for one in now.loads if one.component in COUNTED):
                    before = was.load(load.component).load
                    bound = most if load.component in RESERVED else 1.0
                    allowed = 1.0 if load.component == about else max(bound, before * (1.0 + SLACK))
                    if load.component in RULES and before > 1.0:
                        continue  # a rule not kept before stays one
                    assert load.load <= allowed * (1.0 + 1e-6), (cure.told, load.component, now.target.name)
            one, other = choices_of(option), choices_of(after)
            changed = {name for name in {*one, *other} if one.get(name) != other.get(name)}
            assert changed == {what for what, _, _ in cure.told}
            assert changed <= set().union(*(NAMED[kind] for kind in cure.changes)), cure
            kept = {"id", "name", "tank", "suction", "lift", "rail", "carburettor", "sensors", "delivery"}
            for field in kept:
                assert getattr(after, field) == getattr(option, field), field
        assert len({len(cure.changes) for cure in found}) <= 1


def test_what_wire_settings_or_the_car_cure_is_not_looked_for_on_the_shelf():
    build = demo("curlew")
    _, troubles = troubles_of(build, build.options[0])
    codes = {one.code: curable(one, build.options[0]) for one in troubles}
    assert codes["injectors-small"]
    assert not codes["wiring-drop"]
    assert not codes["cold-start"]
    assert not codes["fuse-large"]


def every_change(build, option, shelf, kinds):
    """Every system with some kinds of parts, or the base pressure, another."""
    closed = locks_for(option)
    keep = tuple(one for one in closed.keep if one not in kinds)
    locks = closed.model_copy(update={"keep": keep, "base_pressure": "may change" if BASE in kinds else "as it is"})
    choices = Choices(build, option, shelf, locks, widen=True)
    need = max(demand(build, one).chosen_kg_s / fuel_state(build, one).density_kg_m3 for one in build.targets)
    for base in choices.bases():
        for arrangement in choices.arrangements():
            for metering in choices.meterings(base):
                for stages in choices.stages(base, need / M3_S_PER_L_H, arrangement):
                    for feed in choices.feeds():
                        for back in choices.backs(base, arrangement):
                            yield option_of(option, System(metering, stages, feed, back))


def worse(what, load, before, most):
    """Whether a load is past what a cure may leave; a rule not kept before stays one."""
    if what in RULES and before > 1.0:
        return False
    return load > max(most if what in RESERVED else 1.0, before * (1 + SLACK)) * (1 + 1e-9)


def cheapest(build, option, shelf, kinds, finding, judged, troubles):
    """What the cheapest cure with these kinds costs, everything tried one by one; None where there is none."""
    about, most = ABOUT[finding.code][0], 1.0 / (1.0 + build.rules.headroom_pct / 100.0)
    stay, best = {one.code for one in troubles} - {finding.code}, [None, None]
    for other in every_change(build, option, shelf, kinds):
        verdicts, left = troubles_of(build, other, shelf)
        pairs = [
            (load.component, load.load, was.load(load.component).load)
            for was, now in zip(judged, verdicts, strict=True)
            for load in now.loads
            if load.component in COUNTED
        ]
        if {one.code for one in left} - stay:
            continue
        if any(worse(what, load, before, most) for what, load, before in pairs if what != about):
            continue
        own = max((load for what, load, _ in pairs if what == about), default=0.0)
        paid = bill(build, option, other, RATES).total
        for which, limit in enumerate((most if about in RESERVED else 1.0, 1.0)):
            if own <= limit * (1 + 1e-9) and (best[which] is None or paid < best[which]):
                best[which] = paid
    return best[0], best[1]


@pytest.mark.parametrize("at", ["as-built", "one-large"] if LONG else ["as-built"])
def test_no_less_would_do_and_none_is_cheaper(at):
    build = demo("curlew")
    option = build.option(at)
    judged, troubles = troubles_of(build, option, SMALL)
    seen = 0
    for finding in (one for one in troubles if curable(one, option)):
        found = sought(build, option, finding, judged, troubles, SMALL)
        own = [one for one in ABOUT[finding.code][1] if one in (*kinds_of(option), BASE)]
        true = {
            (kind,): cheapest(build, option, SMALL, (kind,), finding, judged, troubles)
            for kind in (*kinds_of(option), BASE)
        }
        for sets in (own, [one for one in (*kinds_of(option), BASE) if one not in own]):
            for which in (0, 1):
                expected = {(kind,): true[kind,][which] for kind in sets if true[kind,][which] is not None}
                if expected:
                    paid = {cure.changes: cure.design.bill.total for cure in found}
                    assert paid == pytest.approx(expected, abs=0.01)
                    seen += 1
                    break
            if expected:
                break
        else:
            assert all(len(cure.changes) == 2 for cure in found)
    assert seen


def test_the_same_again_and_stopped_at_once():
    build = demo("curlew")
    option = build.options[0]
    judged, troubles = troubles_of(build, option)
    finding = next(one for one in troubles if one.code == "injectors-small")
    one, other = (sought(build, option, finding, judged, troubles) for _ in range(2))
    assert [cure.told for cure in one] == [cure.told for cure in other]
    leaves = leaves_of(build, finding, troubles, judged, locks_for(option))
    assert not list(cures(lambda locks, leave: None, option, finding.code, leaves, lambda: True))


def test_a_base_pressure_that_stays_stays_in_a_search():
    build = demo("curlew")
    search = Search(build, build.options[0], SMALL, RATES, Locks(base_pressure="as it is", most_pumps=2))
    assert search.choices.bases() == [search.start.regulator.base_kpa]
    loose = Search(build, build.options[0], SMALL, RATES, Locks())
    assert len(loose.choices.bases()) > 1
    assert Locks(base_pressure="as it is").closed == ("base_pressure",)
    assert apply(build, []) == build
    assert len(list(islice(every_change(build, build.options[0], SMALL, ("lines",)), 99))) >= 2


def test_another_base_pressure_is_calibrated_and_new_injectors_once():
    build = demo("curlew")
    option = build.options[0]
    raised = option.model_copy(update={"regulator": option.regulator.model_copy(update={"base_kpa": 400.0})})
    assert bill(build, option, option, RATES).total == 0.0
    assert bill(build, option, raised, RATES).total == pytest.approx(RATES.base_calibration_h * RATES.calibration)
    larger = raised.injectors.model_copy(
        update={"part": next(one for one in SHELF.injectors if one.shelf_id == "inj-1250")}
    )
    both = raised.model_copy(update={"injectors": larger})
    assert bill(build, option, both, RATES).calibration_h == RATES.port_calibration_h
    without = demo("fieldfare").options[0]
    other = without.model_copy(update={"regulator": without.regulator.model_copy(update={"base_kpa": 40.0})})
    assert bill(demo("fieldfare"), without, other, RATES).calibration_h == 0.0
