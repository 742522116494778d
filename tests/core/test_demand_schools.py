"""Sizing and expected consumption, alcohol by its two schools, and what a pull says of the air (physics §2, §8)."""

import math

import numpy as np
import pytest
from hypothesis import given
from hypothesis import strategies as st

from iron_gulp.core.judge import judge, judge_all
from iron_gulp.core.model import (
    Car,
    Engine,
    InjectorPart,
    InjectorSet,
    MeasuredRun,
    Pull,
    PumpCurve,
    PumpPart,
    Tolerances,
    apply,
    bsfc_kg_kwh,
    credit_share,
    expected_bsfc_kg_kwh,
)
from iron_gulp.core.physics import KG_KWH_PER_LB_HPH, blend
from iron_gulp.core.solve import demand, fuel_state
from iron_gulp.core.study import at_expected, chances, judged_beside, logged_off, reserve, uses
from tests.draws import LONG, draws
from tests.systems import a_target, build, check_option, demo, line, pump

HP, LB = 0.74569987, KG_KWH_PER_LB_HPH


@pytest.mark.parametrize(
    ("pct", "credit", "as_run", "equal"),
    [(30, 0.0292, 1.083, 1.114), (50, 0.0481, 1.151, 1.206), (85, 0.0800, 1.306, 1.410)],
)
def test_alcohol_as_run_and_as_equal_mixture(pct, credit, as_run, equal):
    """Volume against gasoline at the same power, at 15 °C."""

    def volume(school, at):
        one = build(None, a_target(ethanol_pct=at, fuel_temp_c=15.0, alcohol=school))
        found = demand(one, one.targets[0])
        return found.chosen_kg_s / fuel_state(one, one.targets[0]).density_kg_m3, float(found.credit)

    assert volume("as run", pct)[1] == pytest.approx(credit, abs=5e-5)
    assert volume("as run", pct)[0] / volume("as run", 0)[0] == pytest.approx(as_run, rel=5e-3 * 0.2)
    assert volume("equal mixture", pct)[0] / volume("equal mixture", 0)[0] == pytest.approx(equal, rel=1e-3)


def test_a_typed_credit_is_the_same_on_every_blend_and_counts_only_where_it_is_typed():
    shares = [float(blend(pct / 100.0, 15.0).mass_fraction) for pct in (0, 50, 85)]
    typed = a_target(alcohol="typed credit", efficiency_credit_pct=5.0)
    assert [credit_share(typed, one) for one in shares] == [0.05] * 3
    for school in ("equal mixture", "as run"):
        other = a_target(alcohol=school, efficiency_credit_pct=5.0)
        assert credit_share(other, 0.0) == 0.0
    assert a_target().alcohol == "typed credit"  # as every stored target was
    methanol = build(None, a_target(base_fuel="methanol", ethanol_pct=0, alcohol="as run"))
    assert demand(methanol, methanol.targets[0]).credit == 0.0


def test_defaults_by_induction_and_injection():
    port = check_option()
    direct = demo("dunlin").option("as-found")
    for induction, size, expected, direct_size, direct_expected in (
        ("naturally aspirated", 0.50, 0.45, 0.50, 0.45),
        ("supercharged", 0.60, 0.52, 0.53, 0.47),
        ("turbocharged", 0.60, 0.50, 0.53, 0.44),
    ):
        engine = Engine(displacement_l=2.5, cylinders=5, induction=induction)
        one = a_target(power_kw=300.0, power_at="crank", ethanol_pct=0.0)
        for option, size_lb, expected_lb in ((port, size, expected), (direct, direct_size, direct_expected)):
            found = demand(build(option, one, engine=engine), one, option)
            assert found.chosen_kg_s * 3600.0 == pytest.approx(300.0 * size_lb * LB)
            assert found.expected_kg_s * 3600.0 == pytest.approx(300.0 * expected_lb * LB)


def test_direct_expected_fuel_and_air():
    """300 kW on E0, turbocharged: 80.29 kg/h, 0.2721 kg/s of air."""
    one = a_target(power_kw=300.0, power_at="crank", ethanol_pct=0.0)
    option = demo("dunlin").option("as-found")
    found = demand(build(option, one), one, option)
    assert found.expected_kg_s * 3600.0 == pytest.approx(80.29, rel=1e-3)
    assert found.air_needed_kg_s == pytest.approx(0.2721, rel=1e-3)


