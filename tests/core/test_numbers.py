"""Numbers of tables, opened: each is what the solution, worked out here by itself, gives; so is what moves it."""

import numpy as np
import pytest

from iron_gulp.core.account import NUMBERS, Place, opened, values_sheet
from iron_gulp.core.judge import judge_all, judge_many
from iron_gulp.core.model import LIMITS, POWER_LIMITS, Fill, Unknown, apply, restrictions
from iron_gulp.core.solve import IDLE, PEAK
from iron_gulp.core.study import CORNERS, chances, every_arrangement, what_matters
from tests.draws import EVERY_DEMO
from tests.systems import demo


@pytest.fixture(scope="module")
def curlew():
    return demo("curlew")


def number(kind, build, option="as-built", target="hill", **place):
    return opened(kind, build, build.option(option), build.target(target), Place(**place))


def value(kind, build, option="as-built", target="hill", **place):
    """The number alone: what moves it, which takes most of the time, is not worked out."""
    asked = (build, build.option(option), build.target(target))
    return NUMBERS[kind](asked, Place(**place)).read([asked])[0]


def judged(build, option="as-built", target="hill", **changes):
    one = build.target(target).model_copy(update=changes)
    return judge_many([(build, build.option(option), one)])[0]


def row_of(explained, label):
    return next(one for one in explained.inputs if one.label == label)


@pytest.mark.parametrize("target", ["hill", "later"])
def test_ceilings_headroom_and_gain_are_read_off_all_ceilings(curlew, target):
    ends = {one.component: one.ceiling_kw for one in judged(curlew, target=target).loads if one.ceiling_kw is not None}
    lowest, second = sorted(ends[name] for name in POWER_LIMITS if name in ends)[:2]
    wanted = curlew.target(target).power_kw
    assert value("ceiling", curlew, "as-built", target) == pytest.approx(lowest)
    assert value("ceiling", curlew, "as-built", target, component="pumps") == pytest.approx(ends["pumps"])
    assert value("headroom", curlew, "as-built", target) == pytest.approx((lowest / wanted - 1) * 100)
    assert value("gain", curlew, "as-built", target) == pytest.approx(second - lowest)


def test_what_moves_a_number_is_the_number_of_the_build_with_that_field_alone_moved(curlew):
    found = row_of(number("headroom", curlew), "Power wanted")
    for told, factor in ((found.low, 0.9), (found.high, 1.1)):
        changed = apply(curlew, [("targets/hill/power_kw", curlew.target("hill").power_kw * factor)])
        (verdict,) = judge_many([(changed, changed.options[0], changed.target("hill"))])
        assert told == pytest.approx((verdict.power_limit.ceiling_kw / verdict.target.power_kw - 1) * 100)


def test_the_load_within_brackets_is_that_of_the_best_and_the_worst_end(curlew):
    option = curlew.option("as-built")
    part = option.injectors.part
    unknown = Unknown(id="a", what="port injectors, flow", low_pct=80, high_pct=120)
    build = apply(curlew, [("options/as-built/unknown", [unknown.model_dump(mode="json")])])

    def load(share):
        fitted = part.model_copy(update={"rated_flow_cc_min": part.rated_flow_cc_min * share})
        injectors = option.injectors.model_copy(update={"part": fitted})
        one = option.model_copy(update={"injectors": injectors})
        return judge_many([(build, one, build.target("hill"))])[0].first_out.load * 100

    assert value("bracket", build, case="best") == pytest.approx(load(1.2))
    assert value("bracket", build, case="worst") == pytest.approx(load(0.8))
    assert load(0.8) > load(1.2)
    with pytest.raises(KeyError):
        value("bracket", curlew, case="best")


def test_a_load_in_a_corner_is_that_corner_judged(curlew):
    for row, (_, _, change) in enumerate(CORNERS):
        (verdict,) = judge_many([change(curlew, curlew.option("as-built"), curlew.target("hill"))], ceilings=False)
        assert value("load", curlew, row=row, component="pumps") == pytest.approx(verdict.load("pumps").load * 100)
        assert value("load", curlew, row=row) == pytest.approx(verdict.first_out.load * 100)


def test_a_load_on_another_blend_and_what_is_carried_there(curlew):
    other = judged(curlew, ethanol_pct=20.0, vapour_kpa_abs=None)
    assert value("load-on", curlew, at=20.0) == pytest.approx(other.first_out.load * 100)
    assert value("limit", curlew, at=20.0) == pytest.approx(other.power_limit.ceiling_kw, rel=1e-6)
    slower = judged(curlew, rpm=5000.0)
    assert value("limit", curlew, axis="rpm", at=5000.0) == pytest.approx(slower.power_limit.ceiling_kw, rel=1e-6)


