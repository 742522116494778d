"""Where each rule begins to speak: the value at which it does is sought, and what stands there worked out by hand."""

import math
from itertools import pairwise

import numpy as np
import pytest

from iron_gulp.core.account import Context as FigureContext
from iron_gulp.core.account import value
from iron_gulp.core.advise import find
from iron_gulp.core.advise.base import Context
from iron_gulp.core.advise.injectors import _bases
from iron_gulp.core.advise.throttles import in_feed
from iron_gulp.core.judge import judge, judge_all, judge_many
from iron_gulp.core.model import Filter, FilterPart, LinePart, Passage, Rail, Suction, Tank, Wiring, apply
from iron_gulp.core.physics import ampacity_a, flow_l_h, line_drop_kpa
from iron_gulp.core.physics.fuels import viscosity_mpa_s
from iron_gulp.core.solve import fuel_state, wire_words
from iron_gulp.core.study import sweeps
from iron_gulp.shelf import load_shelf
from tests.systems import a_target, build, check_option, demo, fitted_line, lift_stage, line, pump, split

CATALOGUE = load_shelf().catalogue
PEAK, IDLE = 0, 1
NEAR = "bypass near the tank"


def speaks(code, one):
    option = one.options[0]
    # Rules speak alike without power ceilings, which take half of a judgement.
    verdicts = judge_many([(one, option, target) for target in one.targets], ceilings=False)
    return any(each.code == code for each in find(one, option, verdicts, CATALOGUE))


def boundary(code, make, low, high):
    """The value between `low` and `high` at which the rule begins, or ends, to speak."""
    first = speaks(code, make(low))
    assert speaks(code, make(high)) is not first
    for _ in range(13):
        middle = math.sqrt(low * high) if low > 0 else (low + high) / 2
        low, high = (middle, high) if speaks(code, make(middle)) is first else (low, middle)
    return (low + high) / 2


def hydraulics(one):
    return judge(one, one.options[0], one.targets[0]).points.hydraulics


def vent_kpa(flow_m3_s, bore_mm):
    """Orifice, discharge 0.6, air of 1.2 kg/m3."""
    return 0.6 * (flow_m3_s / (0.6 * math.pi / 4 * (bore_mm / 1000) ** 2)) ** 2 / 1000


def with_filter(**changes):
    part = FilterPart(name="f", rated_flow_l_h=400, rated_drop_kpa=8.0, grade_um=10.0, **changes)
    return lambda clogging: build(check_option(filter=Filter(part=part, clogging=clogging)))


def vented(bore_mm):
    return build(check_option(tank=Tank(vent_mm=bore_mm)))


def loaded(seconds):
    return build(None, a_target(load_s=seconds))


def hotter(fuel_temp_c):
    return build(None, a_target(fuel_temp_c=fuel_temp_c))


def passing(bore_mm):
    passage = Passage(id="p1", name="hanger", bore_mm=bore_mm, length_m=0.0, k_sum=1.5)
    return build(check_option(feed_passages=(passage,)))


def wired(loop_m):
    return build(check_option(pumps=(pump(wiring=Wiring(loop_m=loop_m, area_mm2=2.5, fuse_a=25.0)),)))


def charged(alternator_a):
    return build(check_option(2), car={"alternator_a": alternator_a, "other_a": 30.0})


def sucking(length_m):
    suction = Suction(place="external", head_m=0.2, line=line(11.0, length_m, 1.0))
    return build(check_option(suction=suction))


def rated(max_pressure_kpa):
    feed = fitted_line(11.1, 4.5)
    part = LinePart(name="hose", bore_mm=11.1, max_pressure_kpa=max_pressure_kpa)
    return build(check_option(feed=feed.model_copy(update={"part": part})))


def overflowing(bore_mm):
    return build(check_option(lift=lift_stage(6.0, overflow_mm=bore_mm)))


def test_a_tank_breathes_at_two_kilopascals():
    bore = boundary("tank-vent", vented, 0.5, 6.0)
    drawn = float(hydraulics(vented(bore)).delivered_m3_s[PEAK])
    assert vent_kpa(drawn, bore) == pytest.approx(2.0, rel=0.01)


