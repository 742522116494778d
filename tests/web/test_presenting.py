"""What pages say is what the core found: presenters in several unit systems, against the solution itself."""

import json
import re

import pytest
from markupsafe import Markup

from iron_gulp.core.judge import circuits, judge_all
from iron_gulp.core.model import apply
from iron_gulp.core.study import every_arrangement, legs, missing_stages, operating_field, switches
from iron_gulp.core.study.size_window import SizeWindow, Window
from iron_gulp.units import PRESETS, BenchUnits
from iron_gulp.web.benches.draw.parts_list import parts_list_view
from iron_gulp.web.benches.injectors.window import window_sentence
from iron_gulp.web.benches.regulator.references import references_view
from iron_gulp.web.benches.showing import VIEWS
from iron_gulp.web.benches.stage.staging import LAYERS, field_json, staging_view
from iron_gulp.web.benches.wire.circuits import circuit_views
from iron_gulp.web.parts.lines import line_view
from tests.systems import fitted_line, line

KPA_PER_PSI = 6.894757293168
L_PER_GALLON = 3.785411784
METRIC, US = BenchUnits(PRESETS["Metric, kPa"]), BenchUnits(PRESETS["US"])


def number(text):
    """The first number of a shown text."""
    return float(text.replace("\u202f", "").replace("−", "-").replace("\u00a0", " ").split()[0])


@pytest.fixture
def bench(workshop, curlew):
    return workshop.judging.bench(curlew, "as-built", "later")


def shown_as(value):
    """A figure as read: three significant digits, none finer than a bench instrument's."""
    return pytest.approx(value, rel=5.1e-3, abs=0.51)


def presenter(workshop, bench, page="feed", units=METRIC):
    return VIEWS[page](bench, page, units, workshop.shelf)


def test_legs_are_told_in_both_systems(workshop, bench):
    found = legs(bench.verdict)
    metric, us = (presenter(workshop, bench, units=units).legs() for units in (METRIC, US))
    assert [row[0] for row in metric] == [row[0] for row in us] == [leg.name for leg in found]
    for leg, one, other in zip(found, metric, us, strict=True):
        assert number(one[1]) == shown_as(leg.flow_m3_s * 3.6e6)
        assert number(other[1]) == shown_as(leg.flow_m3_s * 3.6e6 / L_PER_GALLON)
        assert number(one[4]) == shown_as(leg.after_kpa)
        assert number(other[4]) == shown_as(leg.after_kpa / KPA_PER_PSI)
        assert (one[2] == "") == (leg.velocity_m_s is None)


def test_the_limit_is_said_in_a_sentence(workshop, bench):
    view = presenter(workshop, bench)
    sentence = view.limit_sentence()
    assert bench.verdict.first_out.title in sentence
    assert f"{bench.verdict.first_out.load * 100:.0f}" in sentence
    assert view.quantity(bench.verdict.power_limit.ceiling_kw, "power_kw") in sentence
    assert "past the limit" in sentence


def test_loads_are_listed_with_their_ceilings(workshop, bench):
    for load, shown in zip(bench.verdict.loads, presenter(workshop, bench).loads(), strict=True):
        assert shown.title == load.title
        assert number(shown.percent.replace("%", " ")) == pytest.approx(load.load * 100, abs=0.6)
        assert shown.status == load.status
        assert 0 <= shown.bar <= 100
        if load.ceiling_kw is not None:
            assert number(shown.ceiling) == pytest.approx(load.ceiling_kw, abs=0.6)


def test_stations_name_the_first_to_run_out_once(workshop, bench):
    stations = presenter(workshop, bench, "pump").stations()
    assert sum(station.limit for station in stations) == 1
    assert [station.key for station in stations if station.selected] == ["pump"]


def test_sizes_tell_only_what_changes(workshop, bench):
    view = presenter(workshop, bench)
    feed = view.sizes("options/as-built/feed/part")
    assert all("feed side" in one.effect and "lifted" not in one.effect for one in feed)
    lift = view.sizes("options/as-built/lift/part")
    assert all("lifted" in one.effect and "feed side" not in one.effect for one in lift)
    back = view.sizes("options/as-built/return_line/part")
    assert all("return at idle" in one.effect for one in back)


@pytest.mark.parametrize("units", [METRIC, US], ids=["metric", "US"])
def test_circuits_tell_current_voltage_and_what_a_relay_feed_brings(bench, units):
    found = circuits(bench.option, bench.judged.verdicts)
    for one, shown in zip(found, circuit_views(found, bench, units), strict=True):
        figures = dict(shown.figures)
        told = re.findall(r"([\d.]+)\xa0", shown.in_words)
        assert [float(each) for each in told] == [
            shown_as(each) for each in (one.current_a, one.supply_v, one.pump_v, one.drop_v)
        ]
        assert number(figures["Fuse at least"]) == shown_as(one.least_fuse_a)
        assert f"{one.relay_feed.fed_v:.1f}" in shown.relay
        assert shown.problems == one.problems


