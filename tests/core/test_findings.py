"""Every rule speaks when it should, and its first remedy that can be tried cures it."""

import re

import pytest

from iron_gulp.core.advise import RULES, find
from iron_gulp.core.judge import judge, judge_all, judge_many
from iron_gulp.core.model import (
    Build,
    Calibration,
    Catalogue,
    Engine,
    Filter,
    FilterPart,
    InjectorSet,
    MeasuredRun,
    Passage,
    Pickup,
    Rail,
    Suction,
    Tank,
    Wiring,
    apply,
)
from iron_gulp.core.solve import demand, solve_points
from iron_gulp.core.study import permitted
from iron_gulp.shelf import load_shelf
from tests.garage import CARS, car, changed
from tests.systems import (
    CHECK_CURVE,
    a_target,
    build,
    check_option,
    demo,
    fine_filter,
    fitted_line,
    injectors,
    lift_stage,
    line,
    pump,
    split,
)

SHELF = load_shelf()


def findings_of(one: Build, option_id: str | None = None, ceilings: bool = False):
    """All that is found; all but a note on unused capacity speak alike without power ceilings, half of a judgement."""
    option = one.option(option_id)
    verdicts = judge_many([(one, option, target) for target in one.targets], ceilings=ceilings)
    return find(one, option, verdicts, SHELF.catalogue)


def codes(one: Build, option_id: str | None = None) -> set[str]:
    return {finding.code for finding in findings_of(one, option_id)}


def wired(**changes):
    return build(check_option(pumps=(pump(wiring=Wiring(**{"loop_m": 2.0, **changes})),)))


def staged(joins_kpa, **changes):
    weak = pump(id="g1", derate_pct=75.0)
    return build(check_option(pumps=(weak, pump(id="g2", on_above_kpa=joins_kpa))), a_target(**changes))


def contradicting(share=1.1):
    """A pump whose table at 12 V moves a share of the one at 13.5 V."""
    flows = tuple(share * flow for flow in CHECK_CURVE.flow_l_h)
    low = CHECK_CURVE.model_copy(update={"voltage_v": 12.0, "flow_l_h": flows})
    return pump(part=pump().part.model_copy(update={"curves": (CHECK_CURVE, low)}))


def test_tables_are_held_against_each_other_up_to_their_last_point():
    flows = (*CHECK_CURVE.flow_l_h[:-1], CHECK_CURVE.flow_l_h[-1] + 30.0)
    low = CHECK_CURVE.model_copy(update={"voltage_v": 12.0, "flow_l_h": flows})
    high = CHECK_CURVE.model_copy(update={"flow_l_h": tuple(flow + 10.0 for flow in CHECK_CURVE.flow_l_h)})
    bent = pump(part=pump().part.model_copy(update={"curves": (high, low)}))
    assert "tables-contradict" in codes(build(check_option(pumps=(bent,))))


def test_tables_may_differ_as_measurements_do():
    assert "tables-contradict" not in codes(build(check_option(pumps=(contradicting(1.01),))))
    assert "tables-contradict" not in codes(build(check_option(pumps=(contradicting(0.9),))))
    assert "tables-contradict" in codes(build(check_option(pumps=(contradicting(1.03),))))


def told(**calibration):
    return build(check_option(calibration=Calibration(**calibration)))


def _part(scale=1.0, **changes):
    """The check pump, or one that makes a share of its pressure."""
    part = pump().part
    curve = part.curves[0].model_copy(update={"pressure_kpa": tuple(p * scale for p in part.curves[0].pressure_kpa)})
    return part.model_copy(update={"curves": (curve,), **changes})


def _two_rails(one, other):
    return build(check_option(split=split(one, other), rail=Rail(count=2)))


def _free_spill():
    """One pump on a large regulator: the base holds, so only the return line is left to object to."""
    option = check_option(1, return_line=line(11.1, 6, 10))
    part = option.regulator.part.model_copy(update={"capacity_l_h": 900.0})
    return option.model_copy(update={"regulator": option.regulator.model_copy(update={"part": part})})


