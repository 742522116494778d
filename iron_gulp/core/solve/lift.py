"""Lift stage and surge tank: what is lifted at near-zero pressure, and how long the surge tank lasts without it."""

from dataclasses import dataclass

import numpy as np

from ..model import Duty, Option
from ..physics import floats
from .curves import own_top_kpa, pump_characteristic
from .fuel_state import FuelState
from .losses import line_loss_kpa, pickup_loss_kpa
from .pipes import FluidState
from .systems import pump_of

NODES = 200


@dataclass(frozen=True)
class LiftSolution:
    """The lift stage at work: total flow, pressure rise, gauge pressure at its inlet, one pump's voltage and current."""

    flow_m3_s: float
    rise_kpa: float
    inlet_kpa: float
    volts: float
    amps: float


def solve_lift(option: Option, duty: Duty, fuel: FuelState) -> LiftSolution:
    """Flow of the lift stage through the pickup and its line into the surge tank, at its real voltage.

    Raises ValueError when no lift stage is fitted.
    """
    lift = option.lift
    if lift is None:
        raise ValueError("no lift stage is fitted")
    fluid = FluidState(fuel.density_kg_m3, fuel.viscosity_mpa_s)
    top = max(float(table.stall_kpa) for table in lift.part.tables())
    rise = floats(np.linspace(0.0, max(top, 1.0), NODES))
    pump = pump_of(lift.part, lift.wiring)
    supply_v, rpm = floats(duty.supply_v), floats(duty.rpm)
    each, volts, amps = pump_characteristic(pump, rise, own_top_kpa(pump, supply_v), supply_v, rpm)
    flow = floats(each * lift.count * (1.0 - lift.derate_pct / 100.0))
    drawn = pickup_loss_kpa(option.pickup, flow, fluid)
    spare = rise - drawn - line_loss_kpa(lift.line, flow, fluid.density_kg_m3, fluid.viscosity_mpa_s)
    # Pickup and line take all the pump makes; a surge tank overflowing to the main tank stands at the same pressure.
    at = float(np.interp(0.0, spare, rise))
    return LiftSolution(
        float(np.interp(at, rise, flow)),
        at,
        option.tank.pressure_kpa - float(np.interp(at, rise, drawn)),
        float(np.interp(at, rise, volts)),
        float(np.interp(at, rise, amps)),
    )


def reserve_s(surge_l: float, drawn_m3_s: float, lifted_m3_s: float) -> float:
    """Seconds a full surge tank lasts: volume over what is drawn less what is lifted; infinite when lifted suffices."""
    deficit = drawn_m3_s - lifted_m3_s
    return surge_l * 1e-3 / deficit if deficit > 0 else float("inf")
