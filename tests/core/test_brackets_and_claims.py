"""Data nobody knows: best and worst are corners judged whole, and what settles most is named. Claims on boxes."""

from itertools import product
from math import isnan

import pytest
from pydantic import ValidationError

from iron_gulp.core.judge import judge
from iron_gulp.core.model import LIMITS, Unknown
from iron_gulp.core.study import Said, claim, dead_time_over_volts, duty_over_speed, printed, within_brackets
from tests.draws import LONG
from tests.garage import car
from tests.systems import demo


def with_unknown(build, *unknown):
    option = build.options[0].model_copy(update={"unknown": unknown})
    return build.model_copy(update={"options": (option,)}), option


def holds(verdict):
    return all(load.load <= 1 for load in verdict.loads if load.component in LIMITS)


def test_nothing_unknown_nothing_bracketed():
    build = demo("curlew")
    assert within_brackets(build, build.options[0]) is None


def test_best_and_worst_are_the_corners_judged_whole():
    regulator = Unknown(id="a", what="regulator, wide-open flow", low_pct=50, high_pct=200)
    injectors = Unknown(id="b", what="port injectors, flow", low_pct=80, high_pct=120)
    build, option = with_unknown(demo("curlew"), regulator, injectors)
    found = within_brackets(build, option)
    for target, one in zip(build.targets, found.targets, strict=True):
        loads, held = [], []
        for wide, flow in product((0.5, 2.0), (0.8, 1.2)):
            part = option.regulator.part
            part = part.model_copy(update={"capacity_l_h": part.capacity_l_h * wide})
            injector = option.injectors.part
            injector = injector.model_copy(update={"rated_flow_cc_min": injector.rated_flow_cc_min * flow})
            changed = option.model_copy(
                update={
                    "regulator": option.regulator.model_copy(update={"part": part}),
                    "injectors": option.injectors.model_copy(update={"part": injector}),
                }
            )
            verdict = judge(build, changed, target)
            loads.append(verdict.first_out.load)
            held.append(holds(verdict))
        assert one.best.first_out.load == pytest.approx(min(loads))
        assert one.worst.first_out.load == pytest.approx(max(loads))
        assert one.settled == (len(set(held)) == 1)
        assert one.holds == all(held)


def test_what_to_measure_first_is_what_moves_the_verdict_most():
    regulator = Unknown(id="a", what="regulator, wide-open flow", low_pct=40, high_pct=250)
    drop = Unknown(id="b", what="filter, drop", low_pct=90, high_pct=110)
    build, option = with_unknown(demo("curlew"), drop, regulator)
    found = within_brackets(build, option)
    assert not all(one.settled for one in found.targets)
    assert found.first.what == "regulator, wide-open flow"
    sure, option = with_unknown(car("Mild triple"), Unknown(id="a", what="filter, drop", low_pct=95, high_pct=105))
    settled = within_brackets(sure, option)
    assert all(one.settled and one.holds for one in settled.targets)
    assert settled.first is None


@pytest.mark.parametrize("what", Unknown.model_fields["what"].annotation.__args__)
def test_every_datum_can_be_bracketed_on_every_kind_of_system(what):
    for name in ("curlew", "dunlin", "saltern", "fieldfare"):
        build, option = with_unknown(demo(name), Unknown(id="a", what=what, low_pct=70, high_pct=130))
        found = within_brackets(build, option)
        assert all(one.best.first_out.load <= one.worst.first_out.load for one in found.targets)


@pytest.mark.parametrize("wrong", [{"low_pct": 120}, {"high_pct": 90}, {"low_pct": 100, "high_pct": 100}])
def test_a_bracket_that_is_none_is_refused(wrong):
    with pytest.raises(ValidationError):
        Unknown(id="a", **wrong)