def direct(name, finds):
    """A car of the garage with its first fault of a kind."""
    return lambda: changed(car(name), next(one for one in CARS[name]["faults"] if one["finds"] == finds)["edits"])


CARBURETTOR_CASES = {"float-flooded", "float-dry", "needles-small", "deadhead-drift"}  # in test_carburettor

CASES = {
    "air-limited": lambda: build(None, a_target(power_kw=400, boost_kpa=60)),
    "compressor-limit": lambda: build(None, engine=Engine(displacement_l=2.5, cylinders=5, compressor_kg_s=0.2)),
    "pulls-heat": direct("High altitude turbo", "pulls-heat"),
    "capacity-unused": direct("Direct-injected turbo four on a light blend", "capacity-unused"),
    "sensor-short": direct("Mild triple", "sensor-short"),
    "sensor-start": direct("Mild triple", "sensor-start"),
    "boost-told": direct("Direct-injected turbo four on a light blend", "boost-told"),
    "sensor-scaling": direct("Naturally aspirated six", "sensor-scaling"),
    "tank-parted": direct("Naturally aspirated six", "tank-parted"),
    "reading-contradicts": direct("Naturally aspirated six", "reading-contradicts"),
    "pulls-mixed": direct("Naturally aspirated six", "pulls-mixed"),
    "pull-fuel-parts": direct("Naturally aspirated six", "pull-fuel-parts"),
    "injector-driver": direct("Naturally aspirated six", "injector-driver"),
    "injector-streams": direct("Naturally aspirated six", "injector-streams"),
    "injector-height": direct("Naturally aspirated six", "injector-height"),
    "spray-poor": direct("Naturally aspirated six", "spray-poor"),
    "table-parts": direct("Naturally aspirated six", "table-parts"),
    "grade-low": direct("Naturally aspirated six", "grade-low"),
    "grade-mixed": direct("Naturally aspirated six", "grade-mixed"),
    "pump-duty-short": direct("Naturally aspirated six", "pump-duty-short"),
    "booster-weak": direct("Naturally aspirated six", "booster-weak"),
    "booster-past-table": direct("Naturally aspirated six", "booster-past-table"),
    "booster-silent": direct("Naturally aspirated six", "booster-silent"),
    "sensor-place": direct("Naturally aspirated six", "sensor-place"),
    "ethanol-flow": direct("Mild triple", "ethanol-flow"),
    "ethanol-place": direct("Mild triple", "ethanol-place"),
    "ethanol-backwards": direct("Mild triple", "ethanol-backwards"),
    "nozzle-dead": direct("Four on a strong blend, referenced", "nozzle-dead"),
    "auxiliary-silent": direct("Four on a strong blend, referenced", "auxiliary-silent"),
    "auxiliary-tank": direct("Four on a strong blend, referenced", "auxiliary-tank"),
    "reference-above-throttle": direct("Two injectors above the throttle of a four", "reference-above-throttle"),
    "rail-below-spray": direct("Two injectors above the throttle of a four", "rail-below-spray"),
    "mixture-spread": direct("Two injectors above the throttle of a four", "rail-below-spray"),
    "rail-sensor": direct("Direct-injected four, naturally aspirated", "rail-sensor"),
    "direct-idle": direct("Direct-injected four, naturally aspirated", "direct-idle"),
    "hp-worn": direct("Direct-injected turbo four on a light blend", "hp-worn"),
    "rail-over": direct("Direct-injected turbo four on a light blend", "rail-over"),
    "hp-screen": direct("Direct-injected turbo four on a light blend", "hp-screen"),
    "hp-starved": direct("Direct-injected V6, a pump and a rail a bank", "hp-starved"),
    "window-closed": direct("Direct-injected V6, a pump and a rail a bank", "window-closed"),
    "hp-short": direct("Direct-injected V8, pumps on a common rail", "hp-short"),
    "port-silent": direct("Direct-injected four with a port rail above its ceiling", "port-silent"),
    "hp-undamped": direct("Direct-injected V6 whose port side joins with boost", "hp-undamped"),
    "hp-follower": direct("Direct-injected V6 whose port side joins with boost", "hp-follower"),
    "air-surplus": lambda: build(None, a_target(power_kw=80, boost_kpa=150)),
    "cold-start": lambda: build(None, a_target(ethanol_pct=85)),
    "injectors-small": lambda: build(check_option(injectors=InjectorSet(part=injectors(330)))),
    "injector-idle": lambda: build(check_option(injectors=InjectorSet(part=injectors(4000)))),
    "injector-opening": lambda: build(check_option(4, injectors=InjectorSet(part=injectors(max_pressure_kpa=350)))),
    "injectors-large": lambda: build(check_option(injectors=InjectorSet(part=injectors(3000)))),
    "pumps-short": lambda: build(None, a_target(power_kw=540, boost_kpa=300)),
    "wiring-drop": lambda: build(check_option(pumps=(pump(wiring=Wiring(loop_m=9, area_mm2=1.0)),))),
    "free-flow-rating": lambda: build(None, a_target(power_kw=500, boost_kpa=200)),
    "pumps-large": lambda: build(check_option(3), a_target(power_kw=120)),
    "feed-small": lambda: build(check_option(feed=line(5.0, 6, 8))),
    "feed-large": lambda: build(
        check_option(feed=line(12.7, 1, 1).model_copy(update={"part": SHELF.part("lines", "ptfe-12")}))
    ),
    "regulator-overrun": lambda: build(check_option(2)),
    "return-pressure": lambda: build(_free_spill(), rules={"return_drop_kpa": 2}),
    "fixed-reference": lambda: apply(
        build(None, a_target(power_kw=260)), [("options/o1/regulator/reference", "atmosphere")]
    ),
    "no-differential": lambda: apply(
        build(None, a_target(boost_kpa=350)), [("options/o1/regulator/reference", "atmosphere")]
    ),
    "spring-range": lambda: apply(build(), [("options/o1/regulator/part/min_base_kpa", 350.0)]),
    "end-pressure": lambda: apply(build(), [("options/o1/regulator/part/max_pressure_kpa", 350.0)]),
    "alcohol-fitness": lambda: apply(build(), [("options/o1/regulator/part/alcohol_ok", False)]),
    "suction-margin": lambda: build(
        check_option(suction=Suction(place="external", head_m=-1.0, line=line(6.0, 3.0, 8.0))), a_target(fuel_temp_c=55)
    ),
    "external-pump-pulls": lambda: build(check_option(suction=Suction(place="external", head_m=-0.4))),
    "hanger-full": lambda: build(check_option(2, suction=Suction(hanger_pumps=1))),
    "hanger-outlets": lambda: build(check_option(suction=Suction(hanger_outlets=1))),
    "pump-misplaced": lambda: apply(build(), [("options/o1/pumps/g1/part/made_for", "outside")]),
    "pre-filter-fine": lambda: build(check_option(suction=Suction(filter=fine_filter()))),
    "lift-short": lambda: build(check_option(lift=lift_stage(0.3))),
    "lift-behind": lambda: build(check_option(lift=lift_stage(1.0))),
    "small-passage": lambda: build(check_option(feed_passages=(Passage(id="p1", name="Tube", bore_mm=3.0),))),
    "filter-coarse": lambda: build(
        check_option(filter=Filter(part=FilterPart(name="coarse", rated_flow_l_h=500, rated_drop_kpa=5, grade_um=40)))
    ),
    "filter-missing": lambda: build(),
    "fuse-missing": lambda: build(),
    "check-valve-missing": lambda: build(
        check_option(pumps=(pump(), pump(id="g2", on_above_kpa=20.0, check_valve_kpa=0.0)))
    ),
    "check-valve-untold": lambda: staged(20.0, power_kw=420, boost_kpa=200),
    "fuse-small": lambda: wired(fuse_a=10.0, area_mm2=6.0),
    "fuse-large": lambda: wired(fuse_a=40.0, area_mm2=2.5),
    "wire-thin": lambda: wired(area_mm2=0.5, loop_m=0.2),
    "fuse-segment": lambda: wired(fuse_a=25.0, area_mm2=6.0, hat_pin_a=18.0),
    "segment-weak": lambda: wired(fuse_a=25.0, area_mm2=6.0, terminal_a=9.0),
    "fuse-unstated": lambda: wired(fuse_a=40.0, area_mm2=10.0, terminal_a=60.0),
    "switch-weak": lambda: wired(switch_a=10.0, area_mm2=6.0),
    "pickup-untold": lambda: build(car={"use": "track"}),
    "no-reference-port": lambda: apply(
        car("Near-tank filter-regulator, naturally aspirated"),
        [
            ("options/o1/regulator/reference", "manifold"),
            ("options/o1/regulator/part", SHELF.part("regulators", "reg-filter-300").model_dump(mode="json")),
        ],
    ),
    "stage-never": lambda: build(
        check_option(pumps=(pump(), pump(id="g2", on_above_kpa=180.0))), a_target(boost_kpa=120.0)
    ),
    "stage-late": lambda: staged(95.0, power_kw=420, boost_kpa=200),
    "stage-silent": lambda: staged(20.0, power_kw=420, boost_kpa=200),
    "regulator-near-tank": lambda: apply(build(), [("options/o1/regulator/arrangement", "bypass near the tank")]),
    "return-entry": lambda: apply(build(), [("options/o1/return_entry", "into the vent line")]),
    "reference-lost": build,
    "reference-line": lambda: apply(build(), [("options/o1/regulator/reference_line", "unclamped or soft hose")]),
    "filter-flow": lambda: build(check_option(2, filter=fine_filter())),
    "relief-open": lambda: build(check_option(pumps=(pump(part=_part(relief_kpa=390.0)),)), a_target(boost_kpa=100)),
    "pump-stalled": lambda: build(check_option(pumps=(pump(), pump(id="g2", part=_part(scale=0.3))))),
    "switch-hot": lambda: wired(switch_a=18.0, area_mm2=6.0, switch_place="in the heat, unventilated"),
    "factory-feed": lambda: wired(switch="factory feed", area_mm2=2.5, connectors_mohm=80.0),
    "ground-painted": lambda: wired(ground="painted or shared point"),
    "coil-load": lambda: wired(coil_a=0.4, coil_feed_a=0.3),
    "pickup-uncovers": lambda: build(check_option(pickup=Pickup(kind="open tube")), a_target(accel_g=1.1)),
    "suction-tight": lambda: build(
        check_option(suction=Suction(place="external", line=fitted_line(8.7, 0.5, ("drilled block, 90°", 2))))
    ),
    "banks-uneven": lambda: apply(
        _two_rails(line(4.5, 0.2, 1.0), line(4.5, 3.0, 1.0)),
        [("options/o1/regulator/arrangement", "bypass near the tank")],
    ),
    "rail-narrow": lambda: build(check_option(rail=Rail(bore_mm=5.0))),
    "stage-chatters": lambda: build(
        check_option(pumps=(pump(), pump(id="g2", on_above_kpa=50.0, hysteresis_pct=1.0, min_on_s=0.1)))
    ),
    "stage-lift-off": lambda: staged(60.0, power_kw=420, boost_kpa=200),
    "controllers-fight": lambda: apply(
        build(check_option(pumps=(pump(), pump(id="g2")))),
        [("options/o1/regulator/arrangement", "returnless, speed-controlled")],
    ),
    "sensor-range": lambda: told(map_range_kpa_abs=180.0),
    "injectors-untold": lambda: told(injector_cc_min=1400.0),
    "dead-times-untold": lambda: told(dead_time_ms=1.4),
    "blend-assumed": lambda: told(blend="entered by hand"),
    "pump-controller": lambda: apply(
        told(pump_controller="as it came, or set for others"), [("options/o1/pumps/g1/wiring/switch", "controller")]
    ),
    "hose-rating": lambda: apply(
        build(), [("options/o1/feed/runs", "in the engine bay"), ("options/o1/feed/part/max_temp_c", 90.0)]
    ),
    "filter-collapse": lambda: build(
        check_option(
            filter=Filter(
                part=FilterPart(name="fine", rated_flow_l_h=300, rated_drop_kpa=20, grade_um=10, collapse_kpa=100),
                clogging=4,
            )
        )
    ),
    "regulator-kind": lambda: apply(build(), [("options/o1/regulator/part/works", "deadhead")]),
    "overflow-small": lambda: build(check_option(lift=lift_stage(6.0, overflow_mm=5.0))),
    "tank-vent": lambda: apply(build(), [("options/o1/tank/vent_mm", 1.0)]),
    "tables-contradict": lambda: build(check_option(pumps=(contradicting(),))),
    "surge-dry": lambda: build(check_option(lift=lift_stage(6.0, surge_l=1.0, uncovered_s=30.0)), a_target(load_s=60.0)),
    "tank-fill": lambda: build(check_option(tank=Tank(fill_l_h=9000.0))),
    "class-fuel": lambda: build(None, a_target(ethanol_pct=85, class_ethanol_pct=10)),
    "class-cell": lambda: build(None, a_target(class_cell="required")),
    "class-returnless": lambda: apply(
        build(None, a_target(class_returnless="barred")),
        [("options/o1/regulator/arrangement", "returnless, speed-controlled")],
    ),
    "grade-scale": lambda: build(None, a_target(fuel_grade=98, grade_system="(R+M)/2")),
    "tank-small": lambda: build(None, a_target(load_s=1800.0)),
    "fuel-heats": lambda: build(check_option(2, tank=Tank(volume_l=25)), a_target(ethanol_pct=10)),
    "alternator": lambda: build(check_option(3), car={"alternator_a": 70.0}),
    "pump-silent": lambda: build(check_option(2), a_target(power_kw=600, boost_kpa=300)),
    "stages-out": lambda: build(
        check_option(pumps=(pump(derate_pct=60), pump(id="g2", on_above_kpa=30), pump(id="g3", on_above_kpa=80))),
        a_target(power_kw=420, boost_kpa=200),
    ),
    "port-above-node": direct("Direct-injected four with a port rail above its ceiling", "port-above-node"),
    "port-idle": direct("Direct-injected four with a port rail above its ceiling", "port-idle"),
    "relief-near": direct("Direct-injected turbo four on a light blend", "relief-near"),
    "window-wide": direct("Direct-injected turbo four on a light blend", "window-wide"),
    "efficiency-short": direct("Direct-injected turbo four on a light blend", "efficiency-short"),
    "rising-steep": direct("Four on a strong blend, referenced", "rising-steep"),
    "base-untold": direct("Four on a strong blend, referenced", "base-untold"),
    "slowest-high": direct("Returnless on E30", "slowest-high"),
    "filter-clogged": direct("Four on a strong blend, referenced", "filter-clogged"),
    "switch-shared": lambda: build(
        check_option(pumps=(pump(wiring=Wiring(relay="R1")), pump(id="g2", on_above_kpa=30, wiring=Wiring(relay="r1"))))
    ),
    "stages-order": lambda: build(
        check_option(pumps=(pump(), pump(id="g2", on_above_kpa=90), pump(id="g3", on_above_kpa=30)))
    ),
    "boost-adds-nothing": lambda: build(None, a_target(), a_target(id="t2", boost_kpa=150, power_kw=205)),
    "measured-disagrees": lambda: build(
        measured=MeasuredRun(power_kw=150, rpm=6000, injector_cc_min=900, differential_kpa=300, duty_pct=90)
    ),
}


