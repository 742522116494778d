"""Coupled solution of pumps, wiring, lines, regulator, return and injector demand at operating points.

Physics §6. Points that share one electrical and fluid state share precomputed curves (`curves`); each point is then one
of four cases: regulating, overrun (the rail stands above the set pressure), starved (the rail sinks until the injectors
pass what the pumps bring), or without differential pressure. Each regulator arrangement has its own intersection in
`arrangements`.
"""

from dataclasses import dataclass
from typing import Any

import numpy as np
from numpy.typing import NDArray

from ..model import Option, PumpGroup
from ..physics import M3_S_PER_L_H, Floats, Number, floats, set_pressure_kpa
from .arrangements import Case, Solved, State, carburettor, near_tank, on_rail, returnless
from .curves import PumpState
from .losses import FluidState

__all__ = ["Hydraulics", "Points", "State", "running_groups", "solve"]

BLOCK = 16_384  # points solved together: small enough for the processor's cache


@dataclass(frozen=True)
class Points:
    """Operating points; fields broadcast against each other. `demand_kg_s` is the fuel wanted by the engine.

    `open_limit_kg_s` is what the injectors pass held open at the set differential pressure (infinite when unknown).
    `rpm` drives mechanical pumps and engine-speed stages.
    """

    manifold_kpa: Number
    demand_kg_s: Number
    supply_v: Number
    density_kg_m3: Number
    viscosity_mpa_s: Number
    open_limit_kg_s: Number = np.inf
    rpm: Number = 0.0
    accel_g: Number = 0.0
    mixture: Number = 1.0

    def broadcast(self) -> list[Floats]:
        fields = (
            self.manifold_kpa,
            self.demand_kg_s,
            self.supply_v,
            self.density_kg_m3,
            self.viscosity_mpa_s,
            self.open_limit_kg_s,
            self.rpm,
            self.accel_g,
            self.mixture,
        )
        arrays = np.broadcast_arrays(*(floats(field) for field in fields))
        return [floats(np.atleast_1d(array)) for array in arrays]


@dataclass(frozen=True)
class Hydraulics:
    """Solved operating points: arrays of shape (points,), per-group arrays (groups, points).

    `supply_m3_s` is what the pumps bring, `delivered_m3_s` what the engine gets, `bypass_m3_s` the rest.
    `lambda_factor` is demand over delivery: 1 when satisfied, above 1 lean, infinite when nothing is delivered.
    `inlet_kpa` is the gauge pressure at the pump inlets, `speed` the share of full speed of controlled pumps.
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
    inlet_kpa: Floats
    feed_kpa: Floats
    passages_kpa: Floats
    filter_kpa: Floats
    split_kpa: Floats
    return_kpa: Floats
    floor_kpa: Floats
    supply_at_set_m3_s: Floats
    group_flow_m3_s: Floats
    volts: Floats
    amps: Floats
    speed: Floats
    running: NDArray[np.bool_]


@dataclass(frozen=True)
class Signals:
    """What stages are switched on, each of shape (points,); `duty_pct` is without dead time."""

    manifold_kpa: Floats
    rpm: Floats
    flow_l_h: Floats
    duty_pct: Floats
    mixture: Floats


def group_runs(group: PumpGroup, at: Signals, leaving: bool = False) -> NDArray[np.bool_]:
    """Whether a group runs at each point, by its own conditions; without conditions always.

    Coming up it joins at its limits; `leaving`, on the way down, it holds on until its hysteresis below them.
    """
    slack = group.hysteresis_pct / 100.0 if leaving else 0.0
    met = [
        value > limit - slack * abs(limit)
        for value, limit in (
            (at.manifold_kpa, group.on_above_kpa),
            (at.rpm, group.on_above_rpm),
            (at.flow_l_h, group.on_above_l_h),
            (at.duty_pct, group.on_above_duty_pct),
        )
        if limit is not None
    ]
    if group.on_below_lambda is not None:
        met.append(at.mixture < group.on_below_lambda * (1.0 + slack))
    if not met:
        return np.ones(at.rpm.shape, dtype=bool)
    joined: NDArray[np.bool_] = np.logical_or.reduce(met) if group.when == "any" else np.logical_and.reduce(met)
    return joined


def signals_at(points: Points) -> Signals:
    """What the controller switches stages on, at each point."""
    manifold, demand, _, density, _, limit, rpm, _, mixture = points.broadcast()
    opened = floats(np.where(limit > 0, demand / np.maximum(limit, 1e-12), 1.0) * 100.0)
    return Signals(manifold, rpm, floats(demand / density / M3_S_PER_L_H), opened, mixture)


def running_groups(option: Option, at: Signals, leaving: bool = False) -> NDArray[np.bool_]:
    """Which pump groups run at each point, shape (groups, points), coming up or (`leaving`) on the way down."""
    return np.array([group_runs(group, at, leaving) for group in option.pumps])


def solve(option: Option, points: Points, without: frozenset[str] = frozenset()) -> Hydraulics:
    """Solve an option at operating points (physics §6); vectorised over points, grouped by shared state.

    Pump groups named in `without` do not come, whatever their conditions say.
    """
    columns = points.broadcast()
    manifold, volts, density, viscosity, rpm, accel = (columns[index] for index in (0, 2, 3, 4, 6, 7))
    running = running_groups(option, signals_at(points))
    for index, group in enumerate(option.pumps):
        if group.id in without:
            running[index] = False
    bits = (running * (1 << np.arange(len(option.pumps)))[:, None]).sum(axis=0)
    mechanical = any(group.part.kind == "mechanical" for group in option.pumps)
    driven = rpm if mechanical else floats(np.zeros_like(rpm))
    states = np.stack([bits, volts, density, viscosity, driven, accel])
    parts: list[tuple[NDArray[np.int64], Hydraulics]] = []
    for key, where in _members(states):
        for start in range(0, where.size, BLOCK):
            block = where[start : start + BLOCK]
            chosen = [column[block] for column in columns]
            parts.append((block, _solve_state(option, chosen, running[:, block], key)))
    return parts[0][1] if len(parts) == 1 else _scatter(parts, manifold.size)


def _members(states: Floats) -> list[tuple[Floats, NDArray[np.int64]]]:
    """Distinct states and the points that have them."""
    varying = [row for row in states if not np.all(row == row[0])]
    if not varying:
        return [(states[:, 0], np.arange(states.shape[1]))]
    # Sorting whole columns is slow; mostly only the pumps that run differ.
    if len(varying) == 1:
        _, first, member = np.unique(varying[0], return_index=True, return_inverse=True)
    else:
        _, first, member = np.unique(np.stack(varying), axis=1, return_index=True, return_inverse=True)
    member = member.reshape(-1)
    return [(states[:, at], np.flatnonzero(member == index)) for index, at in enumerate(first)]


def _scatter(parts: list[tuple[NDArray[np.int64], Hydraulics]], size: int) -> Hydraulics:
    """The parts' points back in their own order: one permutation gathers every field, which is faster than assigning."""
    back = np.empty(size, dtype=np.int64)
    back[np.concatenate([where for where, _ in parts])] = np.arange(size)
    joined: dict[Any, NDArray[Any]] = {}  # one buffer a type, used again field by field

    def gathered(pieces: list[NDArray[Any]]) -> NDArray[Any]:
        if all(piece.strides == (0,) for piece in pieces):
            return np.zeros(size)  # nothing but zeros everywhere
        dtype = pieces[0].dtype
        if dtype not in joined:
            joined[dtype] = np.empty(size, dtype=dtype)
        return np.concatenate(pieces, out=joined[dtype]).take(back, mode="clip")

    merged: dict[str, NDArray[Any]] = {}
    for name in Hydraulics.__dataclass_fields__:
        fields = [getattr(part, name) for _, part in parts]
        rows = zip(*fields, strict=True) if fields[0].ndim == 2 else ()
        merged[name] = np.array([gathered(list(row)) for row in rows]) if rows else gathered(fields)
    return Hydraulics(**merged)


