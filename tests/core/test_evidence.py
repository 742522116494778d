"""What was measured: the newest of each counts, for the option and part it was taken with, and narrows its input."""

import numpy as np
import pytest
from pydantic import ValidationError

from iron_gulp.core.advise.base import Context
from iron_gulp.core.advise.evidence import entered
from iron_gulp.core.judge import judge_all
from iron_gulp.core.model import Pull, Reading, Tolerances, apply, driveline_loss, driveline_share, logged_run
from iron_gulp.core.solve import demand
from iron_gulp.core.study import can_be_read, chances, fuel_twice, in_use, measures, members, pull_gain, rated_flow, uses
from iron_gulp.core.study.measured import fitted_part
from iron_gulp.shelf import load_shelf
from tests.core.test_findings import codes
from tests.garage import CARS, car
from tests.systems import demo


def reading(build, of="base pressure", member="", **told):
    option = build.options[0]
    part = next(part for each, one, part in can_be_read(option) if (each, one) == (of, member))
    return Reading(**{"id": "r1", "of": of, "member": member, "option": option.id, "part": part, **told})


def with_readings(build, *several):
    named = tuple(one.model_copy(update={"id": f"r{number}"}) for number, one in enumerate(several))
    return build.model_copy(update={"readings": named})


def pull(**told):
    return Pull(**{"id": "d1", "power_kw": 200.0, "rpm": 6000.0, "boost_kpa": 100.0, "ethanol_pct": 10.0, **told})


def used(build, name):
    return [one for one in uses(build, build.options[0], build.targets[0]) if one.name == name]


def test_newest_wins_all_are_kept_and_one_set_aside_leaves_the_next():
    build = demo("curlew")
    old, new = (reading(build, day=day, read_kpa=kpa) for day, kpa in (("2026-01-05", 310.0), ("2026-02-05", 296.0)))
    for order in ((old, new), (new, old)):
        both = with_readings(build, *order)
        assert [one.read_kpa for one in in_use(both, both.options[0])] == [296.0]
        assert used(both, "base_pressure")[0].offset == pytest.approx(-4.0)
    aside = with_readings(build, old, new.model_copy(update={"counts": "set aside"}))
    assert used(aside, "base_pressure")[0].offset == pytest.approx(10.0)
    same_day = with_readings(build, new, new.model_copy(update={"read_kpa": 301.0}))
    assert used(same_day, "base_pressure")[0].offset == pytest.approx(1.0)


def test_a_reading_holds_for_its_option_and_its_part_and_says_why_it_does_not():
    build = demo("curlew")
    one = with_readings(build, reading(build, "pump flow", "g2", share_pct=90.0))
    first, second = one.options[:2]
    taken = one.readings[0]
    assert measures(one, first, taken) == ""
    assert measures(one, second, taken) == "taken on another option"
    swapped = apply(one, [(f"options/{first.id}/pumps/g2/part/name", "Another pump")])
    assert "not with what is fitted" in measures(swapped, swapped.options[0], taken)
    gone = first.model_copy(update={"pumps": first.pumps[:1]})
    assert "not fitted any more" in measures(one, gone, taken)
    volts = with_readings(build, reading(build, "voltage", read_v=13.2))
    assert measures(volts, volts.options[1], volts.readings[0]) == ""


@pytest.mark.parametrize("name", ["curlew", "dunlin", "saltern", "fieldfare"])
def test_everything_that_can_be_read_is_a_member_of_its_input_and_starts_at_nothing_off(name):
    build = demo(name).model_copy(update={"pulls": (), "readings": ()})
    for option in build.options:
        only = build.model_copy(update={"options": (option,)})
        counts = members(only, option)
        for of, member, _ in can_be_read(option):
            told = {"read_kpa": option.regulator.base_kpa, "read_v": build.targets[0].supply_v}
            told |= {"read_c": build.targets[0].fuel_temp_c}
            if of == "injector flow":
                told["flow_cc_min"] = rated_flow(option, member)
            one = with_readings(only, reading(only, of, member, **told))
            found = uses(one, option, one.targets[0])
            assert found
            for use in found:
                assert use.member < counts[use.name] or use.name == "blend_measured"
                assert use.offset == pytest.approx(0.0, abs=1e-9)


