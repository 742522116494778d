"""Lift stage and surge tank: what is lifted at near-zero pressure, and how long the surge tank lasts without it."""

from dataclasses import dataclass

import numpy as np

from ..model import Option, Target
from ..physics import Floats, Stack, array, floats, key_of, power_law_root, size_of
from .curves import VACUUM_KPA
from .demand import Targets
from .fuel_state import FuelState
from .keeping import Remembered
from .pipes import FluidState, Pipe, pipe_kpa
from .places import walk
from .pump_curves import Index, own_top_kpa, pump_characteristic
from .systems import Lift, Systems, packed

NODES = 200
_SPARE, _RISE, _FLOW, _DRAWN, _VOLTS, _AMPS = range(6)


@dataclass(frozen=True)
class LiftSolution:
    """The lift stage at work: total flow, pressure rise, gauge pressure at its inlet, one pump's voltage and current."""

    flow_m3_s: float
    rise_kpa: float
    inlet_kpa: float
    volts: float
    amps: float


@dataclass(frozen=True)
class LiftRows:
    """Lift stages of many systems at work, each of shape (systems,)."""

    flow_m3_s: Floats
    rise_kpa: Floats
    inlet_kpa: Floats
    volts: Floats
    amps: Floats

    @property
    def nbytes(self) -> int:
        """Memory of the numbers held."""
        return sum(getattr(self, name).nbytes for name in self.__dataclass_fields__)

    def at(self, row: int) -> LiftSolution:
        """One system's, as plain numbers."""
        return LiftSolution(*(float(getattr(self, name)[row]) for name in self.__dataclass_fields__))


@dataclass(frozen=True)
class _LiftSide:
    """Lift stages as curves over the pump's pressure rise."""

    lift: Lift
    pickup: Pipe | None
    top_kpa: Floats
    own_top_kpa: Floats
    supply_v: Floats
    rpm: Floats
    density_kg_m3: Floats
    viscosity_mpa_s: Floats
    tank_kpa: Floats

    def nodes(self, index: Index) -> Floats:
        """Spare pressure, rise, flow, pickup drop, volts and amps at nodes of shape (nodes, systems)."""
        lift, fluid = self.lift, FluidState(self.density_kg_m3, self.viscosity_mpa_s)
        rise = floats(index * (self.top_kpa / (NODES - 1)))
        each, volts, amps = pump_characteristic(lift.pump, rise, self.own_top_kpa, self.supply_v, self.rpm)
        flow = floats(each * lift.count * lift.share)
        drawn = floats(np.zeros_like(flow)) if self.pickup is None else pipe_kpa(self.pickup, flow, fluid)
        deepest = self.tank_kpa - VACUUM_KPA
        if self.pickup is not None and np.any(drawn > deepest):
            # No pump draws a vacuum deeper than none at all.
            pickup, left = self.pickup, floats(np.maximum(deepest, 1e-9) + np.zeros(flow.shape[-1]))
            most = power_law_root(lambda at: pipe_kpa(pickup, at, fluid), floats(np.full_like(left, 1e-4)), left)
            flow = floats(np.minimum(flow, most))
            drawn = floats(np.minimum(pipe_kpa(pickup, flow, fluid), deepest))
        return np.array([rise - drawn - pipe_kpa(lift.line, flow, fluid), rise, flow, drawn, volts, amps])


# Most edits leave the lift stage as it is.
_LIFTED: Remembered[LiftRows] = Remembered(200_000)


def solve_lifts(systems: Systems, targets: Targets) -> LiftRows:
    """Flow of the lift stages through pickup and line into the surge tank, at their real voltage.

    Pickup and line take all the pump makes; a surge tank overflowing to the main tank stands at the same pressure.
    Raises ValueError when no lift stage is fitted.
    """
    lift = systems.lift
    if lift is None:
        raise ValueError("no lift stage is fitted")
    stall = np.maximum.reduce([table.stall_kpa for table in lift.pump.tables])
    # Several systems on one and the same target share its arrays of one: what differs says how many there are.
    own = (targets.supply_v, targets.rpm, targets.density_kg_m3, targets.viscosity_mpa_s)
    size = size_of((lift, systems.pickup, systems.tank_kpa, *own))
    side = _LiftSide(
        lift,
        systems.pickup,
        floats(np.broadcast_to(np.maximum(stall, 1.0), size)),
        own_top_kpa(lift.pump, targets.supply_v),
        targets.supply_v,
        targets.rpm,
        targets.density_kg_m3,
        targets.viscosity_mpa_s,
        systems.tank_kpa,
    )
    return _LIFTED.get_or_make(key_of(side), lambda: _settled(side, systems.tank_kpa, size))


def _settled(side: _LiftSide, tank_kpa: Floats, size: int) -> LiftRows:
    """Where lift stages settle."""
    stack = Stack(side, size)

    def at_points(at: object) -> _LiftSide:
        found: _LiftSide = side if isinstance(at, slice) else stack.take(at)
        return found

    step = floats(side.top_kpa / (NODES - 1))
    guess, nothing = floats(np.full(size, 2.0)), floats(np.zeros(size))
    found = walk(at_points, NODES - 1, lambda columns, _: floats(columns[_SPARE]), nothing, guess, step)
    columns = found.read()
    inlet = floats(tank_kpa - columns[_DRAWN])
    return LiftRows(columns[_FLOW], columns[_RISE], inlet, columns[_VOLTS], columns[_AMPS])


def solve_lift(option: Option, target: Target, fuel: FuelState) -> LiftSolution:
    """The lift stage of one option. Raises ValueError when none is fitted."""
    numbers = {name: array(0.0) for name in Targets.__dataclass_fields__}
    numbers |= {"supply_v": array(target.supply_v), "rpm": array(target.rpm)}
    numbers |= {"density_kg_m3": array(fuel.density_kg_m3), "viscosity_mpa_s": array(fuel.viscosity_mpa_s)}
    return solve_lifts(packed(option), Targets(**numbers)).at(0)
