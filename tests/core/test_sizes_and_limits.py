"""Sizes of the trade and the limits that stand on them, worked out by hand."""

from dataclasses import replace

import numpy as np
import pytest

from iron_gulp.core.account import chance_report
from iron_gulp.core.advise import find
from iron_gulp.core.judge import judge_all
from iron_gulp.core.model import EditError, Rail, Rates, RegulatorPart, Wiring, apply, rated_at_300_kpa
from iron_gulp.core.model.versions import SCHEMA_VERSION, upgraded
from iron_gulp.core.physics import ampacity_a, line_drop_kpa, next_fuse_a, smallest_fuse_a
from iron_gulp.core.physics.high_pressure import UNDAMPED
from iron_gulp.core.plan import bill
from iron_gulp.core.plan.upgrade import held
from iron_gulp.core.solve import rail_drop_kpa, wire_for_mm2
from iron_gulp.core.study import high_limits, size_window
from iron_gulp.shelf import load_shelf
from tests.systems import a_target, build, check_option, demo, pump

SHELF = load_shelf().catalogue
SOLD = (3, 5, 7.5, 10, 15, 20, 25, 30, 40, 50, 60, 70, 80, 100)


def test_fuses_are_those_sold_and_the_next_one_carries_a_quarter_more():
    for below, size in zip((1, *SOLD), SOLD, strict=False):
        assert next_fuse_a(below + 0.01) == size
        assert next_fuse_a(size) == size
    assert float(smallest_fuse_a(16.0)) == pytest.approx(20.0)


def test_a_pulsing_feed_loses_what_a_half_sine_loses_over_its_mean():
    """A plunger draws half of the time, as a half sine: the mean of its square over the square of its mean."""
    turn = np.linspace(0.0, 2.0 * np.pi, 200_001)
    drawn = np.maximum(np.sin(turn), 0.0)
    assert pytest.approx(np.mean(drawn**2) / np.mean(drawn) ** 2, rel=1e-4) == UNDAMPED


def test_the_circuit_that_is_loaded_most_counts():
    thin = Wiring(loop_m=6.0, area_mm2=1.0, fuse_a=15.0)
    thick = Wiring(loop_m=6.0, area_mm2=6.0, fuse_a=40.0)

    def load(*wirings):
        groups = tuple(pump(id=f"g{n}", wiring=wiring) for n, wiring in enumerate(wirings, start=1))
        one = build(check_option(pumps=groups))
        (verdict,) = judge_all(one, one.options[0])
        return verdict, verdict.load("wiring").load

    _, alone = load(thick)
    for wirings in ((thin, thick), (thick, thin)):
        verdict, both = load(*wirings)
        at = wirings.index(thin)
        amps = float(verdict.points.hydraulics.amps[at].max())
        assert both == pytest.approx(max(amps / ampacity_a(1.0, loom=True), amps / 15.0), rel=0.01)
        assert both > alone


def test_a_wire_is_the_smallest_sold_that_carries_its_fuse_and_loses_no_more():
    wiring = Wiring(loop_m=8.0, area_mm2=1.0)
    chosen = wire_for_mm2(wiring, 18.0, 25.0, 0.5)
    sold = [one for one in (0.5, 0.75, 1.0, 1.5, 2.5, 4.0, 6.0, 10.0, 16.0) if one < chosen]
    assert ampacity_a(chosen) >= 25.0
    for area in sold[-1:]:
        assert ampacity_a(area) < 25.0 or 18.0 * 0.0172 * 8.0 / area > 0.4


def test_the_next_size_up_is_offered_from_a_tenth_more():
    """Not only from a fifth more, and never the same again."""
    for parts, above in ((SHELF.high_pumps, "high_pumps_above"), (SHELF.direct_injectors, "direct_injectors_above")):
        part = parts[0]
        field = "over_stock_pct" if hasattr(part, "over_stock_pct") else "rated_flow_cc_min"
        now = getattr(part, field) or 0.0
        more = now * 1.1 if field == "rated_flow_cc_min" else ((1 + now / 100) * 1.1 - 1) * 100
        larger = part.model_copy(update={field: more, "shelf_id": "more"})
        catalogue = replace(SHELF, **{above.removesuffix("_above"): (part, larger)})
        assert [one.shelf_id for one in getattr(catalogue, above)(part)] == ["more"]
        assert getattr(catalogue, above)(larger) == []


