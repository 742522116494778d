"""The small pictures: they draw every ordinary car without a hole, say the model's numbers, and stand on round ticks."""

import json
import re
from itertools import pairwise

import pytest
from hypothesis import given
from hypothesis import strategies as st

from iron_gulp.core.judge import circuits, judge_all
from iron_gulp.core.study import legs, operating_field
from iron_gulp.units import PRESETS, BenchUnits, show
from iron_gulp.web.benches.ask.picture import asked
from iron_gulp.web.benches.demand.picture import schools
from iron_gulp.web.benches.feed.picture import stair
from iron_gulp.web.benches.fuel.lap import surge_level
from iron_gulp.web.benches.fuel.picture import head_stair
from iron_gulp.web.benches.injectors.picture import cycle_bars
from iron_gulp.web.benches.stage.picture import even, stage_map
from iron_gulp.web.benches.stage.staging import _field_json
from iron_gulp.web.benches.wire.picture import rungs
from iron_gulp.web.garage.small_path import small_path
from iron_gulp.web.parts.pressure_line import pressure_line
from iron_gulp.web.parts.sketch import Scale, ticks
from tests.garage import CARS, car
from tests.systems import demo

METRIC, US = BenchUnits(), BenchUnits(PRESETS["US"])
PLACES = re.compile(r'(?<![\w-])(?:x|y|x1|x2|y1|y2|width|height|d)="([^"]*)"')


def pictures(build, option, units=METRIC):
    verdicts = judge_all(build, option)
    for verdict in verdicts:
        yield pressure_line(verdict, units)
        yield stair(verdict, units)
        yield schools(verdict, units)
        yield head_stair(build, verdict, units)
        yield asked(verdicts, verdict.target.id, units)
        if found := circuits(option, tuple(verdicts), build.rules):
            yield rungs(found, build.rules.wire_drop_v, units)
        if option.lift is not None:
            yield surge_level(verdict, units)
        if option.injectors is not None:
            yield cycle_bars(build, option.injectors, verdicts, verdict.target.id, units)


def whole(svg):
    for place in PLACES.findall(svg):
        numbers = [float(one) for one in re.findall(r"-?\d+(?:\.\d+)?", place)]
        assert numbers
        assert not re.search(r"nan|inf", place)
        assert all(-40 <= one <= 1300 for one in numbers), place
    assert not re.search(r"\bnan\b|∞", svg)


@pytest.mark.parametrize("name", CARS)
def test_every_ordinary_car_is_drawn(name):
    one = car(name)
    for svg in pictures(one, one.options[0], US):
        whole(svg)


@pytest.mark.parametrize("name", ["curlew", "saltern", "fieldfare"])
def test_every_demo_option_is_drawn(name):
    one = demo(name)
    for option in one.options:
        for svg in pictures(one, option):
            whole(svg)


def told(value, name, units=METRIC):
    return "\u00a0".join(show(value, name, units))


@pytest.mark.parametrize("units", [METRIC, US], ids=["metric", "US"])
def test_the_pressure_line_says_the_solutions_pressures(units):
    curlew = demo("curlew")
    for verdict in judge_all(curlew, curlew.options[0]):
        hyd, svg = verdict.points.hydraulics, pressure_line(verdict, units)
        assert f"rail {told(float(hyd.rail_kpa[0]), 'rail_kpa', units)}" in svg
        assert f"manifold {told(verdict.target.boost_kpa, 'boost_kpa', units)}" in svg
        outlet = float(hyd.inlet_kpa[0] + hyd.pump_rise_kpa[0])
        assert f"behind the pumps {told(outlet, 'rail_kpa', units)}" in svg


def test_the_stairs_steps_add_up_from_pumps_to_rail():
    saltern = demo("saltern")
    for option in saltern.options:
        for verdict in judge_all(saltern, option):
            svg, hyd = stair(verdict, METRIC), verdict.points.hydraulics
            every = legs(verdict)
            outlet = next(leg.after_kpa for leg in every if leg.name == "Pumps")
            label = re.search(r'aria-label="([^"]*)"', svg).group(1)
            lost = sum(float(one) for one in re.findall(r"([\d.]+) kPa", label))
            assert lost == pytest.approx(outlet - float(hyd.rail_kpa[0]), abs=2.0)


def test_injectors_past_the_limit_are_drawn_so():
    curlew = demo("curlew")
    option = curlew.options[0]
    verdicts = judge_all(curlew, option)
    over = sum(verdict.load("injectors").load > 1 for verdict in verdicts)
    svg = cycle_bars(curlew, option.injectors, verdicts, "hill", METRIC)
    assert over >= 1
    assert svg.count("s-bar s-over") == over
    for verdict in verdicts:
        assert show(float(verdict.points.duty[0]) * 100, "duty_pct", METRIC)[0] in svg


