"""The envelope is, point by point, what the coupled solution says; boost permitted and other fuels follow from it."""

import numpy as np
import pytest

from iron_gulp.core.account import Context, explain, value
from iron_gulp.core.judge import judge, judge_many
from iron_gulp.core.model import BOUNDS, CEILINGS, LIMITS, POWER_LIMITS, RISING, CustomFuel, InjectorSet, apply
from iron_gulp.core.solve import demand, fuel_state
from iron_gulp.core.study import envelope, on_other_fuels, passed, permitted, runs_on, targets_boost_kpa, worth
from tests.draws import LONG
from tests.garage import CARS, car
from tests.systems import a_target, check_option, demo, injectors, line, pump
from tests.systems import build as one_build

rng = np.random.default_rng(11)
NAMES = list(CARS)
DEMOS = [(name, option.id) for name in ("curlew", "dunlin", "saltern", "fieldfare") for option in demo(name).options]


def of_car(name):
    built = car(name)
    return built, built.options[0], built.targets[int(rng.integers(len(built.targets)))]


def on_blend(target, pct):
    return target.model_copy(update={"ethanol_pct": float(pct), "vapour_kpa_abs": None})


def same(found, verdicts):
    """Every ceiling and load of an envelope's places is that of whole judgements."""
    for n, verdict in enumerate(verdicts):
        for load in verdict.loads:
            assert found.loads[load.component][n] == pytest.approx(load.load, rel=1e-9), load.component
            if load.component in CEILINGS:
                own = found.curves[load.component][n]
                ceiling = np.nan if load.ceiling_kw is None else load.ceiling_kw
                assert own == pytest.approx(ceiling, rel=1e-6, nan_ok=True), load.component
        limit = verdict.power_limit.ceiling_kw
        if limit is not None and not any(one.load > 1 and one.ceiling_kw is None for one in limits_of(verdict)):
            assert found.limit_kw[n] == pytest.approx(limit, rel=1e-6)
            assert found.limiting[n] == verdict.power_limit.component
        fine = all(one.load <= 1 for one in verdict.loads if one.component in (*LIMITS, *BOUNDS))
        assert bool(found.holds[n]) == fine


def limits_of(verdict):
    return [one for one in verdict.loads if one.component in POWER_LIMITS]


@pytest.mark.parametrize("name", NAMES)
def test_a_blend_of_the_envelope_is_that_blend_judged_whole(name):
    built, option, target = of_car(name)
    at = np.unique([*rng.uniform(0, 100, 12 if LONG else 4), 0.0, 100.0])
    found = envelope(built, option, target, at=at)
    same(found, judge_many([(built, option, on_blend(target, one)) for one in at]))


@pytest.mark.parametrize(("name", "option_id"), DEMOS)
def test_speeds_and_base_pressures_are_judged_whole_too(name, option_id):
    built = demo(name)
    option, target = built.option(option_id), built.targets[-1]
    rpm = np.unique(rng.uniform(2500, 7000, 3))
    asked = [(built, option, target.model_copy(update={"rpm": float(one)})) for one in rpm]
    same(envelope(built, option, target, "rpm", rpm), judge_many(asked))
    base = np.unique(rng.uniform(option.regulator.part.min_base_kpa, option.regulator.part.max_base_kpa, 3))

    def set_to(one):
        regulator = option.regulator.model_copy(update={"base_kpa": float(one)})
        return option.model_copy(update={"regulator": regulator})

    same(envelope(built, option, target, "base_kpa", base), judge_many([(built, set_to(one), target) for one in base]))


def test_a_measured_vapour_pressure_holds_on_its_own_blend_alone():
    built = demo("curlew")
    target = built.targets[0].model_copy(update={"vapour_kpa_abs": 80.0})
    at = np.array([target.ethanol_pct, 60.0])
    found = envelope(built, built.options[0], target, at=at)
    verdicts = judge_many([(built, built.options[0], target), (built, built.options[0], on_blend(target, 60.0))])
    assert found.loads["suction"] == pytest.approx([verdict.load("suction").load for verdict in verdicts])


