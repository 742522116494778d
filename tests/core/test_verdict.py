"""Verdicts, opened figures, reports and edits."""

import numpy as np
import pytest
from hypothesis import given
from hypothesis import strategies as st

from iron_gulp.core.account import FIGURES, Context, explain, report, solve_report, value
from iron_gulp.core.judge import judge, judge_all, overrun_bypass_m3_s, worst
from iron_gulp.core.judge.ceilings import _Span
from iron_gulp.core.model import EditError, Engine, MeasuredRun, apply, value_at
from iron_gulp.core.physics import floats
from iron_gulp.shelf import load_shelf
from tests.core.test_findings import findings_of
from tests.draws import draws
from tests.systems import a_target, build, check_option, demo, line

SHELF = load_shelf()


def test_curlew_runs_out_of_injector_first():
    curlew = demo("curlew")
    verdict = judge(curlew, curlew.option(None), curlew.target("hill"))
    assert verdict.first_out.component == "injectors"
    assert verdict.first_out.status == "over"
    assert 1.1 < verdict.first_out.load < 1.2
    assert worst(judge_all(curlew, curlew.option(None))).target.id == "later"


@pytest.mark.parametrize("component", ["injectors", "pumps"])
def test_a_ceiling_is_where_its_component_runs_out(component):
    curlew = demo("curlew")
    ceiling = judge(curlew, curlew.option(None), curlew.target("hill")).load(component).ceiling_kw
    at_ceiling = apply(curlew, [("targets/hill/power_kw", ceiling)])
    load = judge(at_ceiling, at_ceiling.option(None), at_ceiling.target("hill")).load(component).load
    # The dead time moves a little with the rail that creeps or sinks, so not exactly 1.
    assert load == pytest.approx(1.0, abs=0.01)


def test_idle_limits_have_no_power_ceiling():
    verdict = judge(build(), check_option(), a_target())
    assert {load.component for load in verdict.loads if load.ceiling_kw is None} == {
        "wiring",
        "fuse",
        "wire drop",
        "suction",
        "feed",
        "injector idle",
        "regulator",
        "return",
    }


def test_overrun_limit_is_where_the_rail_leaves_the_set_pressure():
    option = check_option(1)
    limit = overrun_bypass_m3_s(option, 240.0, 780.0, 1.0)[0]
    assert limit * 3.6e6 == pytest.approx(448.6 * (240 / 280.6) ** 0.54, rel=0.02)
    assert overrun_bypass_m3_s(option, -5.0, 780.0, 1.0)[0] == 0.0


def contexts():
    for name in ("curlew", "saltern"):
        one = demo(name)
        if name == "curlew":
            run = MeasuredRun(power_kw=210, rpm=6200, injector_cc_min=550, differential_kpa=300, duty_pct=88)
            one = one.model_copy(update={"measured": run})
        # The last option of each holds most; the golden figures open every figure of all.
        for verdict in judge_all(one, one.options[-1]) + judge_all(one, one.options[0])[:1]:
            yield Context(one, verdict)


def test_the_logged_run_opened_counts_dead_time_once_for_each_squirt():
    """The figure opened says by its own inputs what the demand by that school says: two squirts lose twice the time."""
    run = MeasuredRun(
        power_kw=210, rpm=6200, injector_cc_min=550, differential_kpa=300, duty_pct=88, squirts=2, dead_time_ms=0.8
    )
    one = demo("curlew").model_copy(update={"measured": run})
    for verdict in judge_all(one, one.options[0]):
        opened = explain("demand.measured_kg_h", Context(one, verdict))
        (dead,) = [row.value for row in opened.inputs if row.symbol == "t_d"]
        assert dead == pytest.approx(1.6)
        assert opened.value == pytest.approx(float(verdict.demand.measured_kg_s) * 3600, rel=1e-9)
        share = 0.88 - 1.6 / (120_000 / 6200)
        others = {row.symbol: row.value for row in opened.inputs}
        scale = others["N"] * others["P"] / others["P_log"] * others["LHV_log"] / others["LHV"]
        assert opened.value == pytest.approx(others["q"] * share * scale, rel=1e-9)


def test_every_figure_explains_the_number_shown():
    seen = 0
    for context in contexts():
        for key in FIGURES:
            if key == "demand.measured_kg_h" and context.build.measured is None:
                continue
            if key.startswith("lift.") and context.verdict.option.lift is None:
                continue
            if key.startswith("high.") and context.verdict.points.direct is None:
                continue
            opened = explain(key, context)
            assert opened.value == pytest.approx(value(key, context))
            assert opened.formula
            assert opened.source
            assert opened.inputs
            seen += 1
    assert seen > 200


REPORTED = {
    "pump.rail_kpa": ("peak", "rail_kpa"),
    "pump.supply_at_set_l_h": ("peak", "supply_at_set_l_h"),
    "pump.bypass_l_h": ("peak", "bypass_l_h"),
    "feed.drop_kpa": ("peak", "feed_drop_kpa"),
    "injector.duty_pct": ("peak", "injector_duty_pct"),
    "injector.pulse_ms": ("peak", "injector_pulse_ms"),
    "injector.open_g_s": ("peak", "injector_open_g_s"),
    "injector.differential_kpa": ("peak", "differential_kpa"),
    "injector.idle_pulse_ms": ("idle", "injector_effective_ms"),
    "regulator.idle_rail_kpa": ("idle", "rail_kpa"),
    "regulator.idle_floor_kpa": ("idle", "floor_kpa"),
    "regulator.set_kpa": ("peak", "set_kpa"),
}


