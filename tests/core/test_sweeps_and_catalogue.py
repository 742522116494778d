"""Chart data agree with the solution they illustrate; the catalogue ranks parts as a buyer would."""

from itertools import pairwise

import numpy as np
import pytest

from iron_gulp.core.judge import judge, judge_all
from iron_gulp.core.model import (
    Catalogue,
    PumpCurve,
    PumpPart,
    apply,
    bsfc_kg_kwh,
    capacity_at_100_kpa,
    cold_start_rvp_kpa,
    driveline_loss,
    flow_at_400_kpa,
    rated_at_300_kpa,
)
from iron_gulp.core.study import stacked_supply, sweeps
from iron_gulp.shelf import load_shelf
from tests.systems import a_target, build, check_option, demo, pump

CATALOGUE = load_shelf().catalogue
L_H = 3.6e6


@pytest.fixture(scope="module")
def hill():
    curlew = demo("curlew")
    return curlew, judge(curlew, curlew.option(None), curlew.target("hill"))


def series(sweep, kind):
    return next(one for one in sweep.series if one.kind == kind)


def test_fuel_volume_passes_through_the_target(hill):
    sweep = sweeps.fuel_volume(*hill)
    main, point = series(sweep, "main"), series(sweep, "point")
    assert np.interp(point.x[0], main.x, main.y) == pytest.approx(point.y[0], rel=1e-4)
    assert np.all(np.diff(main.y) > 0)


def test_injector_flow_is_level_when_referenced_and_falls_when_not(hill):
    curlew, verdict = hill
    assert np.ptp(series(sweeps.injector_flow(curlew, verdict), "main").y) == pytest.approx(0.0, abs=1e-9)
    fixed = apply(curlew, [("options/as-built/regulator/reference", "atmosphere")])
    sweep = sweeps.injector_flow(fixed, judge(fixed, fixed.option(None), fixed.target("hill")))
    main = series(sweep, "main")
    assert np.all(np.diff(main.y) < 0)
    across = np.interp([0.0, 160.0], main.x, main.y)
    assert across[1] / across[0] == pytest.approx(np.sqrt((300 - 160) / 300), rel=1e-3)


@pytest.mark.parametrize("option_id", ["three-on", "staged", "two-rails"])
def test_supply_is_stacked_pump_by_pump_up_to_what_is_solved(option_id):
    saltern = demo("saltern")
    option = saltern.option(option_id)
    verdicts = judge_all(saltern, option)
    for verdict in verdicts:
        sweep = stacked_supply(verdicts, verdict)
        hyd = verdict.points.hydraulics
        main, table = series(sweep, "main"), series(sweep, "other")
        assert np.interp(hyd.set_kpa[0], main.x, main.y) == pytest.approx(hyd.supply_at_set_m3_s[0] * L_H, rel=5e-3)
        # The tables are taken at 13.5 V; good wiring may leave a little more than that.
        assert np.all(table.y * max(verdict.target.supply_v / 13.5, 1.0) >= main.y - 1e-9)
        layers = [one for one in sweep.series if one.kind in ("stack", "main", "off")]
        assert len(layers) == sum(group.count for group in option.pumps)
        assert all(np.all(above.y >= below.y - 1e-6) for below, above in pairwise(layers))
        running = sum(g.count for g, on in zip(option.pumps, hyd.running[:, 0], strict=True) if on)
        assert [one.kind for one in layers[:running]] == ["stack"] * (running - 1) + ["main"]
        assert all(one.kind == "off" for one in layers[running:])


def test_each_layer_of_supply_is_what_that_many_pumps_bring_by_themselves():
    saltern = demo("saltern")
    option = saltern.option("three-on")
    verdicts = judge_all(saltern, option)
    sweep = stacked_supply(verdicts, verdicts[0])
    first = option.pumps[0]
    alone = option.model_copy(update={"pumps": (first.model_copy(update={"count": 1}),)})
    found = judge(saltern, alone, saltern.targets[0]).points.hydraulics
    stack = series(sweep, "stack")
    assert first.count > 1
    assert np.interp(found.set_kpa[0], stack.x, stack.y) == pytest.approx(found.supply_at_set_m3_s[0] * L_H, rel=5e-3)