def test_a_reading_moves_the_chance_exactly_as_the_same_spread_and_offset_typed_do():
    build = demo("curlew").model_copy(update={"readings": (), "pulls": ()})
    taken = with_readings(
        build, reading(build, read_kpa=288.0, sure_kpa=1.5), reading(build, "voltage", read_v=13.4, sure_v=0.1)
    )
    option = build.options[0]
    for number, target in enumerate(build.targets):
        typed = build.tolerances.model_dump()
        typed["base_pressure"] |= {"spread_kpa": 1.5, "offset_kpa": -12.0}
        typed["voltage"] |= {"spread_v": 0.1, "offset_v": 13.4 - target.supply_v}
        told = build.model_copy(update={"tolerances": Tolerances.model_validate(typed)})
        one, other = (chances(each, option, 200, 3).targets[number] for each in (taken, told))
        for name, loads in one.loads.items():
            np.testing.assert_allclose(loads, other.loads[name], rtol=1e-12)
        plain = chances(build, option, 200, 3).targets[number]
        assert not np.array_equal(plain.loads["injectors"], one.loads["injectors"])


def test_a_pump_read_alone_is_the_one_that_moves_and_its_wear_is_in_the_reading():
    build = demo("curlew").model_copy(update={"readings": (), "pulls": ()})
    for number, group in enumerate(build.options[0].pumps):
        one = with_readings(build, reading(build, "pump flow", group.id, share_pct=80.0, sure_pct=1.0))
        flow, wear = used(one, "pump_flow"), used(one, "pump_wear")
        assert [use.member for use in (*flow, *wear)] == [number, number]
        assert flow[0].offset == pytest.approx(-0.2)
        assert (wear[0].spread, wear[0].offset) == (0.0, 0.0)
        worn = apply(one, [(f"options/{build.options[0].id}/pumps/{group.id}/derate_pct", 20.0)])
        assert used(worn, "pump_flow")[0].offset == pytest.approx(0.0, abs=1e-12)


def test_an_ethanol_sensor_proven_corrects_what_it_reads():
    build = demo("curlew")
    one = with_readings(build, reading(build, "ethanol sensor", sensor_pct=53.0, known_pct=50.0, sure_pct=1.0))
    blends = {(target.base_fuel, target.ethanol_pct) for target in build.targets}
    assert len(used(one, "blend_measured")) == len(blends)
    assert [use.offset for use in used(one, "blend_measured")] == pytest.approx([-0.03] * len(blends))


def test_the_dynos_crank_figure_stands_where_no_loss_is_entered():
    build = demo("curlew").model_copy(update={"pulls": (pull(crank_kw=250.0),)})
    assert driveline_share(build) == pytest.approx(0.2)
    assert demand(build, build.targets[0]).crank_kw == pytest.approx(build.targets[0].power_kw / 0.8)
    entered = apply(build, [("car/loss_pct", 15.0)])
    assert driveline_share(entered) == pytest.approx(0.15) == driveline_loss(entered.car)
    assert used(entered, "driveline")[0].offset == pytest.approx(0.05)
    for crank in (200.0, 190.0, 600.0):
        with pytest.raises(ValidationError, match="at the crank"):
            pull(crank_kw=crank)
    with pytest.raises(ValidationError, match="no correction"):
        pull(figures="as measured", correction_ratio=1.04)