def permitted_kw(build, blend):
    """The shop's headroom below the lower of fuel's and compressor's ceiling, boost rising with power."""
    return value("limit", build, at=blend, rising=True) / (1 + build.rules.headroom_pct / 100)


@pytest.mark.parametrize(("blend", "stronger"), [(40.0, 50.0), (95.0, 100.0)])
def test_boost_permitted_keeps_the_headroom_and_where_the_reading_is_ten_points_off(curlew, blend, stronger):
    target, bar = curlew.target("hill"), curlew.car.barometer_kpa
    for case, at in (("read", blend), ("wrong", stronger)):
        power = permitted_kw(curlew, at)
        boost = (target.boost_kpa + bar) * power / target.power_kw - bar
        assert value("permitted-boost", curlew, at=blend, case=case) == pytest.approx(boost, rel=1e-6)
    assert value("permitted-power", curlew, at=blend) == pytest.approx(permitted_kw(curlew, blend), rel=1e-6)


def test_a_fuel_that_is_no_blend(curlew):
    on = judged(curlew, base_fuel="methanol", ethanol_pct=0.0, vapour_kpa_abs=None)
    litres = on.demand.chosen_kg_s * 3600 / on.fuel.density_kg_m3 * 1000
    assert value("fuel-hour", curlew, fuel="methanol") == pytest.approx(litres)
    assert value("fuel-power", curlew, fuel="methanol") == pytest.approx(on.power_limit.ceiling_kw)


def test_blends_a_target_runs_on_end_where_a_load_comes_past_one(curlew):
    first, last = (value("runs-on", curlew, row=0, case=case) for case in ("from", "to"))
    assert first == round(first)
    assert last == round(last)

    def worst(pct):
        loads = judged(curlew, ethanol_pct=pct, vapour_kpa_abs=None).loads
        return max(one.load for one in loads if one.component in LIMITS or one.component == "engine")

    assert worst(first) <= 1
    assert worst(last) <= 1
    assert first == 0 or worst(first - 1) > 1
    assert last == 100 or worst(last + 1) > 1


def test_a_system_under_another_regulator_as_the_table_of_arrangements_has_it(curlew):
    kinds = every_arrangement(curlew, curlew.option("as-built"), curlew.target("hill"))
    for row, kind in enumerate(kinds):
        if not (EVERY_DEMO or row == 1):
            continue
        for at, which in ((IDLE, "idle"), (PEAK, "peak")):
            place = 1 if at == PEAK else 0
            assert value("arranged", curlew, row=row, case=f"rail {which}") == pytest.approx(kind.rail_kpa[place])
        assert value("arranged", curlew, row=row, case="left") == pytest.approx(kind.left_m3_s * 3.6e6)
        assert value("arranged", curlew, row=row, case="supply") == pytest.approx(kind.pump_load * 100)
    with pytest.raises(KeyError):
        value("arranged", curlew, row=len(kinds), case="left")
    with pytest.raises(KeyError):
        value("arranged", curlew, row=-1, case="left")


@pytest.mark.skipif(not EVERY_DEMO, reason="slow; in the long run, and where faults are put in on purpose")
def test_a_chance_is_the_share_of_its_draws_and_a_spread_moves_it_by_what_fewer_draws_tell(curlew):
    option = curlew.option("as-built")
    told = {one.target.id: one.carried for one in chances(curlew, option).targets}
    target = min(told, key=lambda one: abs(told[one] - 0.5))
    explained = number("chance", curlew, "as-built", target)
    share = told[target]
    assert explained.value == pytest.approx(share * 100)
    bounded = min(max(share, 1 / 2000), 1 - 1 / 2000)
    assert f"unsure by {100 * np.sqrt(bounded * (1 - bounded) / 2000):.1g} points" in explained.note
    percents = [one for one in explained.inputs if one.label.startswith("Spread: ") and one.name == "spread_pct"]
    found = max(percents, key=lambda one: abs(one.high - one.low))
    assert found.high != found.low
    name = next(
        key
        for key, field in type(curlew.tolerances).model_fields.items()
        if found.label == f"Spread: {field.title}" and hasattr(getattr(curlew.tolerances, key), "spread_pct")
    )
    few = chances(curlew, option, 400, only=curlew.target(target)).of(target).carried
    for shown, factor in ((found.low, 0.9), (found.high, 1.1)):
        changed = apply(curlew, [(f"tolerances/{name}/spread_pct", found.value * factor)])
        moved = chances(changed, changed.option("as-built"), 400, only=changed.target(target)).of(target).carried
        assert shown == pytest.approx(np.clip(100 * (share + moved - few), 0, 100))


