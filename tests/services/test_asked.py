"""What a new build is asked beside engine and power: what stands in the car, what it is used for, fuels, money."""

from types import SimpleNamespace

import pytest
from pydantic import ValidationError

from iron_gulp.core.advise import find, find_troubles
from iron_gulp.core.judge import judge_all, judge_many
from iron_gulp.core.model import DRIVEN_HARD, Rates, flow_at
from iron_gulp.core.plan import RACE_FUELS, Answers
from iron_gulp.core.solve import fuel_state
from iron_gulp.services import sizing
from iron_gulp.services.answers import Refused, read_answers
from iron_gulp.services.as_found import as_found, bought
from iron_gulp.services.asking import asked_build
from iron_gulp.services.sizing import locked_by, size_answers
from iron_gulp.services.sizing_words import cannot, noted, over_budget, taken_for_granted
from iron_gulp.services.usage import HEADROOM_PCT
from iron_gulp.shelf import load_shelf
from iron_gulp.units import BenchUnits
from tests.draws import LONG
from tests.systems import demo

SHELF = load_shelf()
USES = ("street", "track", "drag", "hill climb", "rally", "salt flat")


@pytest.mark.parametrize("use", USES)
def test_use_decides_what_holds_fuel_at_the_pickup_and_what_is_wanted_in_hand(use):
    build, assumed = asked_build(SHELF, Answers(power_kw=250, use=use))
    option = build.options[0]
    assert (option.lift is not None) == (use in DRIVEN_HARD) == (option.suction.place == "in a surge tank")
    assert build.rules.headroom_pct == HEADROOM_PCT[use]
    verdicts = judge_all(build, option)
    codes = {one.code for one in find(build, option, verdicts, SHELF.catalogue)}
    assert not codes & {"pickup-untold", "lift-short", "lift-behind", "surge-dry"}
    none, _ = asked_build(SHELF, Answers(power_kw=250, use=use, surge="none"))
    assert none.options[0].lift is None
    assert (none.options[0].pickup is not None) == (use in (*DRIVEN_HARD, "drag"))
    asked, _ = asked_build(SHELF, Answers(power_kw=250, use=use, surge="a surge tank"))
    assert asked.options[0].lift is not None
    assert any("surge tank" in one.text for one in assumed) == (use in DRIVEN_HARD)


def test_strong_fuels_bring_their_cautions():
    def told(**fuel):
        return " ".join(one.text for one in asked_build(SHELF, Answers(power_kw=250, **fuel))[1])

    assert "poisons through the skin" in told(fuel="methanol")
    assert "poisons through the skin" in told(fuel="methanol", ethanol_pct=20)
    build, guesses = asked_build(SHELF, Answers(power_kw=250, fuel="methanol"))
    care = noted(guesses, BenchUnits())
    assert care.startswith("Take care:")
    assert "poisons" in care
    taken = taken_for_granted(build, guesses, BenchUnits())
    assert len(taken) >= 3
    assert not any("poisons" in one.words for one in taken)
    assert all(one.field for one in taken)
    assert "faint flame" in told(ethanol_pct=70)
    assert "flame" not in told()


def test_any_blend_and_race_gasolines_are_fuels_of_their_own():
    build, _ = asked_build(SHELF, Answers(power_kw=250, ethanol_pct=37.5))
    assert (build.targets[0].ethanol_pct, build.targets[0].name) == (37.5, "E37.5")
    for name, fuel in RACE_FUELS.items():
        build, _ = asked_build(SHELF, Answers(power_kw=250, fuel=name))
        assert build.fuels == (fuel,)
        assert fuel_state(build, build.targets[0]).stoich_afr == pytest.approx(fuel.stoich_afr)
    # 3.7 % of oxygen by mass from MTBE, C5H12O: its mass share, and air by counting atoms (4.773 mol a mol of oxygen).
    share = 3.7 / (100.0 * 15.999 / 88.15)
    air = (5 + 12 / 4 - 0.5) * 4.773 * 28.96 / 88.15
    assert RACE_FUELS["race gasoline, oxygenated"].stoich_afr == pytest.approx(share * air + (1 - share) * 14.7, abs=0.05)
    assert RACE_FUELS["race gasoline, oxygenated"].lhv_mj_kg == pytest.approx(share * 35.2 + (1 - share) * 43.4, abs=0.05)