def test_a_pull_with_duty_is_a_logged_run_and_its_correction_is_taken_out():
    told = {"injector_cc_min": 800.0, "duty_pct": 60.0, "differential_kpa": 300.0, "correction_ratio": 1.05}
    build = demo("curlew").model_copy(update={"measured": None, "pulls": (pull(figures="corrected", **told),)})
    run = logged_run(build)
    assert run is not None
    assert run.power_kw == pytest.approx(200.0 / 1.05)
    cycle_ms = 120_000.0 / 6000.0
    share = 0.60 - 0.9 / cycle_ms
    flow = 800e-6 / 60 * 684.0 * (demand_density(build) / 684.0) ** 0.5
    burnt = flow * share * build.engine.cylinders / (run.power_kw / (1.0 - driveline_loss(build.car)))
    first = build.targets[0].model_copy(update={"ethanol_pct": 10.0, "fuel_temp_c": 30.0})
    found = demand(build.model_copy(update={"targets": (first,)}), first)
    assert found.measured_kg_s == pytest.approx(burnt * found.crank_kw, rel=1e-9)
    use = used(build, "consumption")[0]
    assert use.offset == pytest.approx(
        demand(build, build.targets[0]).measured_kg_s / demand(build, build.targets[0]).expected_kg_s - 1
    )
    sized = apply(build, [(f"targets/{build.targets[0].id}/school", "measured")])
    assert used(sized, "consumption")[0].offset == 0.0
    with pytest.raises(Exception, match="measured run"):
        apply(sized, [("pulls", [])])


def demand_density(build):
    from iron_gulp.core.physics import blend

    return float(blend(0.10, 30.0).density_kg_m3)


def test_fuel_told_twice_is_compared_and_speaks_only_when_it_parts():
    build = car("Naturally aspirated six")
    told = {"boost_kpa": 0.0, "duty_pct": 60.0, "injector_cc_min": 400.0, "figures": "as measured"}
    made = fuel_twice(build.model_copy(update={"pulls": (pull(fuel_kg_h=30.0, **told),)})).by_duty_kg_h
    hand = 400e-6 / 60 * 684.0 * (demand_density(build) / 684.0) ** 0.5 * (0.6 - 0.9 / 20.0) * 6 * 3600.0
    assert made == pytest.approx(hand, rel=1e-9)
    for ratio, speaks in ((1.0, False), (0.95, False), (1.07, False), (1.1, True), (0.9, True)):
        pulls = (pull(fuel_kg_h=made * ratio, **told),)
        assert ("pull-fuel-parts" in codes(build.model_copy(update={"pulls": pulls}))) == speaks


def test_two_pulls_alike_but_for_boost_tell_the_gain_and_others_do_not():
    build = demo("curlew").model_copy(update={"pulls": ()})
    low, high = pull(), pull(id="d2", boost_kpa=150.0, power_kw=230.0)
    found = pull_gain(build.model_copy(update={"pulls": (high, low)}))
    barometer = build.car.barometer_kpa
    assert found.expected == pytest.approx((barometer + 150) / (barometer + 100) - 1)
    assert found.got == pytest.approx(0.15)
    for other in (
        {"ethanol_pct": 60.0},
        {"figures": "corrected"},
        {"rpm": 6600.0},
        {"day": "2026-01-01"},
        {"boost_kpa": 105.0},
    ):
        pulls = (low, high.model_copy(update=other))
        assert pull_gain(build.model_copy(update={"pulls": pulls})) is None


def test_pulls_that_all_say_what_they_are_raise_nothing():
    build = car("Naturally aspirated six")
    measured, corrected = pull(boost_kpa=0.0, figures="as measured"), pull(id="d2", boost_kpa=0.0, figures="corrected")
    known = corrected.model_copy(update={"correction_ratio": 1.02})
    assert "pulls-mixed" not in codes(build.model_copy(update={"pulls": (measured, known)}))
    assert "pulls-mixed" in codes(build.model_copy(update={"pulls": (measured, corrected)}))
    assert "pulls-mixed" not in codes(
        build.model_copy(update={"pulls": (corrected, corrected.model_copy(update={"id": "d3"}))})
    )


