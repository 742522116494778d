"""Injectors as parts: the two-way table of dead times, electrical and body fit, idle pulses cold and hot."""

import numpy as np
import pytest
from hypothesis import given
from hypothesis import strategies as st
from pydantic import ValidationError
from scipy.interpolate import RegularGridInterpolator

from iron_gulp.core.judge import judge_all, judge_many
from iron_gulp.core.model import InjectorPart, apply, smallest_by_size
from iron_gulp.core.solve import IDLE, PEAK
from iron_gulp.core.study import idle_pulses
from tests.core.test_findings import codes, findings_of
from tests.draws import draws
from tests.garage import CARS, car
from tests.systems import demo

VOLTS = (8.0, 11.0, 13.5, 16.0)


def part(rows):
    """An injector with a table: pressure to its dead times over VOLTS."""
    (first, base), *more = rows.items()
    return InjectorPart(
        name="x",
        rated_flow_cc_min=600,
        dead_time_v=VOLTS,
        dead_time_ms=base,
        dead_time_at_kpa=first,
        dead_more_kpa=tuple(kpa for kpa, _ in more),
        dead_more_ms=tuple(one for _, row in more for one in row),
    )


TABLES = st.lists(
    st.tuples(st.sampled_from((150.0, 200.0, 300.0, 350.0, 450.0, 600.0)), st.tuples(*[st.floats(0.1, 4.0)] * 4)),
    min_size=2,
    max_size=5,
    unique_by=lambda row: row[0],
)


@given(TABLES, st.floats(7.0, 17.0), st.floats(0.0, 900.0))
@draws(60)
def test_the_table_is_read_as_an_independent_library_reads_it_in_any_order_of_its_rows(rows, volts, kpa):
    own = part(dict(rows))
    ordered = sorted(rows)
    grid = RegularGridInterpolator((VOLTS, [row[0] for row in ordered]), np.array([row[1] for row in ordered]).T)
    inside = (np.clip(volts, VOLTS[0], VOLTS[-1]), np.clip(kpa, ordered[0][0], ordered[-1][0]))
    assert float(own.dead_ms_at(volts, kpa)) == pytest.approx(float(np.ravel(grid(inside))[0]), rel=1e-9)
    assert own.dead_ms_at(np.array([volts, volts]), np.array([[kpa], [kpa]])).shape == (2, 2)


@given(TABLES, st.floats(9.0, 15.0))
@draws(12)
def test_the_solution_uses_the_table_at_its_own_pressure_and_voltage(rows, volts):
    build = demo("curlew")
    option = build.options[0]
    told = [(f"options/{option.id}/injectors/part", part(dict(rows)).model_dump(mode="json"))]
    told += [(f"targets/{one.id}/supply_v", volts) for one in build.targets]
    changed = apply(build, told)
    for verdict in judge_all(changed, changed.options[0]):
        for index in (PEAK, IDLE):
            across = float(verdict.points.hydraulics.meant_kpa[index])
            own = part(dict(rows)).dead_ms_at(volts, float(verdict.points.hydraulics.differential_kpa[index]))
            meant = part(dict(rows)).dead_ms_at(volts, across)
            found = float(verdict.points.dead_ms[index])
            assert min(abs(found - float(own)), abs(found - float(meant))) < 1e-6


def test_one_row_and_a_table_of_equal_rows_are_the_same_system_also_side_by_side():
    build = demo("curlew")
    option = build.options[0]
    fitted = option.injectors.part
    flat = apply(build, [(f"options/{option.id}/injectors/part/dead_time_ms_per_100_kpa", 0.0)])
    plain = flat.options[0].injectors.part
    more = {"dead_more_kpa": (400.0, 500.0), "dead_more_ms": plain.dead_time_ms * 2}
    table = apply(flat, [(f"options/{option.id}/injectors/part", plain.model_copy(update=more).model_dump(mode="json"))])
    assert fitted.dead_rows_at(13.0)[0].size == 0
    asked = [(one, one.options[0], one.targets[0]) for one in (flat, table)]
    together, alone = judge_many(asked), [judge_many([one])[0] for one in asked]
    for one in (*together, *alone):
        assert one.load("injectors").load == pytest.approx(alone[0].load("injectors").load, rel=1e-12)


def test_impossible_tables_are_refused_in_words():
    good = part({300.0: (2.0, 1.4, 1.0, 0.8), 400.0: (2.2, 1.6, 1.2, 1.0)}).model_dump()
    for change, says in (
        ({"dead_more_ms": (1.0, 2.0)}, "one dead time for each voltage"),
        ({"dead_more_kpa": (300.0,)}, "stands twice"),
        ({"dead_time_ms_per_100_kpa": 0.1}, "say it twice"),
    ):
        with pytest.raises(ValidationError, match=says):
            InjectorPart.model_validate(good | change)