def test_points_of_supply_are_each_targets_need_and_idle():
    curlew = demo("curlew")
    verdicts = judge_all(curlew, curlew.option(None))
    sweep = stacked_supply(verdicts, verdicts[1])
    points = {one.label: one for one in sweep.series if one.kind in ("point", "faint")}
    assert [label for label, one in points.items() if one.kind == "point"] == [verdicts[1].target.name]
    assert list(points) == [*(one.target.name for one in verdicts), "Idle"]
    for verdict in verdicts:
        need = verdict.demand.chosen_kg_s / verdict.fuel.density_kg_m3 * 3.6e6
        assert points[verdict.target.name].y[0] == pytest.approx(need)
        assert points[verdict.target.name].x[0] == pytest.approx(300 + verdict.target.boost_kpa, abs=1)


def test_supply_of_carburettor_pumps_is_drawn_as_far_as_they_push():
    fieldfare = demo("fieldfare")
    verdicts = judge_all(fieldfare, fieldfare.option("deadhead"))
    assert series(stacked_supply(verdicts, verdicts[0]), "main").x[-1] < 120


def test_many_pumps_are_stacked_a_group_at_a_time():
    one = build(check_option(pumps=(pump(count=4), pump(id="g2", count=4, on_above_kpa=400))))
    verdicts = judge_all(one, one.options[0])
    layers = [each for each in stacked_supply(verdicts, verdicts[0]).series if each.kind in ("stack", "main", "off")]
    assert [each.label for each in layers] == ["Group 1", "with group 2, off here"]


@pytest.mark.parametrize("which", ["feed", "return_line"])
def test_line_sizes_order_by_bore(hill, which):
    sweep = sweeps.line_sizes(hill[1], CATALOGUE, which, 35.0)
    fitted, down, up = (next(s for s in sweep.series if s.label.startswith(w)) for w in ("Fitted", "Down", "Up"))
    assert down.y[-1] > fitted.y[-1] > up.y[-1]
    assert sweep.y_top > 35.0


def test_return_floor_holds_the_idle_point(hill):
    saltern = demo("saltern")
    verdict = judge(saltern, saltern.option("three-on"), saltern.target("record"))
    sweep = sweeps.return_floor(saltern, verdict)
    main, idle = series(sweep, "main"), series(sweep, "point")
    assert np.interp(idle.x[0], main.x, main.y) == pytest.approx(idle.y[0], rel=2e-3)


def test_idle_is_drawn_with_each_stage_on_the_return():
    """Each point lies where its pumps' flow meets the set pressure or the floor; more pumps, more to carry."""
    saltern = demo("saltern")
    verdict = judge(saltern, saltern.option("staged"), saltern.target("record"))
    sweep = sweeps.return_floor(saltern, verdict)
    main = series(sweep, "main")
    idles = [one for one in sweep.series if one.kind in ("point", "faint")]
    assert [one.label for one in idles] == ["Idle", "with group 2", "with group 3"]
    assert [one.x[0] for one in idles] == sorted(one.x[0] for one in idles)
    set_kpa = float(verdict.points.hydraulics.set_kpa[1])
    for one in idles:
        assert one.y[0] == pytest.approx(max(set_kpa, np.interp(one.x[0], main.x, main.y)), rel=0.02)
    levels = {one.label: one.y[0] for one in sweep.series if "Set pressure" in one.label}
    assert levels == {
        "Set pressure at idle": set_kpa,
        "Set pressure at the peak": float(verdict.points.hydraulics.set_kpa[0]),
    }


def test_a_carburettor_has_no_injector_sweep():
    fieldfare = demo("fieldfare")
    with pytest.raises(KeyError, match="carburettor"):
        sweeps.injector_flow(fieldfare, judge(fieldfare, fieldfare.option(None), fieldfare.target(None)))