@pytest.mark.parametrize("off", [-45.0, -9.0, -5.0, 0.0, 5.0, 9.0, 45.0])
def test_a_reading_speaks_when_it_is_further_off_than_both_may_be(off):
    build = car("Naturally aspirated six")
    base = build.options[0].regulator.base_kpa
    one = with_readings(build, reading(build, read_kpa=base + off))
    assert ("reading-contradicts" in codes(one)) == (abs(off) > 8.0)
    unsure = with_readings(build, reading(build, read_kpa=base + off, sure_kpa=25.0))
    assert "reading-contradicts" not in codes(unsure)


def test_entering_what_was_read_cures_it():
    build = car("Naturally aspirated six")
    cases = [
        reading(build, read_kpa=255.0),
        reading(build, "voltage", read_v=12.6),
        reading(build, "fuel temperature", read_c=58.0),
        reading(build, "pump flow", "g1", share_pct=70.0),
        reading(build, "injector flow", "", flow_cc_min=350.0),
    ]
    for one in cases:
        taken = with_readings(build, one)
        found = next(finding for finding in findings(taken) if finding.code == "reading-contradicts")
        edits = next(remedy.edits for remedy in found.remedies if remedy.edits)
        entered = apply(taken, edits)
        assert "reading-contradicts" not in codes(entered), one.of


@pytest.mark.parametrize(("share", "worn"), [(87.34, 12.7), (70.0, 30.0), (99.96, 0.0), (20.0, 80.0), (104.0, None)])
def test_a_worn_pump_is_entered_to_a_tenth_of_a_per_cent(share, worn):
    build = car("Naturally aspirated six")
    option = build.options[0]
    context = Context(build, option, tuple(judge_all(build, option)), load_shelf().catalogue)
    edits = entered(context, reading(build, "pump flow", "g1", share_pct=share))
    assert edits == (() if worn is None else ((f"options/{option.id}/pumps/g1/derate_pct", worn),))


def test_high_pressure_pumps_are_read_by_their_number():
    build = demo("dunlin")
    option = next(one for one in build.options if one.high_side is not None)
    for number, fitted in enumerate(option.high_side.pumps, start=1):
        one = Reading(id="r1", of="pump flow", member=f"high {number}", option=option.id, part=fitted.part.name)
        assert fitted_part(option, one) == fitted.part.name
        assert measures(build, option, one) == ""
    beyond = Reading(id="r1", of="pump flow", member=f"high {len(option.high_side.pumps) + 1}", option=option.id)
    assert fitted_part(option, beyond) is None


def findings(build):
    from tests.core.test_findings import findings_of

    return findings_of(build)


def test_no_sane_car_is_told_of_evidence_it_does_not_have():
    for name in CARS:
        assert not {"reading-contradicts", "pulls-mixed", "pull-fuel-parts"} & set(codes(car(name)))


@pytest.mark.parametrize(
    ("of", "member", "told", "name", "sigma", "offset", "entered"),
    [
        ("injector flow", "", {"sure_pct": 4.0}, "injector_set", 0.04, None, 1.0),
        ("pump flow", "g2", {"sure_pct": 3.0, "share_pct": 90.0}, "pump_flow", 0.03, -0.1, 1.0),
        ("voltage", "", {"read_v": 13.5, "sure_v": 0.1}, "voltage", 0.1, -0.3, 13.8),
        ("fuel temperature", "", {"read_c": 52.0, "sure_k": 3.0}, "fuel_temperature", 3.0, None, 30.0),
    ],
)
def test_a_reading_is_used_as_sure_as_it_was(of, member, told, name, sigma, offset, entered):
    build = demo("curlew")
    build = with_readings(
        apply(build, [(f"targets/{build.targets[0].id}/supply_v", 13.8)]), reading(build, of, member, **told)
    )
    found = used(build, name)[0]
    assert found.spread == pytest.approx(sigma)
    assert found.entered == pytest.approx(entered)
    if offset is not None:
        assert found.offset == pytest.approx(offset)
