"""The coupled solution of the model over arrays of operating points. This face says what other rooms may use."""

from .carburettors import needle_flow_kg_s
from .curves import PumpState, rails_joined, return_curve, supply_curve
from .fuel_state import FuelState, fuel_state
from .hydraulics import Hydraulics, Points, Signals, State, limits_met, solve, solve_systems
from .lift import LiftSolution, reserve_s, solve_lift
from .losses import (
    branch_loss_kpa,
    filter_loss_kpa,
    inlet_pressure_kpa,
    line_loss_kpa,
    passage_loss_kpa,
    passages_loss_kpa,
    pickup_loss_kpa,
    split_flows_m3_s,
    split_loss_kpa,
)
from .pipes import FluidState, fittings_loss
from .pump_states import own_rise_kpa, pump_doing
from .rails import pulsation_kpa, rail_drop_kpa
from .systems import Systems, limits_of, packed
from .target import (
    IDLE,
    PEAK,
    Demand,
    PointSolution,
    demand,
    injector_count,
    mixture_at,
    running_at,
    solve_duty,
    solve_points,
)
from .wiring import COLD_PLACE, GROUND_MOHM, coil_load_a, switch_carries_a, wiring_resistance_ohm

__all__ = [
    "COLD_PLACE",
    "GROUND_MOHM",
    "IDLE",
    "PEAK",
    "Demand",
    "FluidState",
    "FuelState",
    "Hydraulics",
    "LiftSolution",
    "PointSolution",
    "Points",
    "PumpState",
    "Signals",
    "State",
    "Systems",
    "branch_loss_kpa",
    "coil_load_a",
    "demand",
    "filter_loss_kpa",
    "fittings_loss",
    "fuel_state",
    "injector_count",
    "inlet_pressure_kpa",
    "limits_met",
    "limits_of",
    "line_loss_kpa",
    "mixture_at",
    "needle_flow_kg_s",
    "own_rise_kpa",
    "packed",
    "passage_loss_kpa",
    "passages_loss_kpa",
    "pickup_loss_kpa",
    "pulsation_kpa",
    "pump_doing",
    "rail_drop_kpa",
    "rails_joined",
    "reserve_s",
    "return_curve",
    "running_at",
    "solve",
    "solve_duty",
    "solve_lift",
    "solve_points",
    "solve_systems",
    "split_flows_m3_s",
    "split_loss_kpa",
    "supply_curve",
    "switch_carries_a",
    "wiring_resistance_ohm",
]
