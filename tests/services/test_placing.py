"""Pump in the tank or outside, regulator at the rail or near the tank, tank and pickup as they are: asked and heeded."""

import pytest

from iron_gulp.core.advise import find
from iron_gulp.core.judge import judge_all
from iron_gulp.core.model import WITH_FILTER, Rates, apply
from iron_gulp.core.plan import Answers
from iron_gulp.core.plan.design import Choices, Locks, Search
from iron_gulp.services import sizing
from iron_gulp.services.answers import Refused, read_answers
from iron_gulp.services.asking import asked_build
from iron_gulp.shelf import load_shelf
from iron_gulp.units import BenchUnits
from tests.customers.accounts import check_account
from tests.draws import LONG

SHELF = load_shelf()
STILL = {"power_kw": 110.0, "induction": "naturally aspirated"}


def sized(monkeypatch, **said):
    """The sized option, its build, and the reasons as data."""
    seen = []
    reasons = sizing.reasons
    monkeypatch.setattr(sizing, "WORKERS", 1)
    monkeypatch.setattr(sizing, "reasons", lambda *asked: seen.append(reasons(*asked)) or seen[-1])
    build, _, found = sizing.size_answers(Answers(**said), SHELF, Rates(), BenchUnits())
    option = build.options[0]
    assert found.carries
    assert not [x.code for x in find(build, option, judge_all(build, option), SHELF.catalogue) if x.severity != "note"]
    check_account(build, option, seen[-1])
    return option, seen[-1]


def told(reasons, name):
    return [one.values[name] for one in reasons if name in one.values]


def test_a_pump_outside_is_made_for_it_and_pushed_its_fuel(monkeypatch):
    option, reasons = sized(monkeypatch, power_kw=200.0, pumps_sit="outside")
    suction = option.suction
    assert suction.place == "external"
    assert {group.part.kind for group in option.pumps} == {"gerotor"}
    assert suction.head_m > 0
    assert suction.filter.part.grade_um >= 80.0
    most = max(float(one.points.hydraulics.supply_m3_s.max()) for one in judge_all(*_pair(option)))
    assert most / (3.14159 / 4 * (suction.line.part.bore_mm * 1e-3) ** 2) < 1.5
    assert told(reasons, "head_m") == [suction.head_m]
    assert told(reasons, "hose") == [suction.line.part.name]
    if not LONG:
        return
    inside, reasons = sized(monkeypatch, power_kw=200.0)
    assert inside.suction.place == "in the tank"
    assert told(reasons, "head_m") == []


def _pair(option):
    build, _ = asked_build(SHELF, Answers(power_kw=200.0))
    return build.model_copy(update={"options": (option,)}), option


def test_a_regulator_near_the_tank_spares_the_long_return_where_there_is_no_boost(monkeypatch):
    option, reasons = sized(monkeypatch, **STILL, regulator_sits="near the tank")
    assert option.regulator.arrangement == "bypass near the tank"
    assert option.regulator.reference == "atmosphere"
    assert option.return_line.length_m < 1.0 < option.feed.length_m
    judged = judge_all(*_still(option))
    most = max(float(one.points.hydraulics.feed_kpa[0]) for one in judged)
    assert told(reasons, "feed_kpa") == [pytest.approx(most)]
    if not LONG:
        return
    usual, _ = sized(monkeypatch, **STILL)
    either, _ = sized(monkeypatch, **STILL, regulator_sits="either", pumps_sit="either")
    assert usual.regulator.arrangement == "bypass after the rail"
    assert either.regulator.arrangement == "bypass near the tank"  # it costs less


def _still(option):
    build, _ = asked_build(SHELF, Answers(**STILL))
    return build.model_copy(update={"options": (option,)}), option


@pytest.mark.parametrize(
    "wrong",
    [
        {"regulator_sits": "near the tank"},
        {"regulator_sits": "near the tank", "feeding": "carburettor", "induction": "naturally aspirated"},
        {"regulator": "must stay"},
    ],
)
def test_what_cannot_be_is_refused_at_its_question(wrong):
    with pytest.raises(Refused) as refused:
        read_answers({"power_kw": "150 hp", **wrong}, BenchUnits())
    assert set(refused.value.problems) == {next(iter(wrong))}