def side_by_side(**changes):
    """450 kW crank, turbocharged, E85 at 30 °C, 7000 rpm; a pump that brings 395 L/h whatever the pressure."""
    flat = PumpPart(
        name="p", curves=(PumpCurve(voltage_v=13.5, pressure_kpa=(0, 2000), flow_l_h=(395.0, 394.999), current_a=(8, 9)),)
    )
    part = InjectorPart(name="i", rated_flow_cc_min=1700, dead_time_v=(13.5,), dead_time_ms=(0.9,))
    option = check_option(
        pumps=(pump(part=flat),),
        injectors=InjectorSet(part=part),
        feed=line(60.0, 0.1, 0.0),
        return_line=line(60.0, 0.1, 0),
    )
    target = a_target(
        power_kw=450.0,
        power_at="crank",
        ethanol_pct=85.0,
        fuel_temp_c=30.0,
        rpm=7000,
        supply_v=13.5,
        **{"alcohol": "as run", **changes},
    )
    return build(option, target, engine=Engine(displacement_l=2.5, cylinders=4))


@pytest.mark.parametrize("name", ["curlew", "dunlin", "fieldfare"])
def test_both_judged_as_one_set_are_what_each_is_alone(name):
    car = demo(name)
    sized, *rest = car.targets
    car = car.model_copy(
        update={"targets": (sized, *rest, rest[-1].model_copy(update={"id": "by-air", "school": "air"}))}
    )
    option = car.options[0]
    verdicts, expected = judged_beside(car, option)
    for found, alone in ((verdicts, judge_all(car, option)), (expected, at_expected(car, option))):
        for one, other in zip(found, alone, strict=True):
            assert [load.component for load in one.loads] == [load.component for load in other.loads]
            assert [load.load for load in one.loads] == pytest.approx([load.load for load in other.loads], rel=1e-8)
    assert expected[-1] is verdicts[-1]  # sized by the air: its own figure is both
    assert expected[0].load("pumps").load < verdicts[0].load("pumps").load


def test_sizing_and_expected_side_by_side():
    one = side_by_side()
    option, target = one.options[0], one.targets[0]
    verdict, (expected,) = judge(one, option, target), at_expected(one, option)
    litres = 3.6e6 / verdict.fuel.density_kg_m3
    assert verdict.demand.chosen_kg_s * 3600.0 == pytest.approx(226.3, rel=5e-4)
    assert verdict.demand.chosen_kg_s * litres == pytest.approx(292.5, rel=5e-4)
    assert verdict.demand.expected_kg_s * 3600.0 == pytest.approx(188.6, rel=5e-4)
    assert expected.demand.chosen_kg_s * litres == pytest.approx(243.7, rel=5e-4)
    for found, pumps, injectors in ((verdict, 0.740, 0.956), (expected, 0.617, 0.797)):
        assert found.load("pumps").load == pytest.approx(pumps, abs=1.5e-3)
        assert found.load("injectors").load == pytest.approx(injectors, abs=1.5e-3)
    equal = side_by_side(alcohol="equal mixture")
    judged = judge(equal, equal.options[0], equal.targets[0])
    assert judged.demand.chosen_kg_s * 3600.0 == pytest.approx(244.4, rel=5e-4)
    assert judged.load("pumps").load == pytest.approx(0.800, abs=1.5e-3)
    assert judged.load("injectors").load == pytest.approx(1.033, abs=1.5e-3)


def test_the_expected_figure_is_its_own_and_never_the_lower_of_two():
    lean = a_target(bsfc_kg_kwh=0.20)
    one = build(None, lean)
    assert expected_bsfc_kg_kwh(lean, one.engine, False) == pytest.approx(0.50 * LB)
    assert bsfc_kg_kwh(lean, one.engine, False) == 0.20
    assert reserve(one, one.options[0], lean) < 0
    typed = a_target(expected_bsfc_kg_kwh=0.27)
    assert demand(build(None, typed), typed).expected_bsfc_kg_kwh < demand(one, a_target()).expected_bsfc_kg_kwh
    for school in ("air", "measured"):
        run = MeasuredRun(power_kw=150, rpm=6000, injector_cc_min=1000, differential_kpa=300, duty_pct=60)
        found = demand(build(None, a_target(school=school), measured=run), a_target(school=school))
        assert found.expected_kg_s == found.chosen_kg_s