def six(edits):
    told = [(f"options/o1/{path}", value) for path, value in edits.items()]
    return apply(car("Naturally aspirated six"), told)


@pytest.mark.parametrize(
    ("code", "edits", "speaks"),
    [
        ("injector-driver", {"injectors/part/impedance_ohm": 12.0, "calibration/driver": "saturated"}, False),
        ("injector-driver", {"injectors/part/impedance_ohm": 2.0, "calibration/driver": "peak and hold"}, False),
        (
            "injector-driver",
            {"injectors/part/impedance_ohm": 2, "calibration/driver": "saturated, with resistors"},
            False,
        ),
        ("injector-driver", {"injectors/part/impedance_ohm": 2.0}, True),
        ("injector-streams", {"injectors/part/streams": "two", "injectors/intake_valves": 2}, False),
        ("injector-streams", {"injectors/part/streams": "two", "injectors/intake_valves": 1}, True),
        ("injector-streams", {"injectors/part/streams": "one"}, False),
        ("injector-height", {"injectors/part/height_mm": 48.5, "injectors/room_mm": 48.0}, False),
        ("injector-height", {"injectors/part/height_mm": 34.0, "injectors/room_mm": 48.0}, True),
        ("spray-poor", {"injectors/part/spray_min_kpa": 250.0}, False),
        ("filter-coarse", {"injectors/part/filter_um": 30.0, "filter/part/grade_um": 30.0}, False),
        ("filter-coarse", {"injectors/part/filter_um": 5.0, "filter/part/grade_um": 10.0}, True),
    ],
)
def test_fit_is_judged_only_by_what_is_said(code, edits, speaks):
    assert (code in codes(six(edits))) == speaks


def test_a_note_of_an_unsaid_driver_is_a_stop_where_it_is_said():
    for told, severity in (("not said", "note"), ("saturated", "stop")):
        build = six({"injectors/part/impedance_ohm": 2.0, "calibration/driver": told})
        assert next(one.severity for one in findings_of(build) if one.code == "injector-driver") == severity


def test_raising_the_base_cures_a_poor_spray():
    build = six({"injectors/part/spray_min_kpa": 350.0})
    remedy = next(one for one in findings_of(build) if one.code == "spray-poor").remedies[0]
    assert "spray-poor" not in codes(apply(build, remedy.edits))


@pytest.mark.parametrize("name", [one for one in CARS if car(one).options[0].injectors is not None][:6])
def test_idle_pulses_are_longer_cold_and_shorter_hot_and_as_judged_as_entered(name):
    build = car(name)
    option = build.options[0]
    for one, verdict in zip(idle_pulses(build, option), judge_all(build, option), strict=False):
        assert one.hot_ms < one.cold_ms
        assert one.entered_ms == pytest.approx(float(verdict.points.effective_ms[IDLE]), rel=1e-9)
        mg_ms = float(verdict.points.open_kg_s[IDLE]) * 1e3
        assert one.least_mg == pytest.approx(option.injectors.part.smallest_pulse_ms * mg_ms)
        assert one.unsure_mg == pytest.approx(0.05 * float(verdict.points.dead_ms[IDLE]) * mg_ms)


def test_idle_air_goes_with_the_charge_temperature_by_the_gas_law():
    build = demo("curlew").model_copy(update={"engine": demo("curlew").engine.model_copy(update={"idle_air_g_s": None})})
    one = idle_pulses(build, build.options[0])[0]
    target = build.targets[0]
    fuel_c = target.fuel_temp_c
    hotter = apply(build, [(f"targets/{target.id}/charge_temp_c", target.charge_temp_c + 30.0)])
    only_air = float(judge_all(hotter, hotter.options[0])[0].points.effective_ms[IDLE])
    assert only_air / one.entered_ms == pytest.approx(
        (target.charge_temp_c + 273.15) / (target.charge_temp_c + 303.15), rel=2e-3
    )
    assert one.hot_ms > only_air  # hot fuel is thinner: the same mass takes longer
    assert fuel_c + 25.0 <= 90.0


@pytest.mark.parametrize(
    ("cc_min", "pulse_ms"),
    [(200, 0.30), (630, 0.30), (631, 0.35), (1250, 0.35), (1251, 0.42), (1700, 0.42), (1701, 0.45), (3000, 0.45)],
)
def test_the_smallest_pulse_goes_by_size(cc_min, pulse_ms):
    assert smallest_by_size(cc_min) == pulse_ms