def test_circuits_tell_what_lies_behind_the_wire_and_what_a_fuse_for_the_pump_asks_of_it(bench):
    (group, *_) = bench.option.pumps
    path = f"options/{bench.option.id}/pumps/{group.id}/wiring"
    build = apply(bench.build, [(f"{path}/hat_pin_a", 12.0), (f"{path}/terminal_a", 60.0)])
    option = build.option(bench.option.id)
    found = circuits(option, tuple(judge_all(build, option)), build.rules)
    shown, others = circuit_views(found, bench, METRIC)[0], circuit_views(found, bench, METRIC)[1:]
    figures = dict(shown.figures)
    assert figures["Pins through the hat"] == "12\u00a0A"
    assert figures["Terminals carry"] == "60\u00a0A"
    assert dict(others[0].figures)["Terminals carry"] == "usually 30\u00a0A"
    assert shown.at_fault
    assert "Its pins through the hat must be renewed for that fuse first." in shown.advice
    assert all("must be renewed" not in one.advice for one in others)


def test_staging_tells_each_switch_and_each_silent_stage(bench):
    build, option, target = bench.build, bench.option, bench.verdict.target
    shown = staging_view(bench, METRIC)
    (switch,) = switches(build, option, target)
    rows = {row[0]: row[1] for row in shown.switches}
    assert shown.switch_groups == ["Group 2, Turbine pump, 200 L/h at 400 kPa"]
    assert number(rows["Joins at"]) == shown_as(switch.joins.manifold_kpa)
    assert number(rows["Step in rail pressure"]) == shown_as(switch.step_kpa)
    assert number(rows["Rail when the throttle shuts"]) == shown_as(switch.lift_off_rail_kpa)
    (silent,) = missing_stages(build, option, target)
    assert number(shown.missing[0][1]) == shown_as(silent.rail_kpa)
    assert number(shown.missing[0][3]) == pytest.approx(silent.safe_power_kw, abs=0.6)


def test_the_field_is_drawn_as_solved_in_every_layer(bench):
    field = operating_field(bench.build, bench.option, bench.verdict.target)
    drawn = json.loads(field_json(bench, METRIC))
    assert len(drawn["x"]["ticks"]) == field.rpm.size
    assert len(drawn["y"]["ticks"]) == field.manifold_kpa.size
    for key, label, _ in LAYERS:
        assert drawn["layers"][key]["label"] == label
        rows, solved = drawn["layers"][key]["rows"], getattr(field, key)
        assert rows[5][7] == pytest.approx(float(solved[5][7]), abs=1e-3)
        assert rows[-1][-1] == pytest.approx(float(solved[-1][-1]), abs=1e-3)
    us = json.loads(field_json(bench, US))["layers"]["return_kpa"]
    assert us["unit"] == "psi"
    assert us["rows"][5][7] == pytest.approx(float(field.return_kpa[5][7]) / KPA_PER_PSI, abs=2e-3)


def test_arrangements_are_told_idle_to_peak(bench):
    found, shown = every_arrangement(bench.build, bench.option, bench.verdict.target), references_view(bench, METRIC)
    assert [head[0] for head in shown.heads] == [one.name for one in found]
    rail = next(row for row in shown.rows if row[0].startswith("Rail"))
    assert rail[0] == "Rail, kPa"
    for one, cells in zip(found, rail[1], strict=True):
        idle, peak = (number(text) for text, _ in cells)
        assert (idle, peak) == shown_as(one.rail_kpa)


def test_fittings_are_summed_for_the_eye():
    assert line_view(line(8.7, 1.0, 2.5)).summary == "none listed, ΣK 2.5"
    shown = line_view(fitted_line(8.7, 1.0, ("swept elbow, 90°", 2), ("ball valve", 1)))
    assert shown.summary == "3 fitted, ΣK 2.2"
    assert [row.k for row in shown.rows] == ["0.78", "0.59"]


def test_the_parts_list_names_a_place_once(bench):
    for _, rows in parts_list_view(bench, METRIC):
        places = [row.place for row in rows]
        assert places[0]
        assert all(row.quantity for row in rows)


@pytest.mark.parametrize(
    ("smallest", "largest", "says"),
    [
        (810.0, 1040.0, "Injector sizes that carry every target and idle: from 810\u00a0cc/min, up to 1"),
        (1050.0, 1040.0, "No injector size does both: every target wants 1"),
        (810.0, None, "no size idles"),
        (None, 1040.0, "No injector size carries every target"),
    ],
)
def test_a_window_that_is_none_is_not_called_one(smallest, largest, says):
    found = SizeWindow(1000.0, (Window(300.0, True, None, smallest, largest),), ())

    def opens(_key: str, text: str, **_at: str) -> Markup:
        return Markup(text)

    said = str(window_sentence(found, BenchUnits(), opens)).replace(" cc/min", "\u00a0cc/min")
    assert says.replace("\u00a0", " ") in said.replace("\u00a0", " ")