@pytest.mark.parametrize("code", CASES)
def test_each_rule_speaks_when_it_should(code):
    every = findings_of(CASES[code](), ceilings=code == "capacity-unused")
    found = [finding for finding in every if finding.code == code]
    assert found, f"{code} was not found"
    for finding in found:
        names = set(re.findall(r"\{(\w+)\}", finding.text))
        assert names <= set(finding.values)
        for remedy in finding.remedies:
            assert set(re.findall(r"\{(\w+)\}", remedy.label)) <= set(remedy.values)


def test_every_rule_has_a_case():
    silent = build(
        check_option(1, return_line=line(17.5, 1, 0)),
        a_target(ethanol_pct=10, power_kw=215, boost_kpa=115),
        car={"coldest_c": 20},
    )
    assert len(RULES) <= len(CASES) + len(CARBURETTOR_CASES)
    assert not {"pumps-short", "injectors-small", "fixed-reference", "cold-start"} & codes(silent)


@pytest.mark.parametrize(
    "code",
    [
        "injectors-small",
        "pumps-short",
        "feed-small",
        "regulator-overrun",
        "fixed-reference",
        "filter-coarse",
        "filter-missing",
        "fuse-missing",
        "hose-rating",
        "filter-collapse",
        "regulator-kind",
        "overflow-small",
        "tank-vent",
        "tank-fill",
        "surge-dry",
        "class-fuel",
        "alternator",
        "stages-order",
        "alcohol-fitness",
        "air-limited",
        "filter-flow",
        "fuse-small",
        "fuse-large",
        "wire-thin",
        "switch-weak",
        "switch-hot",
        "factory-feed",
        "ground-painted",
        "coil-load",
        "pickup-uncovers",
        "suction-tight",
        "banks-uneven",
        "rail-narrow",
        "stage-chatters",
        "controllers-fight",
        "sensor-range",
        "injectors-untold",
        "dead-times-untold",
        "blend-assumed",
        "pump-controller",
    ],
)
def test_first_one_click_remedy_cures(code):
    before = CASES[code]()
    finding = next(finding for finding in findings_of(before) if finding.code == code)
    remedy = next(remedy for remedy in finding.remedies if remedy.edits)
    assert code not in codes(apply(before, remedy.edits))