def test_a_claim_means_what_physics_says_of_its_ends():
    """400 kW: at least 0.45 lb/hp·h on gasoline at the crank, at most 0.60 on E85 at four wheels (physics §2)."""
    found = claim(400.0, 500.0)
    least = 400 / 0.74569987 * 0.45 * 0.45359237 / 745 * 1000
    assert found.least_l_h == pytest.approx(least)
    assert found.most_l_h == pytest.approx(least * (0.60 / 0.45) / (1 - 0.21) * 1.4102, rel=0.005)
    assert found.possible
    assert not claim(400.0, 100.0).possible
    with pytest.raises(ValueError, match="some power"):
        claim(0.0, 100.0)


def test_what_a_claim_says_of_itself_is_no_longer_open():
    open_ = claim(400.0, 500.0)
    for said, ratio in (
        (Said(at_crank=True), 1 - 0.21),
        (Said(at_crank=False), 1.0),
        (Said(boosted=False), 0.45 / 0.60),
        (Said(ethanol=0.0), 1 / 1.4102),
        (Said(ethanol=0.85), 1.0),
    ):
        assert claim(400.0, 500.0, said).most_l_h == pytest.approx(open_.most_l_h * ratio, rel=0.005)
    assert claim(400.0, 500.0, Said(boosted=True)).least_l_h == pytest.approx(open_.least_l_h * 0.60 / 0.45)
    wheels = claim(400.0, 500.0, Said(at_crank=False))
    assert wheels.least_l_h == pytest.approx(open_.least_l_h / (1 - 0.14))  # physics §2: the front wheels driven
    assert wheels.by_place == pytest.approx((1 - 0.14) / (1 - 0.21))
    whole = claim(400.0, 500.0, Said(at_crank=True, boosted=True, ethanol=0.5))
    assert whole.least_l_h == pytest.approx(whole.most_l_h)
    assert whole.least_l_h == pytest.approx(open_.least_l_h * 0.60 / 0.45 * 1.2064, rel=0.005)
    assert whole.by_fuel == whole.by_place == whole.by_engine == 1.0


@pytest.mark.parametrize("name", ["curlew", "dunlin", "fieldfare", "saltern"])
def test_a_printed_flow_holds_where_the_part_itself_passes_it(name):
    build = demo(name)
    for option in build.options if LONG else build.options[-1:]:
        verdict = judge(build, option, build.targets[0])
        parts = printed(option, verdict)
        assert "feed line" in {one.what for one in parts}
        for one in parts:
            for share in (0.3, 1.0, 1.7):
                holds = one.holds_kpa(one.here_l_h * share, one.volts)
                if not isnan(holds):
                    assert one.passes_l_h(holds, one.volts) == pytest.approx(one.here_l_h * share, rel=1e-5, abs=1e-5)
            assert one.passes_l_h(one.here_kpa, one.volts) == pytest.approx(one.here_l_h, rel=1e-6)
            assert one.falls == (one.what == "pump")
        pump = next((one for one in parts if one.falls), None)
        if pump is not None:
            assert isnan(pump.holds_kpa(1e5, pump.volts))
            assert pump.holds_kpa(pump.here_l_h, pump.volts - 1.0) < pump.here_kpa


def test_duty_over_speed_passes_through_the_target_and_dead_time_through_its_table():
    build = demo("curlew")
    verdict = judge(build, build.options[0], build.targets[0])
    sweep = duty_over_speed(build, verdict)
    main = next(one for one in sweep.series if one.kind == "main")
    point = next(one for one in sweep.series if one.kind == "point")
    at = min(range(main.x.size), key=lambda n: abs(main.x[n] - point.x[0]))
    assert main.y[at] == pytest.approx(float(point.y[0]), rel=0.03)
    # The same filling at every speed is the same pulse, and cycles shorten with speed.
    assert main.y / main.x == pytest.approx(main.y[-1] / main.x[-1], rel=0.02)
    part = build.options[0].injectors.part
    published = dead_time_over_volts(build, verdict).series[0]
    assert min(abs(published.x - part.dead_time_v[0])) < 0.2
    carburetted = demo("fieldfare")
    bowl = judge(carburetted, carburetted.options[0], carburetted.targets[0])
    for chart in (duty_over_speed, dead_time_over_volts):
        with pytest.raises(KeyError):
            chart(carburetted, bowl)
