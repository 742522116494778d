"""The values sheet says what the build says and what arithmetic gives; what changed since, and nothing else."""

from math import pi

import pytest

from iron_gulp.core.account import SheetRow, SheetSection, sheet_changes, values_sheet
from iron_gulp.core.judge import judge_all
from iron_gulp.core.model import Delivery, Engine, InjectorSet, apply
from iron_gulp.core.physics import blend
from iron_gulp.core.solve import PEAK
from tests.systems import build, check_option, demo, injectors, pump


def rows(built, option=None):
    option = option or built.options[0]
    return {row.name: row for section in values_sheet(built, option, judge_all(built, option)) for row in section.rows}


def test_the_full_cylinder_pulse_is_that_of_physics():
    """Half a litre a cylinder, 1000 cc/min at 300 kPa, gasoline at 15 °C: 3.43 ms (physics §3)."""
    option = check_option(injectors=InjectorSet(part=injectors(1000)))
    built = build(option, engine=Engine(displacement_l=2.0, cylinders=4))
    option = built.options[0]
    regulator = option.regulator.model_copy(update={"base_kpa": 300.0})
    built = built.model_copy(update={"options": (option.model_copy(update={"regulator": regulator}),)})
    found = rows(built)
    assert found["full_cylinder_pulse_ms"].value == pytest.approx(3.43, rel=0.005)
    assert found["static_at_base_cc_min"].value == pytest.approx(1000, rel=1e-6)
    assert found["e50_stoich_afr"].value == pytest.approx(float(blend(0.5, 15.0).stoich_afr))
    for target in built.targets:
        lam = found[f"{target.id}_lambda"].value
        assert found[f"{target.id}_gasoline_afr"].value == pytest.approx(lam * 14.7)


def test_a_change_says_what_is_tuned_again_and_nothing_else():
    built = demo("curlew")
    option = built.options[0]
    before = values_sheet(built, option, judge_all(built, option))
    assert sheet_changes(before, before) == ()
    part = option.injectors.part.model_copy(update={"rated_flow_cc_min": 2000.0})
    larger = option.model_copy(update={"injectors": option.injectors.model_copy(update={"part": part})})
    after = values_sheet(built, larger, judge_all(built, larger))
    changed = {one.row.name: one for one in sheet_changes(before, after)}
    assert changed["port_rated_cc_min"].after == 2000.0
    assert "idle" in changed["port_rated_cc_min"].row.retune
    assert not any(name.startswith(("e50_", "rail_")) for name in changed)
    gone = built.model_copy(update={"targets": built.targets[:1]})
    fewer = sheet_changes(before, values_sheet(gone, option, judge_all(gone, option)))
    assert {one.after for one in fewer if one.row.name.startswith(built.targets[1].id.replace("-", "_"))} == {None}


def sheet(**values):
    return (SheetSection("All", tuple(SheetRow(name, name, value) for name, value in values.items())),)


@pytest.mark.parametrize(
    ("old", "new", "another"),
    [
        (2.0, 2.0, False),
        (2.0, 2.0 * (1 + 5e-7), False),
        (2.0, 2.0 * (1 + 2e-6), True),
        (-3.0, 3.0, True),
        (0.0, 0.0, False),
        ("none", "none", False),
        ("none", "one", True),
        ("none", 0.0, True),
        (0.0, "none", True),
    ],
)
def test_a_value_is_another_where_it_reads_another(old, new, another):
    found = sheet_changes(sheet(here=old, same=1.0), sheet(here=new, same=1.0))
    assert [(one.row.name, one.before, one.after) for one in found] == ([("here", old, new)] if another else [])


def test_pumps_are_numbered_with_what_they_bring_and_when_they_join():
    later = pump(id="g2", on_above_kpa=40.0, on_above_rpm=3000.0)
    built = build(check_option(pumps=(pump(), later)))
    hyd = judge_all(built, built.options[0])[0].points.hydraulics
    found = rows(built)
    for number, group in enumerate(("Group 1", "Group 2"), start=1):
        flow, amps = found[f"pump_{number}_flow_l_h"], found[f"pump_{number}_a"]
        assert flow.label.startswith(group)
        assert flow.value == pytest.approx(float(hyd.group_flow_m3_s[number - 1, PEAK]) * 3.6e6)
        assert amps.value == pytest.approx(float(hyd.amps[number - 1, PEAK]))
    assert (found["pump_2_joins_kpa"].value, found["pump_2_joins_rpm"].value) == (40.0, 3000.0)
    assert not [name for name in found if name.startswith("pump_1_joins") or name.endswith("joins_lambda")]
    assert "pump_least_speed_pct" not in found
    slow = apply(built, [("options/o1/regulator/arrangement", "returnless, speed-controlled")])
    assert rows(slow)["pump_least_speed_pct"].value == slow.options[0].regulator.slowest_pct


def test_the_direct_side_by_its_swept_volume_and_its_hand_over():
    built = demo("dunlin")
    option = next(one for one in built.options if one.high_side is not None and one.injectors is not None)
    found, high = rows(built, option), option.high_side
    for number, fitted in enumerate(high.pumps, start=1):
        part = fitted.part
        swept = pi / 4 * part.plunger_mm**2 * part.stroke_mm * part.strokes_a_turn * fitted.turns
        assert found[f"high_pump_{number}_mm3"].value == pytest.approx(swept)
        assert found[f"high_pump_{number}_mm3"].label.startswith(f"Pump {number},")
    assert f"{high.injectors.part.rated_pressure_kpa / 1e3:g} MPa" in found["direct_rated_cc_min"].label
    told = {
        "share": {"direct_share_pct"},
        "ceiling": {"direct_up_to_pct"},
        "threshold": {"port_joins_from_kpa", "port_fades_over_kpa", "port_share_pct"},
    }
    every = set().union(*told.values())
    for mode, names in told.items():
        other = option.model_copy(update={"delivery": Delivery(mode=mode, signal="manifold_kpa")})
        assert every & rows(built, other).keys() == names


def test_an_ethanol_sensor_is_read_where_blends_differ():
    built = demo("curlew")
    found = rows(built)
    assert [found[f"ethanol_{pct}_hz"].value for pct in (0, 50, 100)] == pytest.approx([50.0, 100.0, 150.0])
    alike = built.model_copy(update={"targets": built.targets[:1]})
    assert not [name for name in rows(alike) if name.startswith("ethanol_")]