def test_staging_remedy_cures_saltern():
    saltern = demo("saltern")
    finding = next(finding for finding in findings_of(saltern) if finding.code == "regulator-overrun")
    stage = next(remedy for remedy in finding.remedies if remedy.label.startswith("Stage"))
    staged = apply(saltern, stage.edits)
    assert [group.on_above_kpa for group in staged.options[0].pumps] == [40.0, None]
    assert "regulator-overrun" not in codes(staged)
    record = judge(staged, staged.options[0], staged.target("record"))
    assert record.load("pumps").load < 1


# Figures


@pytest.mark.parametrize(
    ("changes", "told"),
    [
        ({"fuel_grade": 98.0, "grade_system": "RON"}, False),
        ({"fuel_grade": 91.0, "grade_system": "(R+M)/2"}, False),
        ({"fuel_grade": 87.0, "grade_system": "RON"}, True),
        ({"fuel_grade": 98.0, "grade_system": "(R+M)/2"}, True),
        ({"class_cell": "required", "class_returnless": "barred", "class_ethanol_pct": 85.0}, False),
    ],
)
def test_grades_and_class_rules_speak_only_where_they_are_broken(changes, told):
    one = build(check_option(pickup=Pickup(kind="cell with trap doors")), a_target(**changes))
    assert bool({"grade-scale", "class-cell", "class-returnless", "class-fuel"} & codes(one)) is told