def test_filling_is_judged_at_five_kilopascals():
    def filled(fill_l_h):
        return build(check_option(tank=Tank(fill_l_h=fill_l_h, vent_mm=8.0)))

    fill = boundary("tank-fill", filled, 1_000.0, 60_000.0)
    assert vent_kpa(fill / 3.6e6, 8.0) == pytest.approx(5.0, rel=0.01)


def test_time_at_load_may_burn_nine_tenths_of_the_tank():
    seconds = boundary("tank-small", loaded, 60.0, 6000.0)
    assert float(hydraulics(loaded(seconds)).delivered_m3_s[PEAK]) * seconds * 1000 == pytest.approx(0.9 * 60.0, rel=0.01)


def test_the_vapour_margin_wanted_is_twenty_kilopascals():
    hot = boundary("suction-margin", hotter, 20.0, 75.0)
    found = judge(hotter(hot), hotter(hot).options[0], hotter(hot).targets[0])
    head = 101.325 + float(found.points.hydraulics.inlet_kpa.min()) - found.fuel.vapour_kpa_abs
    assert head - hotter(hot).options[0].pumps[0].part.needed_head_kpa == pytest.approx(20.0, abs=0.3)


def at_what_is_asked(one):
    """What the passage and all the rest of the feed lose at the flow that the target asks, kPa."""
    verdict = judge(one, one.options[0], one.targets[0])
    parts = {each.path: each.lost_kpa for each in in_feed(verdict)}
    passage = parts.pop("feed_passages/p1")
    return verdict, passage, sum(parts.values())


def test_a_passage_is_small_from_ten_kilopascals_and_half_the_feed():
    bore = boundary("small-passage", passing, 3.0, 12.0)
    verdict, lost, rest = at_what_is_asked(passing(bore))
    density = verdict.fuel.density_kg_m3
    speed = verdict.demand.chosen_kg_s / density / (math.pi / 4 * (bore / 1000) ** 2)
    assert lost == pytest.approx(1.5 * density * speed**2 / 2000, rel=0.01)
    assert lost == pytest.approx(max(10.0, 0.5 * rest), rel=0.02)


def test_a_passage_that_loses_more_than_ten_kilopascals_is_small_from_half_the_feed():
    def longer(length_m):
        feed = [("options/o1/feed/part/bore_mm", 8.0), ("options/o1/feed/length_m", length_m)]
        return apply(passing(3.2), [*feed, ("rules/feed_drop_kpa", 300.0)])

    verdict, lost, rest = at_what_is_asked(longer(boundary("small-passage", longer, 2.0, 60.0)))
    assert lost > 12.0
    assert verdict.load("feed").load < 1.0
    assert lost == pytest.approx(0.5 * rest, rel=0.01)


@pytest.mark.parametrize("before", [False, True])
def test_dirt_is_told_of_from_ten_kilopascals_and_before_the_pump_from_three(before):
    part = FilterPart(name="filter", rated_flow_l_h=400.0, rated_drop_kpa=4.0, grade_um=100.0, linear_share_pct=100.0)

    def dirty(clogging):
        fitted = Filter(part=part, clogging=clogging)
        return build(check_option(suction=Suction(filter=fitted)) if before else check_option(filter=fitted))

    clogging = boundary("filter-clogged", dirty, 1.0, 40.0)
    verdict = judge(dirty(1.0), dirty(1.0).options[0], dirty(1.0).targets[0])
    passing_l_h = float(hydraulics(dirty(clogging)).supply_m3_s.max()) * 3.6e6
    assert passing_l_h > verdict.demand.chosen_kg_s / verdict.fuel.density_kg_m3 * 3.6e6
    assert (clogging - 1.0) * 4.0 * passing_l_h / 400.0 == pytest.approx(3.0 if before else 10.0, rel=0.01)


def test_volts_lost_are_told_from_what_the_shop_allows_and_a_check_from_a_fifth_more():
    for allowed_v in (0.5, 0.9):

        def rigged(loop_m, allowed_v=allowed_v):
            return apply(wired(loop_m), [("rules/wire_drop_v", allowed_v)])

        def a_check(loop_m):
            one = rigged(loop_m)
            said = find(one, one.options[0], judge_all(one, one.options[0]), CATALOGUE)
            return [each.severity for each in said if each.code == "wiring-drop"] == ["warn"]

        loop = boundary("wiring-drop", rigged, 1.0, 40.0)
        hyd = hydraulics(rigged(loop))
        assert 13.8 - float(hyd.volts[0].min()) == pytest.approx(allowed_v, rel=0.01)
        assert float(hyd.amps[0].max()) * 0.0172 * loop / 2.5 == pytest.approx(allowed_v, rel=0.05)
        assert not a_check(1.18 * loop)
        assert a_check(1.25 * loop)