def test_a_log_on_another_blend_counts_by_energy_and_by_credit():
    run = MeasuredRun(power_kw=150, rpm=6000, injector_cc_min=1000, differential_kpa=300, duty_pct=60, ethanol_pct=10)
    for school, credit in (("equal mixture", 0.0), ("as run", 0.08)):
        target = a_target(ethanol_pct=85.0, school="measured", alcohol=school)
        then = target.model_copy(update={"ethanol_pct": 10.0})
        one = build(None, target, measured=run)
        now, before = demand(one, target), demand(one, then)
        small, large = (float(blend(pct, 30.0).lhv_mj_kg) for pct in (0.10, 0.85))
        credits = [(1 + credit * float(blend(pct, 30.0).mass_fraction) / 0.858) for pct in (0.10, 0.85)]
        assert now.measured_kg_s / before.measured_kg_s == pytest.approx(small * credits[0] / (large * credits[1]))


# The air


CHECK = {"ethanol_pct": 60.0, "charge_temp_c": 48.0, "lambda_": 0.80, "ve_pct": 98.0, "power_at": "crank", "rpm": 6800.0}


def breathing(power_hp, pulls=(), boost_kpa=250.0 - 101.325, **changes):
    target = a_target(power_kw=power_hp * HP, boost_kpa=boost_kpa, **{**CHECK, **changes})
    engine = Engine(displacement_l=2.5, cylinders=5, max_rpm=9000.0)
    return build(None, target, pulls=pulls, car=Car(loss_pct=0.0), engine=engine)


def a_pull(crank_hp=500.0, kpa_abs=230.0, rpm=6500.0, pct=60.0, **changes):
    told = {"id": "p1", "power_kw": crank_hp * HP, "rpm": rpm, "boost_kpa": kpa_abs - 101.325, "ethanol_pct": pct}
    return Pull(**told | changes)


def air_of(one):
    found = demand(one, one.targets[0])
    return found.air_kg_s / found.air_needed_kg_s


def test_air_with_and_without_a_pull():
    assert air_of(breathing(560.0)) == pytest.approx(0.911, abs=1e-3)
    assert air_of(breathing(560.0, (a_pull(),))) == pytest.approx(1.015, abs=1e-3)
    assert air_of(breathing(615.4)) == pytest.approx(0.829, abs=1e-3)
    with_pull = breathing(615.4, (a_pull(),))
    assert air_of(with_pull) == pytest.approx(0.924, abs=1e-3)
    assert demand(with_pull, with_pull.targets[0]).air_limited_power_kw / HP == pytest.approx(568.6, abs=0.2)
    plain = breathing(615.4)
    assert demand(plain, plain.targets[0]).air_needed_kg_s / 0.45359237 * 60 == pytest.approx(60.05, abs=0.02)


@given(
    st.lists(
        st.tuples(st.floats(150, 700), st.floats(120, 330), st.floats(3500, 8000), st.floats(0, 100)),
        min_size=1,
        max_size=4,
    ),
    st.floats(0.3, 1.0),
    st.floats(60, 300),
    st.floats(3500, 8500),
)
@draws(120)
def test_a_target_at_or_below_what_a_pull_has_shown_is_never_air_limited(shown, share, kpa_abs, rpm):
    """Whatever its blend, VE and the other pulls say."""
    pulls = tuple(a_pull(*one, id=f"p{n}") for n, one in enumerate(shown))
    borne = max(hp * min(kpa_abs / kpa, 1.1) * min(rpm / n, 1.1) for hp, kpa, n, _ in shown)
    one = breathing(borne * share, pulls, kpa_abs - 101.325, rpm=rpm)
    assert judge(one, one.options[0], one.targets[0]).load("engine").load <= 1.0 + 1e-9