def test_two_scales_of_grade_in_one_build_are_asked_about():
    one = build(None, a_target(fuel_grade=98), a_target(id="t2", fuel_grade=92, grade_system="(R+M)/2"))
    assert "grade-scale" in codes(one)


def test_a_race_fuel_on_the_mean_scale_is_no_mistake_off_the_road():
    one = build(None, a_target(fuel_grade=110, grade_system="(R+M)/2"), car={"use": "drag"})
    assert "grade-scale" not in codes(one)


def test_filling_past_a_narrow_vent_is_told_with_the_height_of_fuel_in_the_neck():
    """Orifice by hand: 9 000 L/h through 6 mm at a discharge of 0.6 and 1.2 kg/m3 of air."""
    area = 3.141592653589793 / 4 * 0.006**2
    drop_pa = 0.6 * (9.0 / 3600 / (0.6 * area)) ** 2
    one = build(check_option(tank=Tank(fill_l_h=9000.0, vent_mm=6.0)))
    found = next(each for each in findings_of(one) if each.code == "tank-fill")
    density = judge_all(one, one.options[0])[0].fuel.density_kg_m3
    assert found.values["lost_kpa"] == pytest.approx(drop_pa / 1000, rel=1e-6)
    assert found.values["neck_m"] == pytest.approx(drop_pa / density / 9.80665, rel=1e-6)
    for quiet in ({"fill_l_h": 2400.0}, {"fill_l_h": None}, {"fill_l_h": 9000.0, "vent_mm": 12.0}):
        assert "tank-fill" not in codes(build(check_option(tank=Tank(**quiet))))