def test_an_alternator_gives_five_sixths_hot():
    rated_a = boundary("alternator", charged, 30.0, 300.0)
    drawn = float(hydraulics(charged(rated_a)).amps[0, PEAK]) * 2 + 30.0
    assert 0.85 * rated_a == pytest.approx(drawn, rel=0.01)


def test_an_external_pump_may_lose_ten_kilopascals_on_the_way_to_it():
    length = boundary("external-pump-pulls", sucking, 0.2, 60.0)
    assert -float(hydraulics(sucking(length)).inlet_kpa.min()) == pytest.approx(10.0, rel=0.01)


def test_a_hose_is_judged_by_the_pressure_behind_the_pumps():
    rating = boundary("hose-rating", rated, 200.0, 2000.0)
    hyd = hydraulics(rated(rating))
    assert rating == pytest.approx(float((hyd.inlet_kpa + hyd.pump_rise_kpa).max()), rel=0.01)


def test_a_filter_element_may_see_half_of_what_it_bears():
    make = with_filter(collapse_kpa=60.0)
    clogging = boundary("filter-collapse", make, 1.0, 50.0)
    hyd = hydraulics(make(clogging))
    assert float(hyd.filter_kpa.max()) == pytest.approx(30.0, rel=0.02)


def test_a_surge_tank_overflows_at_ten_kilopascals():
    """The lift pump works against what stands in the tank as well, and brings less for it."""
    bore = boundary("overflow-small", overflowing, 3.0, 15.0)
    one = overflowing(bore)
    found = judge(one, one.options[0], one.targets[0])
    tables, rise = one.options[0].lift.part.tables(), found.lift.rise_kpa + 10.0
    brings = float(flow_l_h(tables, rise, found.lift.volts)) / 3.6e6
    assert brings < 0.9 * found.lift.flow_m3_s
    back = brings - float(found.points.hydraulics.delivered_m3_s[IDLE])
    speed = back / (math.pi / 4 * (bore / 1000) ** 2)
    dynamic = found.fuel.density_kg_m3 * speed**2 / 2000
    reynolds = found.fuel.density_kg_m3 * speed * bore / found.fuel.viscosity_mpa_s
    friction = (1.8 * math.log10(reynolds / 6.9)) ** -2  # Haaland, smooth
    assert (4.0 + friction * one.options[0].lift.line.length_m / (bore / 1000)) * dynamic == pytest.approx(10.0, rel=0.06)


def test_air_is_short_where_the_expected_band_ends():
    def boosted(boost_kpa):
        return build(None, a_target(boost_kpa=boost_kpa))

    boost = boundary("air-limited", boosted, 20.0, 200.0)
    load = judge(boosted(boost), boosted(boost).options[0], boosted(boost).targets[0]).load("engine").load
    assert load == pytest.approx(1.087, abs=0.01)  # the band's upper edge: 60.05 of 55.25


@pytest.mark.parametrize(
    ("wires", "outer_mm"),
    [
        *[(0.5, 1.6), (0.75, 1.9), (1.0, 2.1), (1.5, 2.4), (2.5, 3.0), (4.0, 3.7), (6.0, 4.3), (10.0, 6.0)],
        *[(16.0, 7.2), (25.0, 8.7), (35.0, 10.0), (50.0, 11.7), (70.0, 13.7)],
    ],
)
def test_ampacity_of_every_size_by_a_heat_balance_of_its_own(wires, outer_mm):
    """Free convection after Morgan's simpler form and radiation: within a tenth of the library's correlation."""
    ambient, limit, diameter = 40.0, 105.0, outer_mm / 1000
    film = (ambient + limit) / 2 + 273.15
    conductivity, viscosity = 0.0241 * (film / 273.15) ** 0.81, 1.33e-5 * (film / 273.15) ** 1.77
    rayleigh = 9.81 / film * (limit - ambient) * diameter**3 / viscosity**2 * 0.71
    nusselt = (0.60 + 0.387 * rayleigh ** (1 / 6) / (1 + (0.559 / 0.71) ** (9 / 16)) ** (8 / 27)) ** 2
    radiated = 0.9 * 5.67e-8 * ((limit + 273.15) ** 4 - (ambient + 273.15) ** 4)
    heat = (nusselt * conductivity / diameter * (limit - ambient) + radiated) * math.pi * diameter
    resistance = 1.724e-8 * (1 + 0.00393 * (limit - 20)) / (wires * 1e-6)
    assert ampacity_a(wires) == pytest.approx(math.sqrt(heat / resistance), rel=0.05)


