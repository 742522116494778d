"""A second set of injectors: both carry what is asked, the first alone up to its hand-over; by hand."""

import numpy as np
import pytest
from hypothesis import given
from hypothesis import strategies as st

from iron_gulp.core.account import parts_list, values_sheet
from iron_gulp.core.advise import find
from iron_gulp.core.judge import judge, judge_all, judge_many
from iron_gulp.core.model import SecondSet, apply
from iron_gulp.core.physics import injectors as inj
from iron_gulp.core.physics import open_flow_kg_s
from iron_gulp.core.solve import IDLE, PEAK, solve_points
from iron_gulp.core.study import chances, envelope
from iron_gulp.shelf import load_shelf
from tests.draws import draws
from tests.systems import demo, injectors


def twin(name="curlew", joins=60.0, cc_min=800.0, **more):
    """A demo car with a second set on its first option."""
    build = demo(name)
    option = build.options[0]
    second = SecondSet(part=injectors(cc_min), joins_pct=joins, **more)
    fitted = option.injectors.model_copy(update={"second": second})
    option = option.model_copy(update={"injectors": fitted})
    return build.model_copy(update={"options": (option,)}), option


whole = st.floats(0.001, 0.2)


@draws(80)
@given(whole, st.floats(0.005, 0.2), st.floats(0.005, 0.2), st.floats(2000, 8000), st.floats(0.2, 0.9))
def test_what_the_second_set_carries(fuel, first, second, rpm, joins):
    dead, least, limit = 0.9, 0.45, 0.85
    cycle = 120_000 / rpm
    got = float(inj.second_set_kg_s(fuel, first, second, dead, dead, least, rpm, joins, limit))
    held = first * max(joins - dead / cycle, 0.0)
    most = second * max(limit - dead / cycle, 0.0)
    assert 0.0 <= got <= min(fuel, most) + 1e-12
    if fuel <= held:
        assert got == 0.0
    else:
        assert got >= min(second * least / cycle, most, fuel) - 1e-12
        if got > second * least / cycle * (1 + 1e-9) and got < min(most, fuel) * (1 - 1e-9):
            assert fuel - got == pytest.approx(held)


def test_both_sets_of_a_car_by_hand():
    build, option = twin()
    for target in build.targets:
        verdict = judge(build, option, target)
        points, part = verdict.points, option.injectors.part
        second, count = points.second, build.engine.cylinders
        rho, across = verdict.fuel.density_kg_m3, float(points.hydraulics.differential_kpa[PEAK])
        cycle = 120_000 / target.rpm
        one = float(open_flow_kg_s(part.rated_flow_cc_min, part.rated_pressure_kpa, across, rho))
        other = float(open_flow_kg_s(800, 300, across, rho))
        fuel, dead = verdict.demand.chosen_kg_s, float(points.dead_ms[PEAK])
        held = count * one * (0.60 - dead / cycle)
        carried = float(second.metered_kg_s[PEAK])
        if fuel <= held:
            assert carried == 0.0
            assert float(second.duty[PEAK]) == 0.0
        else:
            assert carried == pytest.approx(fuel - held, rel=1e-6)
            assert float(points.duty[PEAK]) == pytest.approx(0.60, rel=1e-6)
            pulse = carried / count / other * cycle
            own_dead = float(second.dead_ms[PEAK])
            assert float(second.duty[PEAK]) == pytest.approx((pulse + own_dead) / cycle, rel=1e-6)
        meant = (float(points.hydraulics.meant_kpa[PEAK]) / across) ** 0.5
        passes = count * meant * (one * (0.85 - dead / cycle) + other * (0.85 - float(second.dead_ms[PEAK]) / cycle))
        assert verdict.load("injectors").load == pytest.approx(fuel / passes, rel=1e-3)