def test_a_vent_widened_for_the_draw_is_wide_enough_for_filling_as_well():
    one = build(check_option(tank=Tank(fill_l_h=9000.0, vent_mm=1.0)))
    remedy = next(each for each in findings_of(one) if each.code == "tank-vent").remedies[0]
    assert not {"tank-vent", "tank-fill"} & codes(apply(one, remedy.edits))


def test_the_silent_stage_is_told_on_the_target_it_leaves_leanest():
    for first, second in ((420, 380), (380, 420)):
        one = staged(20.0, power_kw=first, boost_kpa=200)
        other = one.targets[0].model_copy(update={"id": "t9", "name": "Other", "power_kw": float(second)})
        one = one.model_copy(update={"targets": (*one.targets, other)})
        option, lean = one.options[0], {}
        for target in one.targets:
            wanted = demand(one, target).chosen_kg_s
            rails = [
                solve_points(one, option, target, target.rpm, target.boost_kpa, wanted, without).hydraulics
                for without in (frozenset({"g2"}), frozenset())
            ]
            lean[target.name] = float(rails[0].lambda_factor[0] / rails[1].lambda_factor[0])
        found = next(found for found in findings_of(one) if found.code == "stage-silent")
        assert found.targets == (max(lean, key=lean.get),)


@pytest.mark.parametrize(("need", "count"), [(2.6, "3"), (3.6, "4"), (4.2, None)])
def test_so_many_of_one_pump_as_carry_it_and_no_more_than_four(need, count):
    """On a shelf with no other pump: what one brings at the set pressure, so many times."""
    one = build(check_option(pumps=(pump(wiring=Wiring(loop_m=0.2, area_mm2=16.0, connectors_mohm=0.0)),)), a_target())
    verdict = judge_all(one, one.options[0])[0]
    share = need / verdict.load("pumps").load
    one = apply(one, [(f"targets/{one.targets[0].id}/power_kw", one.targets[0].power_kw * share)])
    only = Catalogue((one.options[0].pumps[0].part,))
    found = {each.code: each for each in find(one, one.options[0], judge_all(one, one.options[0]), only)}
    run = [remedy.values["count"] for remedy in found["pumps-short"].remedies if "count" in remedy.values]
    assert run == ([count] if count else [])