def test_the_next_pumps_offered_carry_every_target():
    weak = check_option(pumps=(pump(derate_pct=70.0),))
    one = build(weak, a_target(power_kw=200, boost_kpa=110), a_target(id="t2", power_kw=180, boost_kpa=100))
    option = one.options[0]
    found = next(f for f in find(one, option, judge_all(one, option), CATALOGUE) if f.code == "pumps-short")
    offered = [remedy for remedy in found.remedies if any("pumps/" in path for path, _ in remedy.edits)]
    assert offered
    for remedy in offered:
        changed = apply(one, remedy.edits)
        loads = [verdict.load("pumps").load for verdict in judge_all(changed, changed.options[0])]
        assert max(loads) <= 1.0
        if "load_pct" in remedy.values:
            assert remedy.values["load_pct"] == pytest.approx(max(loads) * 100)


@pytest.mark.parametrize(("gained", "told"), [(0.0, True), (0.24, True), (0.26, False), (-0.05, False)])
def test_boost_adds_nothing_below_a_quarter_of_its_air(gained, told):
    """From 100 to 150 kPa of boost the engine takes as much more air as its manifold holds."""
    air = (101.325 + 150.0) / (101.325 + 100.0) - 1.0
    more = a_target(id="t2", name="More", boost_kpa=150.0, power_kw=200.0 * (1.0 + gained * air))
    assert speaks("boost-adds-nothing", build(None, a_target(), more)) is told


def test_dead_times_left_at_others_values_are_told_from_three_per_cent_of_idle():
    def told_ms(dead_time_ms):
        return apply(build(), [("options/o1/calibration/dead_time_ms", dead_time_ms)])

    at = boundary("dead-times-untold", told_ms, 0.9, 1.6)
    verdict = judge(build(), build().options[0], build().targets[0])
    assert (at - 0.9) / float(verdict.points.effective_ms[IDLE]) == pytest.approx(0.03, rel=0.01)


@pytest.mark.parametrize(("boost_kpa", "speaks_up"), [(10.0, False), (10.1, True), (11.0, True), (90.0, True)])
def test_a_reference_that_can_come_off_counts_under_boost(boost_kpa, speaks_up):
    one = build(None, a_target(boost_kpa=boost_kpa))
    one = apply(one, [("options/o1/regulator/reference_line", "unclamped or soft hose")])
    assert speaks("reference-line", one) is speaks_up


@pytest.mark.parametrize(
    ("area_mm2", "words"), [(0.75, "Fit a fuse of {fuse_a} and wire in {area_mm2}"), (6.0, "Fit a fuse of {fuse_a}")]
)
def test_a_missing_fuse_comes_with_a_wire_only_where_the_wire_carries_none(area_mm2, words):
    one = build(check_option(pumps=(pump(wiring=Wiring(loop_m=2.0, area_mm2=area_mm2, fuse_a=None)),)))
    assert told("fuse-missing", one).remedies[0].label.startswith(words)
    edits = dict(told("fuse-missing", one).remedies[0].edits)
    assert ("options/o1/pumps/g1/wiring/area_mm2" in edits) is ("wire" in words)


@pytest.mark.parametrize(
    ("area_mm2", "sold", "words"),
    [
        (33.63, "AWG", "2 AWG"),
        (53.48, "AWG", "1/0 AWG"),
        (67.43, "AWG", "2/0 AWG"),
        (5.26, "AWG", "10 AWG"),
        (6.0, "AWG", "6 mm²"),
        (6.0, "mm²", "6 mm²"),
        (53.48, "mm²", "53.48 mm²"),
    ],
)
def test_a_wire_is_named_as_it_is_sold(area_mm2, sold, words):
    """Areas of gauges from ASTM B258."""
    assert wire_words(area_mm2, sold) == words


