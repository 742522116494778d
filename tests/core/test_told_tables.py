"""The controller's own tables: whose holds where, and which cells ask for more than the running stages bring."""

import numpy as np
import pytest

from iron_gulp.core.judge import judge
from iron_gulp.core.model import ControllerTable, apply
from iron_gulp.core.solve import demand
from iron_gulp.core.study import pump_duty, table_cells, table_for, told_at
from iron_gulp.core.study.staging import field_demand_kg_s
from tests.core.test_findings import codes, findings_of
from tests.garage import CARS, car
from tests.systems import demo


def mixture(id="m1", value=0.8, **told):
    base = {"what": "mixture", "rpm": (1000, 8000), "load_kpa": (-60, 250), "cells": (value,) * 4}
    return ControllerTable(**{"id": id, **base, **told})


def test_a_targets_own_table_stands_before_one_for_all_and_the_newest_before_the_older():
    build = demo("curlew")
    target = build.targets[1]
    all_old, all_new = mixture(day="2026-01-01"), mixture("m2", 0.82, day="2026-02-01")
    own = mixture("m3", 0.78, target=target.id, day="2025-01-01")
    for tables, value in (((all_old,), 0.8), ((all_new, all_old), 0.82), ((own, all_new), 0.78)):
        assert told_at(build.model_copy(update={"tables": tables}), target, "mixture") == pytest.approx(value)
    other = build.model_copy(update={"tables": (own,)})
    assert table_for(other, build.targets[0], "mixture") is None
    narrow = mixture(rpm=(1000, 3000))
    assert told_at(build.model_copy(update={"tables": (narrow,)}), target, "mixture") is None


@pytest.mark.parametrize(
    ("wrong", "words"),
    [
        ({"rpm": (1000, 1000)}, "engine speeds must rise"),
        ({"rpm": (8000, 1000)}, "engine speeds must rise"),
        ({"load_kpa": (50, 50)}, "manifold pressures must rise"),
        ({"cells": (0.8,) * 3}, "a cell for each engine speed"),
        ({"cells": (0.8, 0.8, 0.8, 9.0)}, "cells of mixture lie from"),
    ],
)
def test_a_table_with_an_axis_that_stands_still_is_refused(wrong, words):
    with pytest.raises(ValueError, match=words):
        mixture(**wrong)


def test_a_cell_asks_for_the_fuel_that_air_mixture_and_filling_make():
    build = demo("curlew")
    option, target = build.options[0], build.targets[1]
    build = apply(build, [(f"targets/{target.id}/school", "air")])
    target = build.target(target.id)
    at = {"rpm": (3000.0, target.rpm), "load_kpa": (0.0, target.boost_kpa)}
    filling = mixture("m2", what="volumetric efficiency", cells=(70.0, 80.0, 90.0, 100.0), **at)
    richer = mixture(cells=(0.95, 0.9, 0.85, 0.75), **at)
    found = table_cells(build.model_copy(update={"tables": (filling, richer)}), option, target, richer)
    # By hand: displacement half a turn, ideal gas, filling, over the ratio of the mixture told.
    ideal = build.engine.displacement_l / 1000 / 2 * target.rpm / 60 / (287.05 * (target.charge_temp_c + 273.15))
    air = ideal * (101.325 + target.boost_kpa) * 1000 * 1.00
    stoich = demand(build, target)
    kg_s = air / (0.75 * stoich.air_kg_s / stoich.air_school_kg_s / target.lambda_)
    assert found.demand_kg_s[1, 1] == pytest.approx(kg_s, rel=2e-4)
    plain = table_cells(build, option, target, richer)
    assert plain.demand_kg_s == pytest.approx(
        np.array(
            [
                [float(field_demand_kg_s(build, build.options[0], target, np.array(r), np.array(k))) for r in at["rpm"]]
                for k in at["load_kpa"]
            ]
        )
    )


def test_cells_are_short_exactly_where_pumps_bring_less_and_count_what_runs():
    build = demo("curlew")
    option, target = build.options[0], build.targets[2]
    table = mixture(rpm=(2000, 5000, 7000), load_kpa=(-40, 60, 200), cells=(0.85,) * 9)
    plenty = table_cells(build, option, target, table)
    assert not plenty.short[0].any()
    counts = [group.count for group in option.pumps]
    assert set(np.unique(plenty.running)) <= {counts[0], sum(counts)}
    second = option.pumps[1]
    off = apply(build, [(f"options/{option.id}/pumps/{second.id}/on_above_kpa", 500.0)])
    fewer = table_cells(off, off.options[0], target, table)
    assert (fewer.running == counts[0]).all()
    assert fewer.short.sum() > plenty.short.sum()
    assert fewer.short[-1, -1]
    one_line = table_cells(build, option, target, mixture(what="boost", load_kpa=(0.0,), cells=(150.0, 200.0)))
    assert one_line.demand_kg_s.shape == (1, 2)


@pytest.mark.parametrize(("off", "speaks"), [(0.0, False), (0.015, False), (-0.015, False), (0.03, True), (-0.03, True)])
def test_a_table_speaks_when_it_says_another_mixture_and_entering_it_brings_silence(off, speaks):
    build = car("Naturally aspirated six")
    target = build.targets[0]
    told = build.model_copy(update={"tables": (mixture(value=round(target.lambda_ + off, 4)),)})
    assert ("table-parts" in codes(told)) == speaks
    if speaks:
        remedy = next(one for one in findings_of(told) if one.code == "table-parts").remedies[0]
        assert "table-parts" not in codes(apply(told, remedy.edits))
    outside = mixture(value=0.6, rpm=(500, 700))
    assert "table-parts" not in codes(build.model_copy(update={"tables": (outside,)}))


def duty(*cells):
    return ControllerTable(id="p", what="pump duty", rpm=(500, 12_000), load_kpa=(0.0,), cells=cells)


@pytest.mark.parametrize("name", ["Naturally aspirated six", "Returnless on E30", "Mild triple"])
def test_a_pump_table_speaks_just_below_the_duty_that_carries(name):
    build = car(name)
    full = build.model_copy(update={"tables": (duty(100.0, 100.0),)})
    found = pump_duty(full, full.options[0], full.targets[0])
    assert found.load <= 1.0
    assert "pump-duty-short" not in codes(full)
    needed = found.needed_pct
    for told, speaks in ((needed, False), (needed - 5.0, True)):
        told = build.model_copy(update={"tables": (duty(told, told),)})
        assert ("pump-duty-short" in codes(told)) == speaks
    # The same by the mean voltage alone: the pumps on a battery that gives no more.
    volts = full.targets[0].supply_v
    for share, short in ((needed / 100, False), (needed / 100 - 0.05, True)):
        weak = full.targets[0].model_copy(update={"supply_v": max(volts * share, 4.0)})
        assert (judge(full, full.options[0], weak).load("pumps").load > 1.0) == short


def test_cells_of_a_pump_table_are_short_where_its_duty_is():
    build = car("Returnless on E30")
    option, target = build.options[0], build.targets[0]
    low = duty(20.0, 20.0).model_copy(update={"rpm": (target.rpm, 12_000.0)})
    full = low.model_copy(update={"cells": (100.0, 100.0)})
    assert table_cells(build, option, target, low).short[0, 0]
    assert not table_cells(build, option, target, full).short[0, 0]


def test_no_car_without_tables_is_told_of_them():
    for name in CARS:
        assert "table-parts" not in codes(car(name))