@pytest.mark.parametrize(
    "name", ["Mild triple", "High altitude turbo", "Direct-injected turbo four on a light blend", "Staged on flow"]
)
def test_with_boost_rising_the_power_found_is_where_it_runs_out(name):
    if name not in CARS:
        name = next(one for one in NAMES if len(car(one).options[0].pumps) > 1 and car(one).targets[0].boost_kpa > 20)
    built, option, target = of_car(name)
    at = np.array([5.0, 45.0, 90.0])
    found = envelope(built, option, target, at=at, rising=True)
    bar = built.car.barometer_kpa
    for n, pct in enumerate(at):
        share = float(found.limit_kw[n]) / target.power_kw

        def judged(share, pct=pct):
            boost = (target.boost_kpa + bar) * share - bar
            changed = {"power_kw": target.power_kw * share, "boost_kpa": boost}
            return judge(built, option, on_blend(target, pct).model_copy(update=changed))

        first = found.limiting[n]
        assert judged(share * 0.985).load(first).load < 1.0
        assert judged(share * 1.015).load(first).load > 1.0


def test_stretches_of_blends_end_where_the_load_passes_one():
    built = demo("dunlin")
    target = built.targets[-1]
    found = envelope(built, built.option("direct"), target)
    ((low, high),) = runs_on(found)
    assert low == 0.0

    def fine(pct):
        verdict = judge(built, built.option("direct"), on_blend(target, pct))
        return all(one.load <= 1 for one in verdict.loads if one.component in LIMITS)

    assert fine(high)
    assert not fine(high + 1)
    assert passed(found, "high-pressure pump")[-1][1] == 100.0


def test_the_worth_of_replacing_the_weakest_is_what_comes_until_the_next():
    verdict = judge(demo("curlew"), demo("curlew").options[0], demo("curlew").targets[0])
    found = worth(verdict)
    assert found.order[0] == (verdict.power_limit.component, verdict.power_limit.ceiling_kw)
    powers = [kw for _, kw in found.order]
    assert powers == sorted(powers)
    assert found.gain_kw == pytest.approx(powers[1] - powers[0])
    assert set(found.alone) == {one for one, kw in found.order[1:] if kw > powers[0] * 1.005}
    # Proven by doing it: with far larger injectors the next one ends it, where it was said to.
    built = demo("curlew")
    option = built.options[0]
    part = option.injectors.part.model_copy(update={"rated_flow_cc_min": option.injectors.part.rated_flow_cc_min * 4})
    larger = option.model_copy(update={"injectors": option.injectors.model_copy(update={"part": part})})
    after = judge(built, larger, built.targets[0]).power_limit
    assert (after.component, after.ceiling_kw) == (found.order[1][0], pytest.approx(powers[1], rel=1e-6))


def staged_by_boost(joins_kpa):
    """A pump of physics §4 and a second like it above a boost: 13.5 V, no losses, base 300, 520 L/h at 150 kPa."""
    wide = line(60.0, 0.1, 0.0)
    groups = (pump(), pump(id="g2", on_above_kpa=joins_kpa))
    large = InjectorSet(part=injectors(3000))
    option = check_option(pumps=groups, feed=wide, return_line=wide, injectors=large)
    target = a_target(boost_kpa=150.0, ethanol_pct=0.0, supply_v=13.5, power_kw=300.0, power_at="crank")
    asked = one_build(option, target)
    litres = demand(asked, target).chosen_kg_s / fuel_state(asked, target).density_kg_m3 * 3.6e6
    return apply(asked, [("targets/t1/power_kw", 300.0 * 520.0 / litres)])


def test_a_stage_that_joins_by_boost_is_looked_at_on_the_way_up():
    """115 kPa is too late: from 99.4 to there the pump alone is short, though at 150 the load is 0.658."""
    late, early = staged_by_boost(115.0), staged_by_boost(80.0)
    option, target = late.options[0], late.targets[0]
    assert judge(late, option, target).load("pumps").load == pytest.approx(0.658, abs=2e-3)
    (bare,) = permitted(late, option, target, 0.0, (0.0,))
    assert (bare.boost_kpa, bare.by_targets, bare.component) == (pytest.approx(99.4, abs=0.1), False, "pumps")
    (kept,) = permitted(late, option, target, 0.1, (0.0,))
    assert kept.boost_kpa == pytest.approx(81.1, abs=0.1)
    assert kept.limit_boost_kpa == pytest.approx(99.4, abs=0.1)
    (own,) = permitted(early, early.options[0], early.targets[0], 0.1, (0.0,))
    assert (own.boost_kpa, own.by_targets) == (150.0, True)