@pytest.mark.parametrize(
    ("share", "worn_pct"), [(1.05, 0), (1.12, 0), (1.2, 0), (1.45, 0), (1.05, 60), (1.05, 70), (1.05, 71)]
)
def test_more_pressure_is_offered_where_injectors_and_pumps_then_carry_it_and_nowhere_else(share, worn_pct):
    one = build(check_option(pumps=(pump(count=2, derate_pct=worn_pct),)), a_target())
    one = apply(one, [(f"targets/{one.targets[0].id}/power_kw", one.targets[0].power_kw * share)])
    load = judge_all(one, one.options[0])[0].load("injectors").load
    one = apply(one, [(f"targets/{one.targets[0].id}/power_kw", one.targets[0].power_kw * share / load)])
    path = f"options/{one.options[0].id}/regulator/base_kpa"
    carried = []
    for base in (350.0, 400.0):
        higher = apply(one, [(path, base)])
        verdict = judge_all(higher, higher.options[0])[0]
        if max(verdict.load("injectors").load, verdict.load("pumps").load) <= 1.0:
            carried.append(base)
    found = next(found for found in findings_of(one) if found.code == "injectors-small")
    offered = [dict(remedy.edits)[path] for remedy in found.remedies if remedy.label.startswith("Raise base")]
    assert offered == carried[: len(offered)]
    assert bool(offered) is bool(carried)


