"""Coupled solution of pumps, wiring, filter, feed, regulator, return and injector demand at operating points.

Physics §6. Points that share one electrical and fluid state share two precomputed curves (`curves`); each point is then
one of four cases: regulating, overrun (the return side holds the rail above the set pressure), starved (the regulator is
shut and the rail sinks until the injectors pass what the pumps bring), or without differential pressure.
"""

from dataclasses import dataclass
from enum import IntEnum

import numpy as np
from numpy.typing import NDArray

from .arrays import M3_S_PER_L_H, Floats, Number, floats
from .curves import Lookup, ReturnCurve, SupplyCurve, return_curve, supply_curve
from .regulators import set_pressure_kpa
from .system import Option

_LEAST_M3_S = 1e-12  # far below any engine's demand; keeps the starved case defined without demand


class State(IntEnum):
    REGULATING = 0
    OVERRUN = 1
    STARVED = 2
    NO_DIFFERENTIAL = 3


@dataclass(frozen=True)
class Points:
    """Operating points; fields broadcast against each other. `demand_kg_s` is the fuel wanted by the engine.

    `open_limit_kg_s` is what the injectors pass held open at the set differential pressure (infinite when unknown).
    """

    manifold_kpa: Number
    demand_kg_s: Number
    supply_v: Number
    density_kg_m3: Number
    viscosity_mpa_s: Number
    open_limit_kg_s: Number = np.inf

    def broadcast(self) -> tuple[Floats, ...]:
        fields = (
            self.manifold_kpa,
            self.demand_kg_s,
            self.supply_v,
            self.density_kg_m3,
            self.viscosity_mpa_s,
            self.open_limit_kg_s,
        )
        arrays = np.broadcast_arrays(*(floats(field) for field in fields))
        return tuple(floats(np.atleast_1d(array)) for array in arrays)


@dataclass(frozen=True)
class Hydraulics:
    """Solved operating points: arrays of shape (points,), per-group arrays (groups, points).

    `supply_m3_s` is what the pumps bring through the feed, `delivered_m3_s` what the engine gets, `bypass_m3_s` the rest.
    `lambda_factor` is demand over delivery: 1 when satisfied, above 1 lean, infinite when nothing is delivered.
    """

    state: NDArray[np.int64]
    set_kpa: Floats
    rail_kpa: Floats
    differential_kpa: Floats
    supply_m3_s: Floats
    delivered_m3_s: Floats
    bypass_m3_s: Floats
    lambda_factor: Floats
    pump_rise_kpa: Floats
    feed_kpa: Floats
    filter_kpa: Floats
    return_kpa: Floats
    floor_kpa: Floats
    supply_at_set_m3_s: Floats
    group_flow_m3_s: Floats
    volts: Floats
    amps: Floats
    running: NDArray[np.bool_]


def running_groups(option: Option, manifold_kpa: Floats) -> NDArray[np.bool_]:
    """Which pump groups run at each point, shape (groups, points): always, or above their boost."""
    return np.array(
        [
            np.ones(manifold_kpa.shape, dtype=bool) if group.on_above_kpa is None else manifold_kpa > group.on_above_kpa
            for group in option.pumps
        ]
    )


def solve(option: Option, points: Points) -> Hydraulics:
    """Solve an option at operating points (physics §6); vectorised over points, grouped by shared state."""
    manifold, demand, volts, density, viscosity, open_limit = points.broadcast()
    running = running_groups(option, manifold)
    bits = (running * (1 << np.arange(len(option.pumps)))[:, None]).sum(axis=0)
    states = np.stack([bits, volts, density, viscosity])
    if np.all(states == states[:, :1]):
        return _solve_state(option, manifold, demand, density, open_limit, running, states[:, 0])
    unique, member = np.unique(states, axis=1, return_inverse=True)
    member = member.reshape(-1)
    parts: list[tuple[NDArray[np.int64], Hydraulics]] = []
    for index in range(unique.shape[1]):
        where = np.flatnonzero(member == index)
        chosen = (manifold[where], demand[where], density[where], open_limit[where], running[:, where])
        parts.append((where, _solve_state(option, *chosen, unique[:, index])))
    return _scatter(parts, manifold.size)


def _scatter(parts: list[tuple[NDArray[np.int64], Hydraulics]], size: int) -> Hydraulics:
    merged = {}
    for name in Hydraulics.__dataclass_fields__:
        first = getattr(parts[0][1], name)
        out = np.empty((*first.shape[:-1], size), dtype=first.dtype)
        for where, part in parts:
            out[..., where] = getattr(part, name)
        merged[name] = out
    return Hydraulics(**merged)