def test_a_pull_set_aside_says_nothing_and_of_several_the_nearest_fits():
    plain = air_of(breathing(560.0))
    assert air_of(breathing(560.0, (a_pull(counts="set aside"),))) == plain
    near, far = a_pull(), a_pull(300.0, 150.0, 5000.0, id="far")
    assert air_of(breathing(560.0, (far, near))) == air_of(breathing(560.0, (near,)))


def test_a_pull_answers_for_the_air_alone():
    """The compressor's air and the fuel are what they were."""
    one, other = breathing(560.0), breathing(560.0, (a_pull(),))
    before, after = (demand(each, each.targets[0]) for each in (one, other))
    assert after.air_expected_kg_s == before.air_expected_kg_s
    assert after.expected_kg_s == before.expected_kg_s
    assert after.chosen_kg_s == before.chosen_kg_s


# Chances are about cars


def spread_only(**spreads):
    nothing = {
        name: {
            key: 0.0 if key.startswith("spread") else value
            for key, value in getattr(Tolerances(), name).model_dump().items()
        }
        for name in Tolerances.model_fields
    }
    told = {name: {"spread_pct": value} for name, value in spreads.items()}
    return Tolerances.model_validate(nothing | told)


def test_chances_stand_around_the_expected_consumption():
    """One limit, pumps at sizing load 0.97, turbocharged: 0.962 of cars, where the old rule said 0.372."""
    one = side_by_side()
    verdict = judge(one, one.options[0], one.targets[0])
    power = 450.0 * 0.97 / verdict.load("pumps").load
    one = apply(one, [("targets/t1/power_kw", power), ("options/o1/injectors/part/rated_flow_cc_min", 4000.0)])
    one = one.model_copy(update={"tolerances": spread_only(consumption=8.0, pump_flow=4.0, pump_wear=10.0)})
    count = 40_000 if LONG else 12_000
    found = chances(one, one.options[0], count, 1).targets[0]
    assert float((found.loads["pumps"] <= 1.0).mean()) == pytest.approx(0.962, abs=0.01)
    assert Tolerances().consumption.spread_pct == 8.0
    (expected,) = at_expected(one, one.options[0])
    assert expected.load("pumps").load == pytest.approx(0.808, abs=1e-3)


def test_a_log_with_its_fuel_narrows_consumption_to_four_per_cent():
    run = MeasuredRun(power_kw=150, rpm=6000, injector_cc_min=1000, differential_kpa=300, duty_pct=60)
    plain, logged = build(None, a_target()), build(None, a_target(), measured=run)
    assert not uses(plain, plain.options[0], plain.targets[0])
    (use,) = uses(logged, logged.options[0], logged.targets[0])
    assert (use.name, use.spread) == ("consumption", 0.04)
    found = demand(logged, logged.targets[0])
    assert use.offset == pytest.approx(found.measured_kg_s / found.expected_kg_s - 1.0)
    assert use.offset == logged_off(logged, logged.targets[0], logged.options[0])


def test_volts_move_dead_times_as_well_as_pumps():
    part = InjectorPart(
        name="i", rated_flow_cc_min=1700, dead_time_v=(10.0, 16.0), dead_time_ms=(1.9, 0.4), dead_more_kpa=(500.0,),
        dead_more_ms=(2.2, 0.6),
    )  # fmt: skip
    one = apply(side_by_side(), [("options/o1/injectors/part", part.model_dump(mode="json"))])
    told = spread_only().model_dump() | {"voltage": {"spread_v": 0.5}}
    one = one.model_copy(update={"tolerances": Tolerances.model_validate(told)})
    found = chances(one, one.options[0], 400, 3).targets[0].loads["injectors"]
    assert np.ptp(found) > 0.02
    for volts in (13.5 - 1.0, 13.5 + 1.0):
        moved = apply(one, [("targets/t1/supply_v", volts)])
        (verdict,) = at_expected(moved, moved.options[0])
        draw = float(np.interp(volts, [13.5], [verdict.load("injectors").load]))
        assert found.min() - 0.05 < draw < found.max() + 0.05
    assert math.isclose(float(np.median(found)), at_expected(one, one.options[0])[0].load("injectors").load, rel_tol=5e-3)