def test_catalogue_ranks_by_size():
    shelf = load_shelf()
    above = [rated_at_300_kpa(part) for part in CATALOGUE.injectors_above(600)]
    below = [rated_at_300_kpa(part) for part in CATALOGUE.injectors_below(600)]
    assert above == sorted(above)
    assert below == sorted(below, reverse=True)
    assert min(above) > 600 > max(below)
    pump = shelf.part("pumps", "pump-250")
    bigger = [flow_at_400_kpa(part) for part in CATALOGUE.pumps_above(pump)]
    same = [flow_at_400_kpa(part) for part in CATALOGUE.pumps_above(pump) if part.kind == pump.kind]
    assert bigger[: len(same)] == same == sorted(same)
    assert bigger[len(same) :] == sorted(bigger[len(same) :])
    assert min(bigger) > flow_at_400_kpa(pump)
    regulator = shelf.part("regulators", "reg-250")
    wider = [capacity_at_100_kpa(part) for part in CATALOGUE.regulators_above(regulator)]
    assert min(wider) > capacity_at_100_kpa(regulator)
    hose = shelf.part("lines", "ptfe-4")
    assert CATALOGUE.line_next(hose, larger=False) is None
    assert CATALOGUE.line_next(hose, larger=True).shelf_id == "ptfe-6"


def test_an_injector_rated_elsewhere_is_brought_to_300_kpa():
    part = load_shelf().part("injectors", "inj-500").model_copy(update={"rated_pressure_kpa": 400.0})
    assert rated_at_300_kpa(part) == pytest.approx(500 * np.sqrt(300 / 400))


@pytest.mark.parametrize(("layout", "loss"), [("FWD", 0.14), ("RWD", 0.16), ("AWD", 0.21)])
def test_driveline_defaults(layout, loss):
    assert driveline_loss(build(car={"drivetrain": layout}).car) == loss
    assert driveline_loss(build(car={"drivetrain": layout, "loss_pct": 18}).car) == 0.18


def test_consumption_default_by_induction_and_override():
    one = build()
    assert bsfc_kg_kwh(a_target(), one.engine, False) == pytest.approx(0.60 * 0.60828, rel=1e-3)
    plain = one.engine.model_copy(update={"induction": "naturally aspirated"})
    assert bsfc_kg_kwh(a_target(), plain, False) == pytest.approx(0.50 * 0.60828, rel=1e-3)
    assert bsfc_kg_kwh(a_target(bsfc_kg_kwh=0.3), plain, False) == 0.3


@pytest.mark.parametrize(
    ("coldest", "least"), [(25, None), (20, None), (10, 38), (5, 48), (None, 48), (-4.9, 48), (-5, 66)]
)
def test_cold_start_asks_for_vapour_by_class(coldest, least):
    assert cold_start_rvp_kpa(build(car={"coldest_c": coldest})) == least


def test_shelf_parts_are_consistent():
    for part in CATALOGUE.pumps:
        for curve in part.curves:
            assert curve.flow_l_h[0] > 0
            assert all(b >= a for a, b in zip(curve.current_a, curve.current_a[1:], strict=False)), part.name
    for part in CATALOGUE.injectors:
        assert all(b < a for a, b in zip(part.dead_time_ms, part.dead_time_ms[1:], strict=False)), part.name
    for part in CATALOGUE.filters:
        assert part.rated_drop_kpa < 30


def test_a_part_fit_for_alcohol_stands_in_by_size_for_the_same_work():
    """The nearest in size by ratio, driven alike, of about the same pressure."""

    def made(name, flow, driven="turbine", fit=True, top_kpa=800.0):
        curve = PumpCurve(voltage_v=13.5, pressure_kpa=(0, top_kpa), flow_l_h=(flow, 0), current_a=(8, 14))
        return PumpPart(name=name, kind=driven, curves=(curve,), alcohol_ok=fit)

    own = made("own", 200, fit=False)
    others = (
        made("unfit", 200, fit=False),
        made("driven by the engine", 200, driven="mechanical"),
        made("weak", 200, top_kpa=500.0),
        made("strong", 200, top_kpa=2500.0),
        made("half", 100),
        made("third more", 265),
        made("twice", 400),
    )
    assert Catalogue(pumps=others).fit_for_alcohol(own).name == "third more"
    # A hundred is further from 200 by ratio than 265, and nearer than 420.
    assert Catalogue(pumps=(*others[:5], made("more than twice", 420))).fit_for_alcohol(own).name == "half"
    assert Catalogue(pumps=others[:4]).fit_for_alcohol(own) is None
    twice = made("of two and a half times the pressure", 210, top_kpa=2000.0)
    assert Catalogue(pumps=(*others, twice)).fit_for_alcohol(own) is twice