def test_the_next_regulator_is_offered_from_a_tenth_more():
    part = SHELF.regulators[0]
    larger = part.model_copy(update={"capacity_l_h": part.capacity_l_h * 1.1, "shelf_id": "more"})
    catalogue = replace(SHELF, regulators=(part, larger))
    assert isinstance(part, RegulatorPart)
    assert [one.shelf_id for one in catalogue.regulators_above(part)] == ["more"]
    assert list(catalogue.regulators_above(larger)) == []


def test_the_window_of_sizes_stands_among_its_neighbours_of_the_shelf():
    curlew = demo("curlew")
    option = curlew.option("as-built")
    own = rated_at_300_kpa(option.injectors.part)
    near = option.injectors.part.model_copy(update={"rated_flow_cc_min": own * 1.05, "shelf_id": "near"})
    catalogue = replace(SHELF, injectors=(*SHELF.injectors, near))
    sizes = [one.cc_min for one in size_window(curlew, option, catalogue).sizes]
    assert sizes == sorted(sizes)
    assert sizes[sizes.index(pytest.approx(own)) + 1] == pytest.approx(own * 1.05)


def test_what_an_option_holds_is_counted_by_what_it_is_for():
    curlew = demo("curlew")
    option = curlew.option("as-built")
    found = held(curlew, option)
    assert found["filter", option.filter.part.name] == 1
    assert found["feed", option.feed.part.name] == 1
    assert found["return", option.return_line.part.name] == 1
    assert found["injectors", option.injectors.part.name] == curlew.engine.cylinders
    assert sum(count for (what, _), count in found.items() if what == "pumps") == sum(one.count for one in option.pumps)
    bare = apply(
        curlew,
        [
            ("options/as-built/filter", None),
            ("options/as-built/return_line/length_m", 0.0),
            ("options/as-built/feed/length_m", 0.0),
        ],
    )
    assert {what for what, _ in held(bare, bare.options[0])} & {"filter", "return", "feed"} == set()
    returnless = apply(curlew, [("options/as-built/regulator/arrangement", "returnless, speed-controlled")])
    assert "return" not in {what for what, _ in held(returnless, returnless.options[0])}


def test_a_target_needs_what_its_power_burns():
    """300 hp at the wheels behind 16 %, 0.60 lb/hp·h: 97.2 kg/h of gasoline."""
    one = build(None, a_target(ethanol_pct=0, power_kw=300 * 0.7457))
    (verdict,) = judge_all(one, one.options[0])
    burnt = 300 / (1 - verdict.demand.loss) * verdict.demand.gasoline_bsfc_kg_kwh * 0.7457
    assert verdict.demand.chosen_kg_s * 3600 == pytest.approx(burnt, rel=1e-4)


def test_a_rail_drops_by_what_leaves_along_it():
    """Friction goes with the square of the flow there, which falls from full to what leaves at the end: their mean."""
    rail = Rail(bore_mm=8.0, length_m=0.6, count=1)
    flow, fluid = 2.0e-4, (740.0, 0.5)
    full = float(line_drop_kpa(flow, 8.0, 0.6, 0.0, *fluid))
    for left in (0.0, 0.3, 1.0):
        along = np.linspace(1.0, left, 100_001)
        told = float(rail_drop_kpa(rail, flow, *fluid, left * flow))
        assert told == pytest.approx(full * float(np.mean(along**2)), rel=1e-4)


@pytest.mark.parametrize(
    ("induction", "lb_hph", "richness"),
    [("naturally aspirated", 0.45, 0.87), ("supercharged", 0.52, 0.82), ("turbocharged", 0.50, 0.80)],
)
def test_air_needed_goes_by_the_consumption_expected_of_an_induction(induction, lb_hph, richness):
    one = apply(build(None, a_target(ethanol_pct=0, power_kw=160)), [("engine/induction", induction)])
    (verdict,) = judge_all(one, one.options[0])
    crank_hp = 160 / (1 - verdict.demand.loss) / 0.74569987
    fuel_kg_s = crank_hp * lb_hph * 0.45359237 / 3600
    assert verdict.demand.air_needed_kg_s == pytest.approx(fuel_kg_s * richness * 14.7, rel=1e-3)


def test_what_is_bought_is_what_was_not_there_each_with_its_hours():
    curlew = demo("curlew")
    before = curlew.options[0]
    group = before.pumps[0]
    after = before.model_copy(update={"pumps": (group.model_copy(update={"count": group.count + 2}), *before.pumps[1:])})
    rates = Rates(low_pump=100.0, low_pump_h=3.0)
    (row,) = [one for one in bill(curlew, before, after, rates).rows if one.what == group.part.name]
    assert (row.count, row.hours) == (2, 6.0)
    assert [one for one in bill(curlew, after, before, rates).rows if one.what == group.part.name] == []