def test_boost_permitted_too_high_comes_down_to_a_tenth_of_a_kilopascal():
    one = CASES["boost-told"]()
    option, margin = one.options[0], one.rules.headroom_pct / 100.0
    target = max(one.targets, key=lambda each: each.power_kw)
    found = next(found for found in findings_of(one) if found.code == "boost-told")
    edits = next(remedy.edits for remedy in found.remedies if remedy.edits)
    assert edits
    for path, boost in edits:
        told = next(each for each in option.boost_told if each.id == path.split("/")[-2])
        (most,) = permitted(one, option, target, margin, [told.ethanol_pct])
        assert boost == pytest.approx(most.boost_kpa, abs=0.0501)
        assert boost * 10 == pytest.approx(round(boost * 10), abs=1e-6)
        assert boost < told.boost_kpa


def test_pumps_of_one_kind_without_a_check_valve_are_named_once():
    several = [pump(id=f"g{number}", on_above_kpa=40.0 * number or None) for number in range(3)]
    one = build(check_option(pumps=tuple(each.model_copy(update={"check_valve_kpa": 0.0}) for each in several)))
    (finding,) = (found for found in findings_of(one) if found.code == "check-valve-missing")
    assert finding.values["group"] == several[0].part.name


@pytest.mark.parametrize(
    ("entered", "code", "severity"),
    [(0.0, "check-valve-missing", "warn"), (None, "check-valve-untold", "note"), (3.0, None, None)],
)
def test_a_check_valve_is_none_not_known_or_fitted(entered, code, severity):
    pumps = (pump(id="g1", check_valve_kpa=0.0), pump(id="g2", on_above_kpa=40.0, check_valve_kpa=entered))
    told = [each for each in findings_of(build(check_option(pumps=pumps))) if each.code.startswith("check-valve")]
    assert [(each.code, each.severity) for each in told] == ([(code, severity)] if code else [])  # the main never rests
    if entered == 0.0:
        assert [edit for one in told[0].remedies for edit in one.edits] == [("options/o1/pumps/g2/check_valve_kpa", 3.0)]


def test_of_two_pumps_that_run_together_each_needs_its_check_valve_and_one_alone_needs_none():
    def codes(**made):
        return {each.code for each in findings_of(build(check_option(pumps=(pump(id="g1", **made),))))}

    assert "check-valve-missing" in codes(count=2, check_valve_kpa=0.0)
    known = (pump(id="g1"), pump(id="g2", on_above_kpa=40.0, check_valve_kpa=3.0))
    told = {each.code for each in findings_of(build(check_option(pumps=known)))}
    assert "check-valve-untold" not in told  # the main never rests
    assert not {"check-valve-missing", "check-valve-untold"} & (codes(count=2) | codes(check_valve_kpa=0.0))
