"""Every leg of a solved operating point in flow order: flow, velocity, drop, and the pressure behind it."""

from dataclasses import dataclass

import numpy as np

from .arrays import floats
from .curves import filter_loss_kpa, line_loss_kpa, passage_loss_kpa
from .duty import PEAK
from .lines import velocity_m_s
from .verdict import DutyVerdict


@dataclass(frozen=True)
class Leg:
    """One leg. `velocity_m_s` is None where there is no one bore; `after_kpa` is the gauge pressure behind it."""

    name: str
    flow_m3_s: float
    velocity_m_s: float | None
    drop_kpa: float
    after_kpa: float


def legs(verdict: DutyVerdict, index: int = PEAK) -> list[Leg]:
    """The legs at the peak (or idle) point, suction to return."""
    option, hyd, fuel = verdict.option, verdict.points.hydraulics, verdict.fuel
    rho, mu = fuel.density_kg_m3, fuel.viscosity_mpa_s
    supply, bypass = float(hyd.supply_m3_s[index]), float(hyd.bypass_m3_s[index])
    through = float(hyd.delivered_m3_s[index]) if option.regulator.arrangement == "bypass near the tank" else supply
    pressure = float(hyd.inlet_kpa[index])
    found = []

    def loss(values: object) -> float:
        return float(np.asarray(values).reshape(-1)[0])

    def add(name: str, flow: float, bore_mm: float | None, drop: float, after: float) -> None:
        speed = None if bore_mm is None else float(velocity_m_s(flow, bore_mm))
        found.append(Leg(name, flow, speed, drop, after))

    suction = option.suction
    if suction.line is not None:
        drop = loss(line_loss_kpa(suction.line, floats([supply]), rho, mu))
        add("Suction line", supply, suction.line.part.bore_mm, drop, pressure)
    if suction.filter is not None:
        add("Pre-filter", supply, None, loss(filter_loss_kpa(suction.filter, floats([supply]))), pressure)
    pressure += float(hyd.pump_rise_kpa[index])
    add("Pumps", supply, None, -float(hyd.pump_rise_kpa[index]), pressure)
    if option.filter is not None:
        drop = float(hyd.filter_kpa[index])
        pressure -= drop
        add("Filter", supply, None, drop, pressure)
    for passage in option.feed_passages:
        drop = loss(passage_loss_kpa(passage, floats([through]), rho, mu))
        pressure -= drop
        add(passage.name, through, passage.bore_mm, drop, pressure)
    drop = float(hyd.feed_kpa[index])
    pressure -= drop
    add("Feed", through, option.feed.part.bore_mm, drop, pressure)
    if bypass > 0:
        line = float(hyd.return_kpa[index])
        add("Regulator", bypass, None, pressure - line - option.tank.pressure_kpa, line + option.tank.pressure_kpa)
        for passage in option.return_passages:
            drop = loss(passage_loss_kpa(passage, floats([bypass]), rho, mu))
            add(passage.name, bypass, passage.bore_mm, drop, option.tank.pressure_kpa)
        drop = loss(line_loss_kpa(option.return_line, floats([bypass]), rho, mu))
        add("Return", bypass, option.return_line.part.bore_mm, drop, option.tank.pressure_kpa)
    return found