def test_chances_take_a_draw_at_least():
    curlew = demo("curlew")
    assert chance_report(curlew, "as-built", 1, 3)["draws"] == 1
    with pytest.raises(ValueError, match="at least one draw"):
        chance_report(curlew, "as-built", 0, 3)


def test_without_the_larger_of_two_pumps_the_other_brings_its_own_share():
    one = build(check_option(pumps=(pump(derate_pct=30.0), pump(id="g2"))), a_target(power_kw=500, boost_kpa=140))
    (verdict,) = judge_all(one, one.options[0])
    load = verdict.load("pumps").load
    flows = [float(row[0]) for row in verdict.points.hydraulics.group_flow_m3_s]
    left = 1 - max(flows) / sum(flows)
    assert left < load <= 1
    found = next(f for f in find(one, one.options[0], [verdict], SHELF) if f.code == "pump-silent")
    assert found.values["share_pct"] == pytest.approx(left / load * 100, rel=1e-6)


def test_an_engine_breathes_something_at_idle():
    at = [("car/barometer_kpa", 80.0), ("engine/idle_manifold_kpa", -76.0)]
    assert apply(build(), at).engine.idle_manifold_kpa == -76.0
    with pytest.raises(EditError, match="less than nothing"):
        apply(build(), [at[0], ("engine/idle_manifold_kpa", -76.1)])


def test_a_build_of_the_first_schema_is_brought_to_todays():
    told = upgraded({"schema_version": 1, "duties": [{"name": "Road"}], "name": "Old"})
    assert told == {"schema_version": SCHEMA_VERSION, "targets": [{"name": "Road"}], "name": "Old"}
    assert upgraded({"schema_version": 2, "name": "New"}) == {"schema_version": 3, "name": "New"}
    assert upgraded({"schema_version": 3, "name": "Now"}) == {"schema_version": 3, "name": "Now"}
    assert upgraded({"schema_version": "1", "name": "Odd"}) == {"schema_version": "1", "name": "Odd"}


@pytest.mark.parametrize(
    ("spread", "stays"),
    [
        ({"spread_pct": 4.0, "why": "", "offset_pct": 0.0}, False),
        ({"spread_pct": 4.0}, False),
        ({"spread_pct": 4.0, "why": "logged twice"}, True),
        ({"spread_pct": 4.0, "offset_pct": 2.0}, True),
        ({"spread_pct": 3.0}, True),
    ],
)
def test_a_spread_that_stood_only_as_the_old_default_takes_todays(spread, stays):
    told = {"schema_version": 2, "tolerances": {"consumption": spread, "voltage": {"spread_v": 0.2}}}
    kept = upgraded(told)["tolerances"]
    assert kept == (told["tolerances"] if stays else {"voltage": {"spread_v": 0.2}})


@pytest.mark.parametrize(
    ("part", "stays"),
    [
        ({"rated_flow_cc_min": 1000.0, "min_pulse_ms": 0.45}, False),
        ({"rated_flow_cc_min": 2000.0, "min_pulse_ms": 0.70}, False),
        ({"rated_flow_cc_min": 1443.0, "rated_pressure_kpa": 400.0, "min_pulse_ms": 0.45}, False),
        ({"rated_flow_cc_min": 1000.0, "min_pulse_ms": 0.40}, True),
        ({"rated_flow_cc_min": 1000.0, "min_pulse_ms": 0.45, "provenance": "entered by hand"}, True),
    ],
)
def test_a_generic_injectors_old_class_figure_goes_and_what_was_typed_stays(part, stays):
    whole = {"provenance": "generic data in preferred numbers", "dead_time_v": [13.5]} | part
    told = {"schema_version": 2, "options": [{"injectors": {"part": whole, "second": {"part": whole}}}]}
    fitted = upgraded(told)["options"][0]["injectors"]
    for one in (fitted["part"], fitted["second"]["part"]):
        assert ("min_pulse_ms" in one) == stays
    assert "min_pulse_ms" in whole  # what was given is not changed


def test_the_high_side_is_drawn_from_above_idle_to_the_highest_speed():
    dunlin = demo("dunlin")
    option = dunlin.options[0]
    verdict = judge_all(dunlin, option)[0]
    rpm = high_limits(dunlin, verdict).rpm
    top = max(dunlin.engine.max_rpm, verdict.target.rpm)
    assert rpm[0] == pytest.approx(min(1.3 * dunlin.engine.idle_rpm, top / 2))
    assert rpm[-1] == top
    assert verdict.target.rpm in rpm