def test_with_a_second_set_the_top_is_carried_and_idle_is_the_first_sets_alone():
    build = demo("curlew")
    alone = [judge(build, build.options[0], target) for target in build.targets]
    twins, option = twin()
    both = [judge(twins, option, target) for target in twins.targets]
    assert max(one.load("injectors").load for one in alone) > 1
    assert max(one.load("injectors").load for one in both) < 1
    for one, other in zip(alone, both, strict=True):
        assert other.load("injector idle").load == pytest.approx(one.load("injector idle").load)
        assert float(other.points.second.metered_kg_s[IDLE]) == 0.0
        assert float(other.points.first_kg_s[IDLE]) == pytest.approx(float(other.points.metered_kg_s[IDLE]))


def test_over_the_field_fuel_adds_up_and_the_first_set_never_steps_down_but_at_the_hand_over():
    build, option = twin()
    target = build.targets[-1]
    demand = np.linspace(0.002, 0.06, 200)
    points = solve_points(build, option, target, target.rpm, target.boost_kpa, demand)
    assert points.first_kg_s + points.second.metered_kg_s == pytest.approx(points.metered_kg_s)
    assert (points.first_kg_s >= 0).all()
    joined = points.second.metered_kg_s > 0
    first = int(joined.argmax())
    assert 0 < first < demand.size - 1
    assert joined[first:].all()
    assert (np.diff(points.first_kg_s)[np.arange(demand.size - 1) != first - 1] >= -1e-5).all()  # held, but for creep


def test_the_step_at_hand_over_is_what_dead_time_is_worth():
    build, option = twin(cc_min=1600.0, joins=40.0)
    verdict = judge(build, option, build.targets[-1])
    second, cycle = verdict.points.second, 120_000 / verdict.target.rpm
    part = option.injectors.second.part
    count = build.engine.cylinders
    across, rho = float(verdict.points.hydraulics.differential_kpa[PEAK]), verdict.fuel.density_kg_m3
    least = count * float(open_flow_kg_s(1600, 300, across, rho)) * part.smallest_pulse_ms / cycle
    one = float(open_flow_kg_s(option.injectors.part.rated_flow_cc_min, 300, across, rho))
    held = count * one * (0.40 - float(verdict.points.dead_ms[PEAK]) / cycle)
    dead = float(second.dead_ms[PEAK])
    assert float(second.step[PEAK]) == pytest.approx(least / max(held, least) * dead * 0.05 / part.smallest_pulse_ms)


def test_chances_ceilings_sheet_and_list_know_the_second_set():
    build, option = twin()
    without = demo("curlew")
    found = envelope(build, option, build.targets[0], at=np.array([10.0, 70.0]))
    (verdict,) = judge_many([(build, option, build.targets[0].model_copy(update={"ethanol_pct": 70.0}))])
    assert found.curves["injectors"][1] == pytest.approx(verdict.load("injectors").ceiling_kw, rel=1e-6)
    bare = envelope(without, without.options[0], without.targets[0], at=np.array([10.0, 70.0]))
    assert (found.curves["injectors"] > 1.5 * bare.curves["injectors"]).all()
    assert chances(build, option, 60, 1).targets[0].loads["injectors"].std() > 0
    rows = {row.name for one in values_sheet(build, option, judge_all(build, option)) for row in one.rows}
    assert {"second_rated_cc_min", "second_joins_pct", "second_step_pct"} <= rows
    names = [item.part for item in parts_list(build, option, judge_all(build, option))]
    assert names.count(option.injectors.second.part.name) == 1


def test_sets_of_port_injectors_are_counted():
    assert twin()[1].port_sets == 2
    assert demo("curlew").options[0].port_sets == 1
    assert demo("fieldfare").options[0].port_sets == 0


@pytest.mark.parametrize(
    ("count", "sprays", "told"),
    [(4, "into a shared plenum", True), (5, "into a shared plenum", False), (None, "into a shared plenum", False)],
)
def test_fewer_injectors_than_cylinders_in_a_plenum_are_told(count, sprays, told):
    one = demo("curlew")
    path = f"options/{one.options[0].id}/injectors"
    one = apply(one, [(f"{path}/count", count), (f"{path}/sprays", sprays)])
    found = {
        finding.code for finding in find(one, one.options[0], judge_all(one, one.options[0]), load_shelf().catalogue)
    }
    assert one.engine.cylinders == 5
    assert ("mixture-spread" in found) is told
