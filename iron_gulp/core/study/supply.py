"""What the pumps bring to the rail against its pressure, pump by pump, with what every target and idle ask for."""

from collections.abc import Iterator, Sequence

import numpy as np

from ..judge import TargetVerdict
from ..model import Option
from ..physics import Floats, floats, flow_and_current
from ..solve import IDLE, PEAK, FluidState, PumpState, supply_curve
from .sweeps import L_H, Series, Sweep, demand_l_h

_HIGHEST_KPA = 600.0  # shown where the pumps still move something there
_MOST_LAYERS = 6  # more are drawn a group at a time
_TITLE = "Supply at the rail, pump by pump, with wiring and lines as fitted"


def stacked_supply(verdicts: Sequence[TargetVerdict], chosen: TargetVerdict) -> Sweep:
    """Supply against rail pressure on one target: each pump's layer, the tables at full voltage, points of all targets.

    Layers are cumulative flows, the pumps that run first; the gap from their sum to the tables is what voltage, wear
    and lines cost. The points are each target's need at its own set pressure, on its own fuel.
    """
    option, target, fuel = chosen.option, chosen.target, chosen.fuel
    on = [bool(running) for running in chosen.points.hydraulics.running[:, PEAK]]
    state = PumpState(target.supply_v, target.rpm, manifold_kpa=target.boost_kpa)
    fluid = FluidState(fuel.density_kg_m3, fuel.viscosity_mpa_s, target.accel_g)
    points = list(_points(verdicts, chosen))
    usual = floats(np.linspace(0.0, _HIGHEST_KPA, 61))
    moving = float(usual[_tables(option, on, usual) > 0].max(initial=0.0))
    pressure = floats(np.linspace(0.0, max(*(float(one.x[0]) * 1.25 for one in points), moving), 61))
    layers: list[Series] = []
    for label, changed, running, at_work in _layers(option, on):
        curve = supply_curve(changed, running, state, fluid)
        flow = floats(np.interp(pressure, curve.rail_kpa, curve.flow_m3_s) * L_H)
        layers.append(Series(label, pressure, flow, "stack" if at_work else "off"))
    top = max((number for number, one in enumerate(layers) if one.kind == "stack"), default=None)
    if top is not None:
        layers[top] = Series(layers[top].label, pressure, layers[top].y, "main")
    tables = Series("Tables at full voltage", pressure, _tables(option, on, pressure), "other")
    return Sweep(_TITLE, "Rail pressure", "rail_kpa", "Flow", "flow_l_h", (*layers, tables, *points))


def _layers(option: Option, on: Sequence[bool]) -> Iterator[tuple[str, Option, tuple[bool, ...], bool]]:
    """Label, option with so many pumps, groups that run, and whether the last of them does on this target."""
    order = sorted(range(len(on)), key=lambda group: (not on[group], option.pumps[group].place != "in parallel"))
    by_group = sum(group.count for group in option.pumps) > _MOST_LAYERS
    taken: list[int] = []
    number = 0
    for group in order:
        fitted = option.pumps[group]
        taken.append(group)
        for count in (fitted.count,) if by_group else range(1, fitted.count + 1):
            pumps = list(option.pumps)
            pumps[group] = fitted.model_copy(update={"count": count})
            running = tuple(one in taken for one in range(len(on)))
            number += count if by_group else 1
            what = f"Group {group + 1}" if by_group else f"Pump {number}"
            says = what if number <= 1 or (by_group and len(taken) == 1) else f"with {what.lower()}"
            off = "" if on[group] else ", off here"
            yield says + off, option.model_copy(update={"pumps": tuple(pumps)}), running, on[group]


def _tables(option: Option, on: Sequence[bool], pressure_kpa: Floats) -> Floats:
    """The running pumps' tables added up at their highest voltage, L/h."""
    table = floats(np.zeros_like(pressure_kpa))
    for group, running in zip(option.pumps, on, strict=True):
        if running:
            rated = max(one.voltage_v for one in group.part.tables())
            table = floats(table + flow_and_current(group.part.tables(), pressure_kpa, rated)[0] * group.count)
    return table


def _points(verdicts: Sequence[TargetVerdict], chosen: TargetVerdict) -> Iterator[Series]:
    """What each target and this one's idle ask for, at the pressure the rail is set to there."""
    for verdict in verdicts:
        here = verdict.target.id == chosen.target.id
        set_kpa = floats([verdict.points.hydraulics.set_kpa[PEAK]])
        yield Series(verdict.target.name, set_kpa, floats([demand_l_h(verdict)]), "point" if here else "faint")
    hyd = chosen.points.hydraulics
    yield Series("Idle", floats([hyd.set_kpa[IDLE]]), floats([float(hyd.delivered_m3_s[IDLE]) * L_H]), "faint")