@pytest.mark.parametrize(
    ("wrong", "field"),
    [
        ({"later_kw": "200 hp"}, "later_kw"),
        ({"injectors": "must stay"}, "injectors"),
        ({"pumps": "must stay"}, "pumps"),
        ({"lines": "must stay"}, "lines"),
        ({"feeding": "carburettor", "injector_cc_min": "500"}, "injector_cc_min"),
        ({"ethanol_pct": "101"}, "ethanol_pct"),
        ({"feeding": "carburettor", "base_kpa": "300"}, "base_kpa"),
    ],
)
def test_what_cannot_be_is_refused_at_its_field(wrong, field):
    with pytest.raises(Refused) as refused:
        read_answers({"power_kw": "250 hp", **wrong}, BenchUnits())
    assert set(refused.value.problems) == {field}
    with pytest.raises(ValidationError):
        Answers(power_kw=300, later_kw=299)


def found(**said):
    answers = Answers(power_kw=180, **said)
    build, _ = asked_build(SHELF, answers)
    option, keep = as_found(SHELF, build.options[0], answers)
    return answers, build, option, keep


def test_what_is_fitted_is_as_it_was_said_whatever_the_shelf_has():
    said = {"injector_cc_min": 443.0, "injector_at_kpa": 380.0, "pump_l_h": 171.0, "pump_at_kpa": 310.0, "feed_mm": 7.3}
    answers, _, option, keep = found(**said, injectors="must stay")
    part = option.injectors.part
    assert (part.rated_flow_cc_min, part.rated_pressure_kpa, part.shelf_id) == (443.0, 380.0, None)
    assert flow_at(option.pumps[0].part, 310.0) == pytest.approx(171.0, rel=1e-3)
    assert option.feed.part.bore_mm == 7.3
    assert keep == ("injectors",)
    paid = bought(option, answers)
    assert (paid.injectors, paid.pumps, paid.feed) == (option.injectors, option.pumps, option.feed)
    assert paid.regulator.part.name == "–"


def test_what_is_said_of_lines_and_base_pressure_is_what_the_system_has():
    for feeding in ("port injection", "direct injection", "carburettor"):
        build, assumed = asked_build(SHELF, Answers(power_kw=150, feeding=feeding, induction="naturally aspirated"))
        (line,) = [one.values["line_m"] for one in assumed if "line_m" in one.values]
        assert line == build.options[0].feed.length_m
        if feeding != "carburettor":
            typed, _ = asked_build(SHELF, Answers(power_kw=150, feeding=feeding, base_kpa=420.0))
            assert typed.options[0].regulator.base_kpa == 420.0


def test_a_pump_for_floats_is_found_among_its_own_kind():
    v8 = {"displacement_l": 4.9, "cylinders": 8, "induction": "naturally aspirated", "feeding": "carburettor"}
    answers = Answers(power_kw=160, pump_l_h=190.0, **v8)
    build, _ = asked_build(SHELF, answers)
    option, _ = as_found(SHELF, build.options[0], answers)
    assert flow_at(option.pumps[0].part, 30.0) == pytest.approx(190.0, rel=1e-3)
    assert flow_at(option.pumps[0].part, 400.0) == 0.0


def test_what_must_stay_stays_and_what_was_asked_is_locked():
    answers, _, _, keep = found(injector_cc_min=650.0, injectors="must stay", base_kpa=350.0, budget=2000.0)
    asked = sizing.Locks(keep=("lines",))
    locks = locked_by(answers, asked, keep)
    assert locks.keep == ("lines", "injectors")
    assert (locks.base_pressure, locks.budget) == ("as it is", 2000.0)
    assert locked_by(Answers(power_kw=180, returns="returnless"), sizing.Locks(), ()).returns == "returnless"


def test_a_system_is_sized_round_what_must_stay_and_the_car_as_it_stands_beside_it(monkeypatch):
    monkeypatch.setattr(sizing, "WORKERS", 1)
    said = {"injector_cc_min": 650.0, "pump_l_h": 255.0, "pump_at_kpa": 300.0}
    answers = Answers(power_kw=170, **said, injectors="must stay", pumps="must stay", use="track")
    build, _, sized = size_answers(answers, SHELF, Rates(), BenchUnits())
    whole, today = build.options
    assert sized.carries
    assert build.fitted_today == today.id
    assert whole.injectors.part == today.injectors.part
    assert whole.pumps[0].part == today.pumps[0].part
    assert sum("It stays, as asked." in line for line in sized.account) == 2
    codes = [one.code for one in find(build, whole, judge_all(build, whole), SHELF.catalogue) if one.severity != "note"]
    assert codes == []


