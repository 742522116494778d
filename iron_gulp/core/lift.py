"""Lift stage and surge tank: what is lifted at near-zero pressure, and how long the surge tank lasts without it."""

from dataclasses import dataclass

import numpy as np

from .arrays import floats
from .curves import PumpState, line_loss_kpa, pump_characteristic
from .elements import LiftStage
from .fuel_state import FuelState
from .system import Duty

NODES = 200


@dataclass(frozen=True)
class LiftSolution:
    """The lift stage at work: total flow, pressure rise, and one pump's voltage and current."""

    flow_m3_s: float
    rise_kpa: float
    volts: float
    amps: float


def solve_lift(lift: LiftStage, duty: Duty, fuel: FuelState) -> LiftSolution:
    """Flow of the lift stage against its line into the open surge tank, at its real voltage."""
    state = PumpState(duty.supply_v, duty.rpm)
    top = max(table.shutoff_kpa() for table in lift.part.tables())
    rise = floats(np.linspace(0.0, max(top, 1.0), NODES))
    each, volts, amps = pump_characteristic(lift.part, lift.wiring, rise, state)
    flow = floats(each * lift.count * (1.0 - lift.derate_pct / 100.0))
    spare = rise - line_loss_kpa(lift.line, flow, fuel.density_kg_m3, fuel.viscosity_mpa_s)
    # The line takes all the pump makes: the rise equals the line's drop there.
    at = float(np.interp(0.0, spare, rise))
    return LiftSolution(
        float(np.interp(at, rise, flow)), at, float(np.interp(at, rise, volts)), float(np.interp(at, rise, amps))
    )


def reserve_s(surge_l: float, drawn_m3_s: float, lifted_m3_s: float) -> float:
    """Seconds a full surge tank lasts: volume over what is drawn less what is lifted; infinite when lifted suffices."""
    deficit = drawn_m3_s - lifted_m3_s
    return surge_l * 1e-3 / deficit if deficit > 0 else float("inf")
