"""The coupled solution of the model over arrays of operating points. This face says what other rooms may use."""

from .carburettors import needle_flow_kg_s
from .curves import PumpState, ReturnSide, rails_joined, return_curve, supply_curve
from .demand import Demand, Targets, demand, demand_of, one_demand, targets_of
from .fuel_state import FuelState, fuel_state
from .hydraulics import Hydraulics, Points, Signals, State, limits_met, solve, solve_systems
from .lift import LiftRows, LiftSolution, reserve_s, solve_lift, solve_lifts
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
from .pipes import FluidState, Pipe, branches_kpa, fittings_loss, pipe_kpa, pipes_kpa
from .pump_states import own_rise_kpa, pump_doing
from .rails import pulsation_kpa, rail_drop_kpa
from .seeking import WalkedBack
from .systems import Systems, held_groups, limits_of, packed, return_of, without_groups
from .target import (
    IDLE,
    PEAK,
    Meter,
    PointSolution,
    injector_count,
    meter_of,
    mixture_at,
    running_at,
    solve_at,
    solve_points,
    solve_targets,
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
    "LiftRows",
    "LiftSolution",
    "Meter",
    "Pipe",
    "PointSolution",
    "Points",
    "PumpState",
    "ReturnSide",
    "Signals",
    "State",
    "Systems",
    "Targets",
    "WalkedBack",
    "branch_loss_kpa",
    "branches_kpa",
    "coil_load_a",
    "demand",
    "demand_of",
    "filter_loss_kpa",
    "fittings_loss",
    "fuel_state",
    "held_groups",
    "injector_count",
    "inlet_pressure_kpa",
    "limits_met",
    "limits_of",
    "line_loss_kpa",
    "meter_of",
    "mixture_at",
    "needle_flow_kg_s",
    "one_demand",
    "own_rise_kpa",
    "packed",
    "passage_loss_kpa",
    "passages_loss_kpa",
    "pickup_loss_kpa",
    "pipe_kpa",
    "pipes_kpa",
    "pulsation_kpa",
    "pump_doing",
    "rail_drop_kpa",
    "rails_joined",
    "reserve_s",
    "return_curve",
    "return_of",
    "running_at",
    "solve",
    "solve_at",
    "solve_lift",
    "solve_lifts",
    "solve_points",
    "solve_systems",
    "solve_targets",
    "split_flows_m3_s",
    "split_loss_kpa",
    "supply_curve",
    "switch_carries_a",
    "targets_of",
    "wiring_resistance_ohm",
    "without_groups",
]
