"""Every leg of a solved operating point in flow order: flow, velocity, drop, and the pressure behind it."""

from dataclasses import dataclass
from typing import Literal

import numpy as np

from ..judge import TargetVerdict
from ..model import Line, Option, in_branch, remembered, restrictions
from ..physics import Floats, floats, velocity_m_s
from ..solve import (
    PEAK,
    FluidState,
    branch_loss_kpa,
    filter_loss_kpa,
    line_loss_kpa,
    passage_loss_kpa,
    pickup_loss_kpa,
    rail_drop_kpa,
    rails_joined,
    split_flows_m3_s,
    through_feed_m3_s,
)


@dataclass(frozen=True)
class Leg:
    """One leg. `velocity_m_s` is None where there is no one bore; `after_kpa` is the gauge pressure behind it."""

    name: str
    flow_m3_s: float
    velocity_m_s: float | None
    drop_kpa: float
    after_kpa: float


@dataclass
class _Walk:
    """A walk along the flow: the pressure reached and the legs behind."""

    pressure_kpa: float
    fluid: FluidState
    found: list[Leg]

    def step(self, name: str, flow: float, bore_mm: float | None, drop: Floats | float) -> None:
        lost = float(np.asarray(drop).reshape(-1)[0])
        self.pressure_kpa -= lost
        self.note(name, flow, bore_mm, lost)

    def note(self, name: str, flow: float, bore_mm: float | None, lost: float) -> None:
        """A leg beside the way: it does not move the pressure reached."""
        speed = None if bore_mm is None else float(velocity_m_s(flow, bore_mm))
        self.found.append(Leg(name, flow, speed, lost, self.pressure_kpa))

    def line(self, name: str, line: Line, flow: float) -> None:
        drop = line_loss_kpa(line, floats([flow]), self.fluid.density_kg_m3, self.fluid.viscosity_mpa_s)
        self.step(name, flow, line.part.bore_mm, drop)

    def restrictions(self, which: Literal["feed", "return"], option: Option, flow: float) -> None:
        for one in restrictions(option, which):
            drop = passage_loss_kpa(one.element, floats([flow]), self.fluid.density_kg_m3, self.fluid.viscosity_mpa_s)
            self.step(one.title, flow, one.element.bore_mm, drop)


def legs(verdict: TargetVerdict, index: int = PEAK) -> list[Leg]:
    """The legs at the peak (or idle) point: lift stage, suction to rails, return."""
    return list(remembered(verdict, f"legs {index}", lambda one: tuple(_legs(one, index))))


def _legs(verdict: TargetVerdict, index: int) -> list[Leg]:
    option, hyd, fuel = verdict.option, verdict.points.hydraulics, verdict.fuel
    fluid = FluidState(fuel.density_kg_m3, fuel.viscosity_mpa_s)
    supply, bypass = float(hyd.supply_m3_s[index]), float(hyd.bypass_m3_s[index])
    through = float(through_feed_m3_s(option, hyd)[index])
    found = _lift_legs(verdict, fluid)
    walk = _Walk(0.0, fluid, found)
    suction, drawn = option.suction, floats([supply])
    # The suction side is walked back from the inlet pressure of the solution, so that level and tank are in it.
    before = [] if option.lift is not None or option.pickup is None else ["pickup"]
    lost = {
        "pickup": float(pickup_loss_kpa(option.pickup, drawn, fluid)[0]) if before else 0.0,
        "line": 0.0
        if suction.line is None
        else float(line_loss_kpa(suction.line, drawn, fluid.density_kg_m3, fluid.viscosity_mpa_s)[0]),
        "filter": float(filter_loss_kpa(suction.filter, drawn)[0]),
    }
    walk.pressure_kpa = float(hyd.inlet_kpa[index]) + sum(lost.values())
    if before and option.pickup is not None:
        walk.step("Pickup", supply, option.pickup.bore_mm, lost["pickup"])
    if suction.line is not None:
        walk.step("Suction line", supply, suction.line.part.bore_mm, lost["line"])
    if suction.filter is not None:
        walk.step("Pre-filter", supply, None, lost["filter"])
    walk.step("Pumps", supply, None, -float(hyd.pump_rise_kpa[index]))
    if option.filter is not None:
        walk.step("Filter", supply, None, float(hyd.filter_kpa[index]))
    walk.restrictions("feed", option, through)
    walk.step("Feed", through, option.feed.part.bore_mm, float(hyd.feed_kpa[index]))
    if option.regulator.arrangement == "carburettor, deadhead":
        # It stands in the feed and lets through; nothing returns.
        walk.step("Regulator", through, None, walk.pressure_kpa - float(hyd.rail_kpa[index]))
    _rail_legs(walk, verdict, index, through)
    if bypass > 0:
        _return_legs(walk, verdict, index, bypass)
    return found