def test_the_regulator_that_must_stay_brings_its_pressure_and_the_tank_is_as_said(monkeypatch):
    said = {"regulator_kpa": 350.0, "regulator_l_h": 300.0, "regulator": "must stay"}
    option, _ = sized(monkeypatch, power_kw=180.0, tank_l=45.0, pickup="baffled sump", **said)
    assert (option.regulator.part.name, option.regulator.base_kpa) == ("Regulator as found", 350.0)
    assert option.regulator.part.capacity_l_h == 300.0
    assert (option.tank.volume_l, option.pickup.kind) == (45.0, "baffled sump")
    # A pressure that no regulator of the shelf is set to is held by the one that is fitted.
    odd, _ = sized(monkeypatch, power_kw=120.0, regulator_kpa=180.0, regulator="must stay")
    assert odd.regulator.base_kpa == 180.0


def test_a_pump_that_must_stay_in_the_surge_tank_is_not_moved_and_a_turbine_is_not_put_outside():
    build, assumed = asked_build(SHELF, Answers(power_kw=200.0, use="track", pumps_sit="outside"))
    assert build.options[0].suction.place == "in a surge tank"
    assert any("not outside" in one.text for one in assumed)
    locks = Locks(pumps_sit="may change")
    for use, places in (("track", {None}), ("street", {None, "external"})):
        build, _ = asked_build(SHELF, Answers(power_kw=200.0, use=use))
        choices = Choices(build, build.options[0], SHELF.catalogue, locks)
        stages = choices.stages(400.0, 200.0, "bypass after the rail")
        assert {one.suction and one.suction.place for one in stages} == places
        for one in stages:
            kinds = {group.part.kind for group in one.pumps}
            assert "turbine" not in kinds if one.suction else "gerotor" not in kinds


def test_where_no_pump_in_the_tank_brings_it_alone_one_outside_does():
    build, _ = asked_build(SHELF, Answers(power_kw=420.0, displacement_l=3.0, fuel="strong blend, E85"))
    build = apply(build, [("rules/headroom_pct", 5.0)])
    locks = Locks(most_pumps=1, brushless="none", returns="with a return", base_pressure="usual alone")
    inside, either = (
        Search(build, build.options[0], SHELF.catalogue, Rates(), one)
        for one in (locks, locks.model_copy(update={"pumps_sit": "may change"}))
    )
    for search in (inside, either):
        for _ in search.run(first_only=True):
            pass
    assert inside.found.best is None
    assert either.found.best.option.suction.place == "external"
    bought = [row.what for row in either.found.best.bill.rows]
    suction = either.found.best.option.suction
    assert {suction.line.part.name, suction.filter.part.name} <= set(bought)


def test_a_unit_with_its_filter_wants_none_beside_it_and_leaves_one_behind_when_it_goes(monkeypatch):
    either, _ = sized(monkeypatch, **STILL, regulator_sits="either")
    assert (either.regulator.part.works, either.filter) == (WITH_FILTER, None)
    build, _ = asked_build(SHELF, Answers(power_kw=130.0))
    unit = next(one for one in SHELF.catalogue.regulators if one.works == WITH_FILTER and one.max_base_kpa > 300.0)
    fitted = {"part": unit, "reference": "atmosphere", "arrangement": "bypass near the tank", "base_kpa": 350.0}
    option = build.options[0]
    option = option.model_copy(update={"filter": None, "regulator": option.regulator.model_copy(update=fitted)})
    build = build.model_copy(update={"options": (option,)})

    def codes(one):
        return {x.code: x for x in find(one, one.options[0], judge_all(one, one.options[0]), SHELF.catalogue)}

    before = codes(build)
    assert "filter-missing" not in before
    after = apply(build, before["regulator-near-tank"].remedies[0].edits)
    assert after.options[0].regulator.part.works == "by bypass"
    assert after.options[0].filter is not None
    assert not {"filter-missing", "filter-coarse"} & set(codes(after))