@pytest.mark.skipif(not EVERY_DEMO, reason="slow; in the long run, and where faults are put in on purpose")
def test_what_an_input_matters_is_its_share_of_the_variance(curlew):
    option, target = curlew.option("as-built"), curlew.target("hill")
    first = chances(curlew, option).of("hill").first_out
    one = what_matters(curlew, option, target, first)[0]
    explained = number("share", curlew, case=one.name)
    assert explained.value == pytest.approx(min(one.together, 1.0) * 100)
    assert explained.inputs[0].value == pytest.approx(one.alone * 100)


def test_idle_pulses_are_fuel_of_a_cylinder_over_the_open_flow(curlew):
    verdict = judged(curlew)
    part = curlew.option("as-built").injectors.part
    entered, least = (value("pulse", curlew, case=case) for case in ("entered", "least"))
    assert entered == pytest.approx(float(verdict.points.effective_ms[IDLE]), rel=1e-6)
    assert least == pytest.approx(part.smallest_pulse_ms)
    flow_g_s = 1000 * float(verdict.points.open_kg_s[IDLE])  # of one injector
    assert value("pulse", curlew, case="fuel") == pytest.approx(least * flow_g_s, rel=1e-6)
    dead = float(verdict.points.dead_ms[IDLE])
    assert value("pulse", curlew, case="unsure") == pytest.approx(0.05 * dead * flow_g_s, rel=1e-6)


def sized(build, cc_min):
    changed = apply(build, [("options/as-built/injectors/part/rated_flow_cc_min", cc_min)])
    return judge_all(changed, changed.options[0])


def test_an_injector_of_another_size_is_the_system_with_it_and_the_window_ends_where_it_is_full(curlew):
    curlew = apply(curlew, [("options/as-built/injectors/part/min_pulse_ms", None)])
    size = curlew.option("as-built").injectors.part.rated_flow_cc_min * 1.2
    loads = [one.load("injectors").load for one in sized(curlew, size)]
    rated = curlew.option("as-built").injectors.part.rated_pressure_kpa
    at_300 = size * float(np.sqrt(300 / rated))
    assert value("size-load", curlew, at=at_300) == pytest.approx(max(loads) * 100, rel=0.02)
    smallest = value("size-window", curlew, case="smallest")
    assert value("size-load", curlew, at=smallest) == pytest.approx(100, rel=0.01)


def test_both_sets_are_read_off_the_solution(curlew):
    points = judged(curlew, "two-sets").points
    second = points.second
    for case, share in (
        ("first", points.duty[PEAK]),
        ("second", second.duty[PEAK]),
        ("share", second.metered_kg_s[PEAK] / points.metered_kg_s[PEAK]),
        ("step", second.step[PEAK]),
    ):
        assert value("both-sets", curlew, "two-sets", case=case) == pytest.approx(float(share) * 100)
    with pytest.raises(KeyError):
        value("both-sets", curlew, "as-built", case="first")


def test_a_measured_set_and_what_one_of_its_flows_moves(curlew):
    flows = [500.0, 510.0, 496.0, 530.0, 505.0, 501.0]
    text = " ".join(str(one) for one in flows)
    build = apply(curlew, [("options/as-built/injectors/measured_flows", text)])
    mean = sum(flows) / 6
    assert value("measured-set", build, case="mean") == pytest.approx(mean)
    assert value("measured-set", build, case="spread") == pytest.approx(100 * (530 - 496) / mean)
    explained = number("measured-set", build, case="error", row=3)
    assert explained.value == pytest.approx(100 * (mean / 530 - 1))
    assert explained.label.endswith(", cylinder 4")
    for which, shown in enumerate(explained.inputs):
        for told, factor in ((shown.low, 0.9), (shown.high, 1.1)):
            changed = [one * (factor if at == which else 1) for at, one in enumerate(flows)]
            assert told == pytest.approx(100 * (sum(changed) / 6 / changed[3] - 1))
    for row in (6, 7):
        with pytest.raises(KeyError):
            value("measured-set", build, case="error", row=row)