def test_idle_must_lie_below_the_highest_speed():
    with pytest.raises(ValueError, match="idle speed"):
        apply(build(), [("engine/idle_rpm", 5000.0), ("engine/max_rpm", 5000.0), ("targets/t1/rpm", 4000.0)])
    assert np.isfinite(apply(build(), [("engine/idle_rpm", 4999.0)]).engine.idle_rpm)


def test_the_branch_of_a_split_is_named_by_its_number():
    weak = LinePart(name="hose", bore_mm=8.0, max_pressure_kpa=100.0)
    legs = split(line(8.0, 0.4, 1.0), fitted_line(8.0, 0.4, part=weak))
    one = build(check_option(split=legs, rail=Rail(count=2)))
    found = [f for f in find(one, one.options[0], judge_all(one, one.options[0]), CATALOGUE) if f.code == "hose-rating"]
    assert [f.values["line"] for f in found] == ["Branch 2"]


@pytest.mark.parametrize("path", ["options/o1/pumps/1", "options/o1/pumps/g1/part/curves/0/flow_l_h/6", "targets/1/rpm"])
def test_a_place_behind_the_end_of_a_list_is_no_place(path):
    with pytest.raises(ValueError, match="no such field"):
        apply(build(), [(path, 1.0)])


def test_a_worn_lift_pump_is_opened_as_it_is_solved():
    one = build(check_option(lift=lift_stage(6.0, derate_pct=20.0)))
    verdict = judge(one, one.options[0], one.targets[0])
    fresh = judge(build(check_option(lift=lift_stage(6.0))), *_only(build(check_option(lift=lift_stage(6.0)))))
    assert verdict.lift.flow_m3_s < 0.9 * fresh.lift.flow_m3_s
    assert value("lift.flow_l_h", FigureContext(one, verdict)) == pytest.approx(verdict.lift.flow_m3_s * 3.6e6, rel=1e-6)


def _only(one):
    return one.options[0], one.targets[0]


@pytest.mark.parametrize(
    ("reference", "compared"),
    [
        ("manifold", {"Atmospheric reference"}),
        ("atmosphere", {"Manifold reference"}),
        ("rising rate", {"Atmospheric reference", "Manifold reference"}),
    ],
)
def test_injector_flow_is_drawn_against_the_other_references(reference, compared):
    edits = [("options/o1/regulator/reference", reference), ("options/o1/regulator/rising_ratio", 2.0)]
    one = apply(build(), edits)
    labels = {each.label for each in sweeps.injector_flow(one, judge(one, *_only(one))).series}
    assert labels - {"This target"} == {"As referenced now", *compared}


@pytest.mark.parametrize(
    ("field", "limit", "ripple"),
    [
        ("on_above_kpa", 50.0, 2.0),
        ("on_above_rpm", 3000.0, 75.0),
        ("on_above_l_h", 100.0, 6.0),
        ("on_above_duty_pct", 60.0, 2.0),
    ],
)
def test_a_stage_chatters_where_its_band_is_narrower_than_the_ripple_of_its_signal(field, limit, ripple):
    def staged(hysteresis_pct):
        waits = pump(id="g2", hysteresis_pct=hysteresis_pct, min_on_s=0.1, **{field: limit})
        return build(check_option(pumps=(pump(), waits)))

    narrow = boundary("stage-chatters", staged, 0.01, 40.0)
    assert narrow * limit / 100.0 == pytest.approx(ripple, rel=0.01)
    one = staged(narrow / 2)
    found = next(f for f in find(one, *_found(one), CATALOGUE) if f.code == "stage-chatters")
    cured = apply(one, found.remedies[0].edits)
    assert not speaks("stage-chatters", cured)
    assert dict(found.remedies[0].edits)["options/o1/pumps/g2/hysteresis_pct"] == math.ceil(ripple / limit * 100.0)


def _found(one):
    return one.options[0], judge_all(one, one.options[0])