@pytest.mark.parametrize("key", REPORTED)
def test_figures_are_the_solutions_numbers(key):
    part, name = REPORTED[key]
    for context in contexts():
        assert value(key, context) == pytest.approx(report(context.build, context.verdict)[part][name], rel=1e-9)


def test_figures_of_demand_and_wiring_agree_with_the_solution():
    for context in contexts():
        demand, hyd = context.verdict.demand, context.verdict.points.hydraulics
        assert value("demand.consumption_kg_h", context) == pytest.approx(demand.consumption_kg_s * 3600)
        assert value("demand.air_school_kg_h", context) == pytest.approx(demand.air_school_kg_s * 3600)
        assert value("demand.idle_kg_h", context) == pytest.approx(demand.idle_kg_s * 3600)
        assert value("demand.crank_kw", context) == pytest.approx(demand.crank_kw)
        assert value("pump.volts_v", context) == pytest.approx(float(hyd.volts[0, 0]), rel=1e-4)
        assert value("pump.current_a", context) == pytest.approx(float(hyd.amps[0, 0]), rel=1e-3)


def test_sensitivity_of_power_is_ten_per_cent():
    context = next(iter(contexts()))
    (power, *_rest) = explain("demand.crank_kw", context).inputs
    crank = value("demand.crank_kw", context)
    assert (power.low, power.high) == pytest.approx((0.9 * crank, 1.1 * crank))


# Edits


def test_edit_makes_a_new_build_and_leaves_the_old():
    before = build()
    after = apply(before, [("targets/t1/boost_kpa", 150), ("options/o1/pumps/g1/part/curves/0/flow_l_h/5", 310.0)])
    assert (before.targets[0].boost_kpa, after.targets[0].boost_kpa) == (100, 150)
    assert after.options[0].pumps[0].part.curves[0].flow_l_h[5] == 310.0
    assert value_at(after, "targets/t1/boost_kpa") == 150


@pytest.mark.parametrize(
    ("path", "new", "words"),
    [
        ("targets/t1/boost_kpa", 9999, "at most 600"),
        ("targets/t9/boost_kpa", 1, "no such field"),
        ("targets/t1", {}, "is missing"),
        ("engine/max_rpm", 850.0, "idle speed"),
        ("targets/t1/rpm", 9000.0, "above the engine"),
        ("targets/t1/base_fuel", "kerosene", "unknown base fuel"),
        ("options/o1/pumps/g1/part/curves/0/flow_l_h/5", 600.0, "must not rise"),
        ("options/o1/pumps/g1/on_above_kpa", 20.0, "always run"),
        ("targets/t1/school", "measured", "measured run"),
    ],
)
def test_impossible_edits_say_why(path, new, words):
    with pytest.raises(EditError, match=words):
        apply(build(), [(path, new)])


# Edges: sensible answers everywhere the model allows


@draws(60)
@given(
    ethanol=st.sampled_from([0.0, 10.0, 100.0]),
    boost=st.sampled_from([-95.0, -20.0, 0.0, 100.0, 600.0]),
    rpm=st.sampled_from([300.0, 6500.0, 20000.0]),
    cylinders=st.sampled_from([1, 5, 12, 24]),
    length=st.sampled_from([0.0, 4.0, 100.0]),
    bore=st.sampled_from([0.5, 8.7, 60.0]),
    volts=st.sampled_from([5.0, 13.5, 32.0]),
    reference=st.sampled_from(["atmosphere", "manifold", "rising rate"]),
)
def test_every_allowed_build_gets_an_answer(ethanol, boost, rpm, cylinders, length, bore, volts, reference):
    regulator = check_option().regulator.model_copy(update={"reference": reference, "rising_ratio": 8.0})
    option = check_option(feed=line(bore, length, 4), return_line=line(bore, length, 4), regulator=regulator)
    one = build(
        option,
        a_target(ethanol_pct=ethanol, boost_kpa=boost, rpm=rpm, supply_v=volts),
        engine=Engine(displacement_l=2.5, cylinders=cylinders, max_rpm=20000),
    )
    told = solve_report(one, None, None)
    assert told["peak"]["state"] in {"regulating", "overrun", "starved", "no differential"}
    assert np.isfinite(told["peak"]["rail_kpa"])
    assert all(load["load"] is None or load["load"] >= 0 for load in told["loads"])
    assert all(finding.title for finding in findings_of(one))


@pytest.mark.parametrize(
    "edits",
    [
        [("targets/t1/boost_kpa", -90.0), ("car/barometer_kpa", 79.5)],
        [("engine/idle_manifold_kpa", -80.0), ("car/barometer_kpa", 79.5)],
    ],
)
def test_a_manifold_below_nothing_is_refused(edits):
    with pytest.raises(EditError, match="less than nothing"):
        apply(build(), edits)


def test_a_ceiling_just_below_the_least_power_looked_at_is_looked_for_below_it():
    """Too much by a hundredth at 2 % of the power: it ends there, not above; too much by half it carries nothing."""
    grid = floats(np.array([[0.02], [0.1], [1.0]]))
    for least, known in ((1.01, True), (1.5, False)):
        span = _Span.of(grid, floats(np.array([[least], [5.0], [50.0]])))
        ends = np.exp([span.low[0], span.high[0]])
        assert ends == pytest.approx([0.02e-3, 0.02])
        assert bool(span.known[0]) is known
        assert (span.crossing()[0] == 0.0) is np.bool_(not known)
        assert ends[0] <= span.crossing(within=True)[0] <= ends[1]