def _lift_legs(verdict: TargetVerdict, fluid: FluidState) -> list[Leg]:
    option = verdict.option
    if option.lift is None:
        return []
    solved = verdict.lift
    assert solved is not None
    walk = _Walk(option.tank.pressure_kpa, fluid, [])
    if option.pickup is not None:
        drop = pickup_loss_kpa(option.pickup, floats([solved.flow_m3_s]), fluid)
        walk.step("Pickup", solved.flow_m3_s, option.pickup.bore_mm, drop)
    walk.step("Lift pump", solved.flow_m3_s, None, -solved.rise_kpa)
    walk.line("Lift line", option.lift.line, solved.flow_m3_s)
    return walk.found


def _rail_legs(walk: _Walk, verdict: TargetVerdict, index: int, through: float) -> None:
    option, hyd, joined = verdict.option, verdict.points.hydraulics, rails_joined(verdict.option)
    if option.split is not None:
        standing = in_branch(option)
        flows = split_flows_m3_s(option.split, floats([through]), walk.fluid, joined, standing)[:, 0]
        walk.pressure_kpa -= float(hyd.split_kpa[index])
        for number, (branch, flow) in enumerate(zip(option.split.branches, flows, strict=True), start=1):
            lost = float(branch_loss_kpa(option.split, branch, floats([flow]), walk.fluid, standing)[0])
            walk.note(f"Branch {number}", float(flow), branch.line.part.bore_mm, lost)
    if verdict.points.direct is not None:
        _high_legs(walk, verdict, index)
        through -= sum(float(one) for one in _direct_take(verdict, index))
    if option.injectors is not None and option.mode != "direct only":
        leaving = float(hyd.bypass_m3_s[index]) if joined else 0.0
        rail = option.rail
        drop = rail_drop_kpa(rail, through, walk.fluid.density_kg_m3, walk.fluid.viscosity_mpa_s, leaving)
        name = "Along the rail" if rail.count == 1 else "Along each rail"
        walk.note(name, through / rail.count, rail.bore_mm, float(drop))


def _direct_take(verdict: TargetVerdict, index: int) -> list[float]:
    """What each high-pressure pump takes from the node, m³/s of the low side's fuel."""
    direct = verdict.points.direct
    assert direct is not None
    return [float(pump.delivered_kg_s[index]) / verdict.fuel.density_kg_m3 for pump in direct.pumps]


def _high_legs(walk: _Walk, verdict: TargetVerdict, index: int) -> None:
    """The lines from the node to the high-pressure pumps: a branch each, or one and then links from pump to pump."""
    direct, high = verdict.points.direct, verdict.option.high_side
    assert direct is not None
    assert high is not None
    before = walk.pressure_kpa
    for number, pump in enumerate(direct.pumps):
        series = high.feed == "series" and number > 0
        name = f"Link {number}-{number + 1}" if series else f"High-pressure feed {number + 1}"
        flow, after = float(pump.branch_m3_s[index]), float(pump.inlet_kpa[index])
        start = float(direct.pumps[number - 1].inlet_kpa[index]) if series else before
        bore = high.branches[number].part.bore_mm if high.branches else None
        speed = None if bore is None else float(velocity_m_s(flow, bore))
        walk.found.append(Leg(name, flow, speed, start - after, after))


def _return_legs(walk: _Walk, verdict: TargetVerdict, index: int, bypass: float) -> None:
    option = verdict.option
    behind = float(verdict.points.hydraulics.return_kpa[index]) + option.tank.pressure_kpa
    regulated = walk.pressure_kpa
    if option.regulator.arrangement == "bypass near the tank":
        # The regulator sits before the feed, at what the pumps reach behind the filter.
        hyd = verdict.points.hydraulics
        regulated = float(hyd.inlet_kpa[index] + hyd.pump_rise_kpa[index] - hyd.filter_kpa[index])
    walk.pressure_kpa = regulated
    walk.step("Regulator", bypass, None, regulated - behind)
    walk.restrictions("return", option, bypass)
    walk.line("Return", option.return_line, bypass)