def test_a_fill_is_mixed_by_volume_and_measured_against_that(curlew):
    fills = (
        Fill(id="f1", day="2026-05-01", left_l=0, poured_l=40, poured_pct=10),
        Fill(id="f2", day="2026-05-02", left_l=15, poured_l=30, poured_pct=80, measured_pct=60),
    )
    build = curlew.model_copy(update={"fills": fills})
    blend = (15 * 10 + 30 * 80) / 45
    for case, told in (("level", 45), ("computed", blend), ("off", 60 - blend), ("held", 60)):
        assert value("fill", build, row=1, case=case) == pytest.approx(told)
    moved = row_of(number("fill", build, row=1, case="computed"), "Fill 2, poured")
    assert (moved.low, moved.high) == tuple(pytest.approx((150 + 80 * one) / (15 + one)) for one in (27.0, 33.0))
    with pytest.raises(KeyError):
        value("fill", build, row=2, case="level")


def litres(line):
    return np.pi / 4 * (line.part.bore_mm / 100) ** 2 * line.length_m * 10


def test_a_new_blend_arrives_when_what_lies_before_it_has_flowed(curlew):
    """Saltern's lines and filter pass it on; Curlew's surge tank stirs: 95 % of it takes three of its volumes."""
    saltern = demo("saltern")
    option, target = saltern.options[0], saltern.targets[0]
    (verdict,) = judge_many([(saltern, option, target)], ceilings=False)
    assert option.lift is None
    before = 0.0 if option.suction.line is None else litres(option.suction.line)
    before += litres(option.feed) + (0.3 if option.filter is not None else 0.0)
    rail = option.rail.count * np.pi / 4 * (option.rail.bore_mm / 100) ** 2 * option.rail.length_m * 10
    flow = float(verdict.points.hydraulics.supply_m3_s[PEAK]) * 60e3
    for case, volume in (("sensor load", before), ("rail load", before + rail)):
        explained = opened("arrives", saltern, option, target, Place(case=case))
        minutes = explained.value / (60 if explained.name == "time_s" else 1)
        assert minutes == pytest.approx(volume / flow, rel=1e-6)
    lift = curlew.option("as-built").lift
    verdict = judged(curlew)
    lifted = verdict.lift.flow_m3_s * 60e3
    suction = curlew.option("as-built").suction.line
    stirred = (litres(lift.line) + (0 if suction is None else litres(suction)) + np.log(20) * lift.surge_l) / lifted
    standing = [one.element for one in restrictions(curlew.option("as-built"), "feed")]
    passed = sum(np.pi / 4 * (one.bore_mm / 100) ** 2 * one.length_m * 10 for one in standing)
    after = litres(curlew.option("as-built").feed) + 0.3 + passed
    explained = number("arrives", curlew, case="sensor load")
    minutes = explained.value / (60 if explained.name == "time_s" else 1)
    assert minutes == pytest.approx(
        stirred + after / (float(verdict.points.hydraulics.supply_m3_s[PEAK]) * 60e3), rel=1e-6
    )


def test_a_value_of_the_sheet_opens_on_itself(curlew):
    option = curlew.option("as-built")
    sections = values_sheet(curlew, option, tuple(judge_all(curlew, option)))
    numbers = [one for section in sections for one in section.rows if not isinstance(one.value, str)]
    assert len(numbers) > 8
    for one in numbers if EVERY_DEMO else numbers[::4]:
        assert value("sheet", curlew, case=one.name) == pytest.approx(one.value)
    for known in ("entered", "estimate"):
        first = next(one for one in numbers if one.known == known)
        assert number("sheet", curlew, case=first.name).entered == (known == "entered")


@pytest.mark.parametrize(
    ("kind", "place"),
    [
        ("load", {"row": len(CORNERS)}),
        ("load", {"row": -1}),
        ("load", {"component": "needles"}),
        ("limit", {"at": 101.0}),
        ("limit", {"at": -1.0}),
        ("limit", {"axis": "rpm", "at": 299.0}),
        ("runs-on", {"row": 9, "case": "from"}),
        ("size-load", {"at": 0.0}),
        ("arranged", {"case": "rail sideways"}),
        ("share", {"case": "the weather"}),
    ],
)
def test_what_is_no_number_is_refused(curlew, kind, place):
    with pytest.raises(KeyError):
        value(kind, curlew, **place)


@pytest.mark.parametrize("axis", ["ethanol_pct", "rpm", "base_kpa"])
def test_an_axis_has_its_ends_and_nothing_beyond(axis):
    low, high = {"ethanol_pct": (0.0, 100.0), "rpm": (300.0, 20_000.0), "base_kpa": (1.0, 2000.0)}[axis]
    for at in (low, high):
        assert Place(at=at).on(axis) == at
    for at in (low - 0.01, high + 0.01):
        with pytest.raises(KeyError, match="no place on this axis"):
            Place(at=at).on(axis)