def test_a_budget_that_buys_nothing_is_told_with_what_the_cheapest_costs(monkeypatch):
    monkeypatch.setattr(sizing, "WORKERS", 1)
    v8 = {"displacement_l": 4.9, "cylinders": 8, "induction": "naturally aspirated", "feeding": "carburettor"}
    build, _, sized = size_answers(Answers(power_kw=160, budget=500.0, **v8), SHELF, Rates(), BenchUnits())
    assert not sized.carries
    assert sized.account[0] == over_budget(sized.design, 500.0, Rates())
    assert "500" in sized.account[0]
    assert f"{round(sized.design.bill.total, -1):.0f}"[:1] in sized.account[0]
    assert max(one.load("pumps").load for one in judge_all(build, build.options[0])) < 1.0


def test_several_systems_on_one_and_the_same_target_lift_each_by_its_own():
    """What is one array for all of a set leaves what differs in it as long as it is."""
    build, _ = asked_build(SHELF, Answers(power_kw=250, use="track", fuel="strong blend, E85"))
    option = build.options[0]
    (target,) = build.targets
    bores = (3.0, 5.0, 8.0, 12.0)
    options = [
        option.model_copy(
            update={
                "lift": option.lift.model_copy(
                    update={
                        "line": option.lift.line.model_copy(
                            update={"part": option.lift.line.part.model_copy(update={"bore_mm": bore})}
                        )
                    }
                )
            }
        )
        for bore in bores
    ]
    together = [one.lift.flow_m3_s for one in judge_many([(build, one, target) for one in options])]
    alone = [judge_many([(build, one, target)])[0].lift.flow_m3_s for one in options]
    assert together == pytest.approx(alone, rel=1e-9)
    assert together == sorted(together)


@pytest.mark.skipif(not LONG, reason="searches the shelf for every use")
@pytest.mark.parametrize("use", USES)
def test_every_use_is_sized_without_a_stop_or_a_check(use):
    build, _, sized = size_answers(Answers(power_kw=250, use=use), SHELF, Rates(), BenchUnits())
    option = build.options[0]
    graver = [
        one.code for one in find(build, option, judge_all(build, option), SHELF.catalogue) if one.severity != "note"
    ]
    assert sized.carries
    assert graver == []


def test_where_every_load_holds_what_else_is_wrong_is_told():
    car = demo("curlew")
    option = car.options[0]
    verdicts = judge_all(car, option)
    nearest = SimpleNamespace(option=option, verdicts=verdicts, first_out=verdicts[0], headroom=0.3, wanted=0.1)
    (first, *_) = find_troubles(car, option, verdicts, SHELF.catalogue)
    told = cannot(car, nearest, SHELF.catalogue, BenchUnits())
    assert first.title in told[0]
    assert "{" not in told[0]
    assert "headroom" not in told[0].split(first.title)[0]


def test_port_injectors_beside_a_direct_side_bring_the_rest_or_a_share_of_all(reading):
    shelf = reading.parts.shelf
    asked = {"feeding": "direct and port injection", "displacement_l": 2.0}
    strong, said = asked_build(shelf, Answers(power_kw=300, fuel="strong blend, E85", **asked))
    assert strong.options[0].mode == "ceiling"
    assert any("use_pct" in one.values for one in said)
    little, said = asked_build(shelf, Answers(power_kw=60, induction="naturally aspirated", **asked))
    assert little.options[0].mode == "share"
    assert any("share_pct" in one.values for one in said)
    for build in (strong, little):
        option = build.options[0]
        assert option.injectors is not None
        assert option.high_side is not None
        assert option.regulator.reference == "manifold" or build.engine.induction == "naturally aspirated"
        for verdict in judge_all(build, option):
            assert float(verdict.points.metered_kg_s[0]) > 0


@pytest.mark.parametrize(("power_kw", "pumps"), [(230, 1), (380, 2)])
def test_a_large_unboosted_engine_has_a_high_pressure_pump_a_bank(reading, power_kw, pumps):
    asked = Answers(feeding="direct injection", displacement_l=6.0, cylinders=12, power_kw=power_kw)
    build, _ = asked_build(reading.parts.shelf, asked.model_copy(update={"induction": "naturally aspirated"}))
    assert len(build.options[0].high_side.pumps) == pumps