def test_the_targets_own_boost_bounds_what_is_permitted():
    low, high = a_target(boost_kpa=80.0, ethanol_pct=0.0), a_target(id="t2", name="B", boost_kpa=150.0, ethanol_pct=85.0)
    built = one_build(None, low, high)
    assert targets_boost_kpa(built, low, 50.0) == pytest.approx(121.2, abs=0.05)
    assert targets_boost_kpa(built, low, 100.0) == 150.0
    strong = one_build(None, a_target(boost_kpa=150.0, ethanol_pct=60.0))
    assert targets_boost_kpa(strong, strong.targets[0], 50.0) == 150.0
    assert targets_boost_kpa(strong, strong.targets[0], 49.9) is None
    two = one_build(None, low, low.model_copy(update={"id": "t3", "name": "C", "boost_kpa": 95.0}))
    assert targets_boost_kpa(two, low, 0.0) == 95.0
    other = low.model_copy(update={"id": "t4", "name": "M", "base_fuel": "methanol", "boost_kpa": 300.0})
    assert targets_boost_kpa(one_build(None, low, other), low, 0.0) == 80.0
    (far,) = permitted(strong, strong.options[0], strong.targets[0], 0.1, (10.0,))
    assert far.untold
    assert (far.boost_kpa, far.power_kw, far.wrong_boost_kpa) == (None, None, None)
    (asked,) = permitted(strong, strong.options[0], strong.targets[0], 0.1, (10.0,), beyond=True)
    assert asked.boost_kpa == asked.own_boost_kpa


@pytest.mark.parametrize("name", ["curlew", "dunlin", "saltern"])
def test_below_the_boost_permitted_every_limit_holds_all_the_way_up(name):
    built = demo(name)
    bar = built.car.barometer_kpa
    for option in built.options if LONG else built.options[:1]:
        for target in built.targets if LONG else built.targets[:1]:
            for one in permitted(built, option, target, 0.1, (10.0, 50.0, 85.0)):
                if one.boost_kpa is None or one.without_boost:
                    continue
                kpa = np.linspace(max(-60.0, -0.8 * bar), one.boost_kpa, 60 if LONG else 14)
                way = [
                    on_blend(target, one.ethanol_pct).model_copy(
                        update={
                            "boost_kpa": float(at),
                            "power_kw": target.power_kw * (at + bar) / (target.boost_kpa + bar),
                        }
                    )
                    for at in kpa
                ]
                for verdict in judge_many([(built, option, each) for each in way], ceilings=False):
                    over = [load for load in verdict.loads if load.component in RISING and not load.load <= 1.0 + 1e-6]
                    if verdict.target.boost_kpa < 0:  # the throttle is shut, and no stroke need be full
                        over = [load for load in over if load.component != "high-pressure inlet"]
                    assert not over, (option.id, target.id, one, verdict.target.boost_kpa, over)


@pytest.mark.parametrize("target", ["road", "blend"])
def test_an_inlet_that_follows_the_manifold_is_not_blamed_for_a_shut_throttle(target):
    """A low side referenced to the manifold: far below no boost a plunger does not fill, and nobody asks it to."""
    build = demo("dunlin")
    option = build.option("port")
    asked = next(one for one in build.targets if one.id == target)
    assert option.regulator.reference == "manifold"
    verdict = judge(build, option, asked)
    assert all(one.load <= 1.0 for one in verdict.loads if one.component in LIMITS)
    shut = asked.model_copy(update={"boost_kpa": -80.0, "power_kw": 30.0})
    assert judge(build, option, shut).load("high-pressure inlet").load > 1.0
    (row,) = permitted(build, option, asked, 0.0, [asked.ethanol_pct])
    assert row.boost_kpa == pytest.approx(asked.boost_kpa)
    # What it lacks with the throttle open is a limit as before: a base pressure that fills it at no boost no longer.
    weak = apply(build, [("options/port/regulator/base_kpa", 180.0)])
    (low,) = permitted(weak, weak.option("port"), asked, 0.0, [asked.ethanol_pct])
    open_ = judge(weak, weak.option("port"), asked.model_copy(update={"boost_kpa": 0.0, "power_kw": 150.0}))
    assert open_.load("high-pressure inlet").load > 1.0
    assert low.without_boost
    assert low.component == "high-pressure inlet"