def _balanced(option: Option, group_flow: Floats, supply: Floats) -> Floats:
    """Group flows read off the curves, brought to add up to the supply: beside each other, and boosters in turn."""
    series = np.array([group.place != "in parallel" for group in option.pumps])
    for members in (~series, series):
        total = group_flow[members].sum(axis=0)
        with np.errstate(divide="ignore", invalid="ignore"):
            group_flow[members] *= np.where(total > 0, supply / total, 0.0)
    return group_flow


def _solve_state(option: Option, columns: list[Floats], running: NDArray[np.bool_], key: Floats) -> Hydraulics:
    manifold, demand_kg_s, _volts, density, _viscosity, open_limit_kg_s = columns[:6]
    bits, supply_v, rho, mu, rpm, accel_g = (float(value) for value in key)
    on = tuple(bool(int(bits) >> index & 1) for index in range(len(option.pumps)))
    regulator = option.regulator
    target = set_pressure_kpa(regulator.base_kpa, regulator.reference_ratio, manifold)
    meant_dp = floats(target - manifold)
    wanted = floats(demand_kg_s / density)
    # Injectors at full opening cannot be asked for more, whatever the pulse.
    taken = floats(np.where(meant_dp > 0, np.minimum(wanted, open_limit_kg_s / density), 0.0))
    arrange = {
        "bypass after the rail": on_rail,
        "bypass near the tank": near_tank,
        "returnless, speed-controlled": returnless,
        "carburettor, deadhead": carburettor,
        "carburettor, bypass": carburettor,
    }[regulator.arrangement]
    pump, fluid = PumpState(supply_v, rpm), FluidState(rho, mu, accel_g)
    found: Solved = arrange(Case(option, on, pump, fluid, manifold, target, meant_dp, taken))
    with np.errstate(divide="ignore", invalid="ignore"):
        delivered = found.delivered_m3_s
        lean = np.where(wanted > 0, np.where(delivered > 0, wanted / delivered, np.inf), 1.0)
    return Hydraulics(
        state=np.where(meant_dp > 0, found.state, State.NO_DIFFERENTIAL).astype(np.int64),
        set_kpa=target,
        rail_kpa=found.rail_kpa,
        differential_kpa=found.rail_kpa - manifold,
        supply_m3_s=found.supply_m3_s,
        delivered_m3_s=delivered,
        bypass_m3_s=found.bypass_m3_s,
        lambda_factor=lean,
        pump_rise_kpa=found.columns["rise_kpa"],
        inlet_kpa=found.columns["inlet_kpa"],
        feed_kpa=found.columns["feed_kpa"],
        passages_kpa=found.columns["passages_kpa"],
        filter_kpa=found.columns["filter_kpa"],
        split_kpa=found.columns["split_kpa"],
        return_kpa=found.return_kpa,
        floor_kpa=found.floor_kpa,
        supply_at_set_m3_s=found.supply_at_set_m3_s,
        group_flow_m3_s=_balanced(option, found.groups["group_flow_m3_s"], found.supply_m3_s),
        volts=found.groups["volts"],
        amps=found.groups["amps"],
        speed=found.speed,
        running=running,
    )