def _solve_state(
    option: Option,
    manifold: Floats,
    demand_kg_s: Floats,
    density: Floats,
    open_limit_kg_s: Floats,
    running: NDArray[np.bool_],
    state: Floats,
) -> Hydraulics:
    bits, supply_v, rho, mu = (float(value) for value in state)
    on = tuple(bool(int(bits) >> index & 1) for index in range(len(option.pumps)))
    supply = supply_curve(option.pumps, on, option.tank, option.filter, option.feed, supply_v, rho, mu)
    regulator = option.regulator
    back = return_curve(regulator, option.return_line, option.tank, float(supply.flow_m3_s[0]) * 1.05, rho, mu)
    wanted = demand_kg_s / density
    target = set_pressure_kpa(regulator.base_kpa, regulator.reference_ratio, manifold)
    meant_dp = target - manifold
    flows = meant_dp > 0
    # Injectors at full opening cannot be asked for more, whatever the pulse.
    taken = np.where(flows, np.minimum(wanted, open_limit_kg_s / density), 0.0)

    at_set = np.interp(target, supply.rail_kpa, supply.flow_m3_s)
    # Pumps that stall below the set pressure starve even an engine that takes next to nothing.
    enough = at_set >= np.maximum(taken, _LEAST_M3_S)
    creep = regulator.part.creep_kpa / (100.0 * M3_S_PER_L_H)
    held = _regulated_rail(supply, target, taken, creep)
    floor = _floor_rail(supply, back, taken)
    stall = supply.rail_kpa[np.argmax(supply.flow_m3_s <= 0)]
    rail = np.minimum(np.maximum(held, floor), stall)
    starved = ~enough & flows
    delivered = taken.copy()
    if starved.any():
        sunk = _starved_rail(supply, manifold[starved], meant_dp[starved], taken[starved])
        rail[starved] = sunk
        share = np.sqrt(np.maximum(sunk - manifold[starved], 0.0) / meant_dp[starved])
        delivered[starved] = taken[starved] * share

    on_supply = Lookup(supply.rail_kpa, rail)
    brought = on_supply.read(supply.flow_m3_s)
    brought[starved] = delivered[starved]
    bypass = np.maximum(brought - delivered, 0.0)
    with np.errstate(divide="ignore", invalid="ignore"):
        lean = np.where(wanted > 0, np.where(delivered > 0, wanted / delivered, np.inf), 1.0)

    codes = np.where(floor > held + 1e-6, State.OVERRUN, State.REGULATING)
    codes = np.where(starved, State.STARVED, codes)
    codes = np.where(flows, codes, State.NO_DIFFERENTIAL)

    on_return = Lookup(back.bypass_m3_s, bypass)
    return Hydraulics(
        state=codes.astype(np.int64),
        set_kpa=target,
        rail_kpa=rail,
        differential_kpa=rail - manifold,
        supply_m3_s=brought,
        delivered_m3_s=delivered,
        bypass_m3_s=bypass,
        lambda_factor=lean,
        pump_rise_kpa=on_supply.read(supply.rise_kpa),
        feed_kpa=on_supply.read(supply.feed_kpa),
        filter_kpa=on_supply.read(supply.filter_kpa),
        return_kpa=on_return.read(back.line_kpa),
        floor_kpa=on_return.read(back.floor_kpa),
        supply_at_set_m3_s=at_set,
        group_flow_m3_s=np.array([on_supply.read(row) for row in supply.group_flow_m3_s]),
        volts=np.array([on_supply.read(row) for row in supply.volts]),
        amps=np.array([on_supply.read(row) for row in supply.amps]),
        running=running,
    )


def _regulated_rail(supply: SupplyCurve, target: Floats, taken: Floats, creep: float) -> Floats:
    """Rail in regulation: target plus creep times the flow bypassed, which itself falls as the rail rises."""
    combined = supply.rail_kpa - creep * supply.flow_m3_s
    return floats(np.interp(target - creep * taken, combined, supply.rail_kpa))


def _floor_rail(supply: SupplyCurve, back: ReturnCurve, taken: Floats) -> Floats:
    """Lowest rail the return side allows: where pump flow less demand is just what it passes at that pressure."""
    passes = np.interp(supply.rail_kpa, back.floor_kpa, back.bypass_m3_s)
    spare = supply.flow_m3_s - passes
    return floats(np.interp(taken, spare[::-1], supply.rail_kpa[::-1]))


def _starved_rail(supply: SupplyCurve, manifold: Floats, meant_dp: Floats, taken: Floats) -> Floats:
    """Rail at which injectors, at the pulse meant for the set pressure, pass exactly what the pumps bring.

    Bisection over the curve's nodes, then the segment's quadratic (flow is linear within a segment).
    """
    rail, flow = supply.rail_kpa, supply.flow_m3_s
    slope_of_square = np.maximum(taken, _LEAST_M3_S) ** 2 / meant_dp
    low = np.zeros(manifold.shape, dtype=np.int64)
    high = np.full(manifold.shape, rail.size - 1, dtype=np.int64)
    while np.any(high - low > 1):
        middle = (low + high) // 2
        above = slope_of_square * (rail[middle] - manifold) > flow[middle] ** 2
        high = np.where(above, middle, high)
        low = np.where(above, low, middle)
    gradient = (flow[high] - flow[low]) / (rail[high] - rail[low])
    constant = flow[low] ** 2 - slope_of_square * (rail[low] - manifold)
    linear = slope_of_square - 2.0 * flow[low] * gradient
    root = np.sqrt(np.maximum(linear**2 - 4.0 * gradient**2 * constant, 0.0))
    within = rail[low] + 2.0 * constant / (linear + root)
    # Below the first node the pumps already run free: their flow no longer depends on the rail.
    free = manifold + flow[0] ** 2 / slope_of_square
    return floats(np.where(constant < 0, free, within))