def test_what_cannot_be_met_is_not_a_boost_below_none():
    built = demo("curlew")
    option, target = built.options[0], built.targets[0]
    tiny = apply(built, [(f"options/{option.id}/injectors/part/rated_flow_cc_min", 150.0)])
    rows = permitted(tiny, tiny.options[0], target, 0.1)
    assert all(one.without_boost for one in rows)
    assert all(one.boost_kpa < 0 for one in rows if not one.untold)


def test_a_wrong_reading_permits_less_and_the_margin_is_off_the_systems_own_limit():
    built = demo("curlew")
    option, target = built.options[0], built.targets[0]
    rows, none = permitted(built, option, target, 0.1), permitted(built, option, target, 0.0)
    assert [one.ethanol_pct for one in rows] == [10.0 * n for n in range(11)]
    bar = built.car.barometer_kpa
    for one, bare in zip(rows, none, strict=True):
        assert one.own_boost_kpa + bar == pytest.approx((bare.own_boost_kpa + bar) / 1.1)
        assert one.limit_boost_kpa == bare.limit_boost_kpa == bare.own_boost_kpa
        assert (one.boost_kpa + bar) / one.power_kw == pytest.approx((target.boost_kpa + bar) / target.power_kw)
        assert one.wrong_power_kw <= one.power_kw
        assert one.boost_kpa == pytest.approx(min(one.own_boost_kpa, one.targets_kpa))
        assert one.by_targets == (one.own_boost_kpa >= one.targets_kpa)


def test_a_compressor_that_ends_first_sets_the_boost():
    built = demo("curlew")
    small = built.model_copy(update={"engine": built.engine.model_copy(update={"compressor_kg_s": 0.2}), "pulls": ()})
    rows = permitted(small, built.options[0], built.targets[0], 0.1)
    assert rows[0].component == "compressor"
    assert rows[0].power_kw < permitted(built, built.options[0], built.targets[0], 0.1)[0].power_kw


def test_fuels_that_are_no_blend_stand_by_what_they_carry():
    built = demo("curlew")
    heavy = CustomFuel(id="f1", name="Race fuel", density_15c_kg_m3=760.0, stoich_afr=14.4, lhv_mj_kg=43.0)
    built = built.model_copy(update={"fuels": (heavy,)})
    found = on_other_fuels(built, built.options[0], built.targets[0])
    assert {one.fuel_id for one in found} == {"gasoline", "methanol", "f1"}
    powers = [one.power_kw for one in found]
    assert powers == sorted(powers, reverse=True)
    for one in found:
        own = built.targets[0].model_copy(update={"base_fuel": one.fuel_id, "ethanol_pct": 0.0})
        verdict = judge(built, built.options[0], own)
        assert (one.power_kw, one.component) == (verdict.power_limit.ceiling_kw, verdict.power_limit.component)
        assert one.litres_h == pytest.approx(verdict.demand.chosen_kg_s * 3600 / verdict.fuel.density_kg_m3 * 1000)
    # Where volume limits, the fuel with the most energy a litre carries most.
    energy = {"gasoline": 745 * 43.4, "methanol": 795.6 * 19.9, "f1": 760 * 43.0}
    assert [one.fuel_id for one in found] == sorted(energy, key=lambda one: -energy[one])


def test_figures_of_the_ceilings_are_the_loads_and_open():
    built = demo("curlew")
    verdict = judge(built, built.options[0], built.targets[0])
    context = Context(built, verdict)
    loads = sorted((one.load for one in limits_of(verdict)), reverse=True)
    assert value("ceiling.first_pct", context) == pytest.approx(loads[0] * 100)
    assert value("ceiling.next_pct", context) == pytest.approx(loads[1] * 100)
    left = verdict.power_limit.ceiling_kw / built.targets[0].power_kw - 1
    assert value("ceiling.left_pct", context) == pytest.approx(left * 100, rel=1e-6)
    opened = {one.name: one for one in explain("ceiling.first_pct", context).inputs}
    assert opened["power_kw"].high == pytest.approx(loads[0] * 110, rel=1e-6)
    assert opened["power_kw"].low == pytest.approx(loads[0] * 90, rel=1e-6)