def test_the_stage_map_labels_every_number_of_pumps_and_marks_every_target():
    saltern = demo("saltern")
    option, record = saltern.option("staged"), saltern.target("record")
    field = operating_field(saltern, option, record)
    svg = stage_map(saltern, field, record, saltern.targets, METRIC)
    whole(svg)
    assert even(field) == ""
    assert [words in svg for words in ("1 pump<", "2 pumps<", "3 pumps<", "4 pumps<")] == [True, True, True, False]
    assert svg.count("s-bar s-dots") >= 1
    assert svg.count('class="s-point') == len(saltern.targets) + 1
    all_on = operating_field(saltern, saltern.option("three-on"), record)
    assert even(all_on).startswith("All 3 pumps run at every speed")


def test_the_small_path_marks_the_first_to_run_out():
    svg = small_path([["fuel", 0.2, "ok"], ["pump", None, "over"], ["feed", 0.95, "close"]], "pump")
    assert svg.count("s-bar s-over") == 1
    assert "Pumps none left" in svg
    assert small_path([], "pump") == ""


@given(st.floats(-1e5, 1e5), st.floats(1e-2, 1e5), st.integers(2, 8))
def test_ticks_are_round_and_within(low, span, about):
    found = ticks(low, low + span, about)
    assert len(found) <= 2.6 * about + 2
    for one, other in pairwise(found):
        step = f"{other - one:.3e}"
        assert float(step.split("e")[0]) in (1.0, 2.0, 5.0, 10.0)
    room = 1e-6 * max(abs(low), span)
    assert all(low - room <= one <= low + span + room for one in found)


def test_a_scale_holds_what_lies_outside():
    one = Scale(0.0, 10.0, 100.0, 0.0)
    assert (one.at(5), one.at(-3), one.at(99)) == (50.0, 100.0, 0.0)
    assert Scale(1.0, 1.0, 4.0, 9.0).at(7) == 4.0


def test_the_rungs_say_where_volts_go_and_mark_what_is_wrong():
    curlew = demo("curlew")
    option = curlew.option("as-built")
    found = circuits(option, tuple(judge_all(curlew, option)), curlew.rules)
    for one in found:
        assert sum(one.falls_v) == pytest.approx(one.drop_v)
        assert one.falls_v[0] == pytest.approx(one.current_a * one.wiring.connectors_mohm / 1e3)
        assert one.falls_v[1] == pytest.approx(
            one.current_a * 0.0172 * one.wiring.loop_m / 2 / one.wiring.area_mm2, rel=0.15
        )
    svg = rungs(found, curlew.rules.wire_drop_v, METRIC)
    assert svg.count("too much") == sum(one.drop_v > 0.55 for one in found) == 2
    wrong = re.findall(r'class="s-text s-strong s-wrong"[^>]*>([^<]*)<', svg)
    assert "fuse\xa040\xa0A" in [each.replace("fuse ", "fuse\xa0") for each in wrong]
    assert "relay" not in wrong


def test_the_surge_tank_is_drawn_with_what_comes_and_goes():
    saltern = demo("saltern")
    option = saltern.option("two-rails")
    verdict = judge_all(saltern, option)[1]
    svg = surge_level(verdict, METRIC)
    flows = (verdict.lift.flow_m3_s, verdict.points.hydraulics.delivered_m3_s[0])
    lifted, drawn = (show(flow * 3.6e6, "x_l_h", METRIC)[0] for flow in flows)
    assert f"in {lifted}\xa0L/h" in svg
    assert f"out {drawn}\xa0L/h" in svg
    assert svg.count("s-hatch") >= 4
    assert "never below" in svg
    assert surge_level(judge_all(saltern, saltern.option("staged"))[0], METRIC) is None


@pytest.mark.parametrize("units", [METRIC, US], ids=["metric", "US"])
def test_the_field_is_marked_at_round_numbers_of_its_unit(units):
    saltern = demo("saltern")
    option, target = saltern.option("staged"), saltern.target("record")
    data = json.loads(_field_json(operating_field(saltern, option, target), units))
    for axis in (data["x"], data["y"]):
        values = [float(one.replace("\u2212", "-").replace("\u202f", "")) for one in axis["ticks"]]
        cell = (values[-1] - values[0]) / (len(values) - 1)
        marks = [(position, float(text.replace("\u2212", "-"))) for position, text in axis["marks"]]
        assert 3 <= len(marks) <= 12
        steps = {round(after[1] - before[1], 6) for before, after in pairwise(marks)}
        assert len(steps) == 1
        assert f"{steps.pop():e}"[0] in "125"
        assert all(abs(values[position] - number) <= 0.51 * cell + 1 for position, number in marks)