def test_ethanol_keeps_thinning_beyond_its_table():
    """Straight lines in the logarithm, carried on from the last two points on either side."""
    hot = [float(viscosity_mpa_s(1.0, at)) for at in (50.0, 60.0, 70.0, 80.0, 90.0)]
    cold = [float(viscosity_mpa_s(1.0, at)) for at in (-40.0, -30.0, -20.0)]
    assert all(before > after for before, after in pairwise(hot))
    assert all(before > after for before, after in pairwise(cold))
    assert math.log(hot[3] / hot[4]) == pytest.approx(math.log(hot[2] / hot[3]), rel=0.05)
    assert math.log(cold[0] / cold[1]) == pytest.approx(math.log(cold[1] / cold[2]), rel=0.05)


def told(code, one):
    """The finding of a code, or None."""
    return next((f for f in find(one, *_found(one), CATALOGUE) if f.code == code), None)


@pytest.mark.parametrize(("over", "severity"), [(1.02, "warn"), (1.24, "warn"), (1.26, "stop")])
def test_a_hose_a_quarter_over_its_rating_stops(over, severity):
    hyd = hydraulics(rated(2000.0))
    highest = float((hyd.inlet_kpa + hyd.pump_rise_kpa).max())
    found = told("hose-rating", rated(highest / over))
    assert found.severity == severity
    assert found.values["line_kpa"] == pytest.approx(highest)


@pytest.mark.parametrize(
    ("runs", "rated_c", "severity"),
    [
        ("in the engine bay", 111.0, None),
        ("in the engine bay", 109.0, "warn"),
        ("in the engine bay", 86.0, "warn"),
        ("in the engine bay", 85.0, "warn"),
        ("in the engine bay", 84.0, "stop"),
        ("under the body", 71.0, None),
        ("under the body", 69.0, "warn"),
        ("in the tank", 61.0, None),
        ("in the tank", 59.0, "warn"),
        ("in the tank", 34.0, "stop"),
    ],
)
def test_a_hose_is_judged_by_the_heat_of_its_place(runs, rated_c, severity):
    feed = fitted_line(11.1, 4.5)
    part = LinePart(name="hose", bore_mm=11.1, max_temp_c=rated_c)
    found = told("hose-rating", build(check_option(feed=feed.model_copy(update={"part": part, "runs": runs}))))
    assert (found and found.severity) == severity


@pytest.mark.parametrize(("assumed", "other"), [(85.0, 60.0), (75.0, 60.0), (70.0, 85.0), (55.0, 85.0)])
def test_a_blend_assumed_is_held_against_the_other_season(assumed, other):
    one = build(check_option(), a_target(ethanol_pct=assumed))
    one = apply(one, [("options/o1/calibration/blend", "entered by hand")])
    found, fuels = told("blend-assumed", one), []
    for pct in (assumed, other):
        target = one.targets[0].model_copy(update={"ethanol_pct": pct})
        fuels.append(fuel_state(one, target))
    meant, real = fuels
    # The same pulse passes mass by the root of density; mixture goes with the air that mass wants.
    wants = [fuel.stoich_afr * math.sqrt(fuel.density_kg_m3) for fuel in (meant, real)]
    becomes = one.targets[0].lambda_ * wants[0] / wants[1]
    assert found.values["other_pct"] == other
    assert float(found.values["lambda_real"]) == pytest.approx(becomes, abs=0.006)


def test_uneven_branches_are_told_on_the_target_that_draws_most():
    legs = split(line(4.5, 0.3, 0.0), line(4.5, 3.0, 0.0))
    option = check_option(2, split=legs, rail=Rail(count=2))
    option = apply(build(option), [("options/o1/regulator/arrangement", NEAR)]).options[0]
    one = build(option, a_target(power_kw=150, boost_kpa=60), a_target(id="t2", name="most", power_kw=260, boost_kpa=120))
    found = told("banks-uneven", one)
    assert found.values["target_name"] == "most"
    hyd = judge(one, option, one.targets[1]).points.hydraulics
    each = float(hyd.delivered_m3_s[PEAK]) / 2
    fuel = fuel_state(one, one.targets[1])
    drops = [
        float(line_drop_kpa(each, 4.5, length, 0.0, fuel.density_kg_m3, fuel.viscosity_mpa_s)) for length in (0.3, 3.0)
    ]
    assert found.values["spread_kpa"] == pytest.approx(drops[1] - drops[0], rel=0.02)
    less = 1 - math.sqrt(1 - found.values["spread_kpa"] / float(hyd.differential_kpa[PEAK]))
    assert found.values["share_pct"] == pytest.approx(less * 100, rel=1e-6)


@pytest.mark.parametrize("field", ["on_above_l_h", "on_above_duty_pct"])
def test_a_stage_that_joins_too_late_ends_the_power_before_it_joins(field):
    """The ceiling of pumps is the first power at which they run out, coming up, though a later stage would carry more."""
    first = pump(derate_pct=45.0)
    bare = build(check_option(pumps=(first,)), a_target(power_kw=180, boost_kpa=110))
    alone = judge(bare, *_only(bare)).load("pumps").ceiling_kw
    verdict = judge(bare, *_only(bare))
    peak = float(verdict.points.hydraulics.delivered_m3_s[PEAK]) * 3.6e6
    duty = float(verdict.points.effective_ms[PEAK] / verdict.points.cycle_ms[PEAK]) * 100
    at = {"on_above_l_h": peak, "on_above_duty_pct": duty}[field] * 1.1 * alone / 180
    late = build(check_option(pumps=(first, pump(id="g2", **{field: at}))), a_target(power_kw=180, boost_kpa=110))
    assert judge(late, *_only(late)).load("pumps").ceiling_kw == pytest.approx(alone, rel=0.01)


def one_size_down_kpa(one):
    """What the feed would lose a size down on the only target, with all the pumps bring."""
    feed, verdict = one.options[0].feed, judge(one, one.options[0], one.targets[0])
    smaller, hyd = CATALOGUE.line_next(feed.part, larger=False), verdict.points.hydraulics
    flow = (hyd.supply_m3_s if one.options[0].carburettor is None else hyd.delivered_m3_s)[:1]
    fluid = {"density_kg_m3": verdict.fuel.density_kg_m3, "viscosity_mpa_s": verdict.fuel.viscosity_mpa_s}
    return float(
        line_drop_kpa(flow, smaller.bore_mm, feed.length_m, feed.k_sum, roughness_um=smaller.roughness_um, **fluid)[0]
    )


def test_a_smaller_feed_is_told_where_it_would_lose_a_fifth_of_what_is_allowed():
    part = load_shelf().part("lines", "ptfe-10")
    one = build(check_option(feed=line(12.7, 3, 2).model_copy(update={"part": part})))
    lost = one_size_down_kpa(one)
    for allowed, told in ((5.0 * lost * 1.03, True), (5.0 * lost * 0.97, False)):
        assert speaks("feed-large", apply(one, [("rules/feed_drop_kpa", allowed)])) is told


def test_floats_are_offered_a_smaller_feed_up_to_a_tenth_of_what_they_live_on():
    one = demo("fieldfare")
    option = one.options[0]
    wide = load_shelf().part("lines", "ptfe-6").model_dump(mode="json")
    one = apply(one, [("targets", [one.targets[0].model_dump(mode="json", by_alias=True)])])
    path = f"options/{option.id}/feed"

    def fed(length_m):
        return apply(one, [(f"{path}/part", wide), (f"{path}/fittings", []), (f"{path}/length_m", length_m)])

    at = boundary("feed-large", fed, 0.1, 5.0)
    assert one_size_down_kpa(fed(at)) == pytest.approx(0.1 * option.carburettor.lowest_kpa, rel=0.03)


@pytest.mark.parametrize(
    ("base", "most", "offered"),
    [
        (300.0, 400.0, [350.0, 400.0]),
        (300.0, 399.0, [350.0]),
        (349.0, 600.0, [400.0]),
        (348.9, 350.0, [350.0]),
        (400.0, 600.0, []),
    ],
)
def test_bases_offered_are_the_usual_ones_this_regulator_holds(base, most, offered):
    regulator = check_option().regulator
    part = regulator.part.model_copy(update={"max_base_kpa": most})
    one = build(check_option(regulator=regulator.model_copy(update={"base_kpa": base, "part": part})))
    assert _bases(Context(one, one.options[0], (), CATALOGUE)) == offered
