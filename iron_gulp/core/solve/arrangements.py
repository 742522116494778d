"""Where supply, regulator and engine meet, one function an arrangement, for points that share one state.

Every function takes a `Case` (points that share one state) and gives a `Solved`.
"""

from dataclasses import dataclass, replace
from enum import IntEnum

import numpy as np
from numpy.typing import NDArray

from ..model import Option
from ..physics import M3_S_PER_L_H, Floats, Lookup, acceleration_head_kpa, floats
from .carburettors import needle_flow_kg_s
from .curves import PumpState, ReturnCurve, SupplyCurve, return_curve, supply_curve
from .losses import FluidState, line_loss_kpa, passages_loss_kpa, split_loss_kpa

COLUMNS = ("rise_kpa", "inlet_kpa", "feed_kpa", "passages_kpa", "filter_kpa", "split_kpa")
GROUP_COLUMNS = ("group_flow_m3_s", "volts", "amps")
SPEED_LEVELS = 12
_LEAST_M3_S = 1e-12  # far below any engine's demand; keeps the starved case defined without demand


class State(IntEnum):
    REGULATING = 0
    OVERRUN = 1
    STARVED = 2
    NO_DIFFERENTIAL = 3


@dataclass(frozen=True)
class Case:
    """Points that share one state: scalars of the state, arrays of shape (points,).

    `meant_dp` is the differential meant by the set pressure `target`, `taken` the fuel taken at it, m³/s.
    """

    option: Option
    on: tuple[bool, ...]
    pump: PumpState
    fluid: FluidState
    manifold: Floats
    target: Floats
    meant_dp: Floats
    taken: Floats

    def supply(self, with_feed: bool = True, speed: float = 1.0) -> SupplyCurve:
        """The supply side, at a share of full speed."""
        return supply_curve(self.option, self.on, replace(self.pump, speed=speed), self.fluid, with_feed)

    def back(self, supply: SupplyCurve) -> ReturnCurve:
        """The return side, up to all the pumps can bring."""
        return return_curve(self.option, float(supply.flow_m3_s[0]) * 1.05, self.fluid)


@dataclass(frozen=True)
class Solved:
    """What an arrangement finds: arrays of shape (points,), `groups` of shape (groups, points)."""

    state: NDArray[np.int64]
    rail_kpa: Floats
    supply_m3_s: Floats
    delivered_m3_s: Floats
    bypass_m3_s: Floats
    return_kpa: Floats
    floor_kpa: Floats
    supply_at_set_m3_s: Floats
    speed: Floats
    columns: dict[str, Floats]
    groups: dict[str, Floats]


def on_rail(case: Case) -> Solved:
    """Bypass regulator after the rail: all pump flow passes the feed, the rail is what is regulated."""
    manifold, meant_dp, taken = case.manifold, case.meant_dp, case.taken
    supply = case.supply()
    back = case.back(supply)
    at_set, held, rail, starved = _regulate(case, supply, back, case.taken)
    delivered = taken.copy()
    if starved.any():
        sunk = _starved_rail(supply, manifold[starved], meant_dp[starved], taken[starved])
        rail[starved] = sunk
        share = np.sqrt(np.maximum(sunk - manifold[starved], 0.0) / meant_dp[starved])
        delivered[starved] = taken[starved] * share
    return _finish(supply, back, at_set, held, rail, rail, starved, delivered)


def near_tank(case: Case) -> Solved:
    """Regulator before the engine, near the tank: the feed carries only engine flow and its drop is not corrected."""
    option, fluid, manifold, meant_dp, taken = case.option, case.fluid, case.manifold, case.meant_dp, case.taken
    supply = case.supply(with_feed=False)
    back = case.back(supply)
    head = float(acceleration_head_kpa(fluid.density_kg_m3, option.feed.length_m, fluid.accel_g))

    def feed_kpa(flow: Floats) -> Floats:
        return floats(line_loss_kpa(option.feed, flow, fluid.density_kg_m3, fluid.viscosity_mpa_s) + head)

    def at_engine(delivered: Floats) -> tuple[Floats, Floats, Floats, Floats, NDArray[np.bool_]]:
        at_set, held, node, short = _regulate(case, supply, back, delivered)
        if short.any():
            # The regulator is shut: the node sits where the pumps bring just this flow.
            node[short] = np.interp(delivered[short], supply.flow_m3_s[::-1], supply.rail_kpa[::-1])
        lost = feed_kpa(delivered) + passages_loss_kpa(option.feed_passages, delivered, fluid)
        lost = floats(lost + split_loss_kpa(option.split, delivered, fluid, joined=False))
        return at_set, held, node, floats(node - lost), short

    # Less flow means more rail, so the share delivered is found by bisection.
    low, high = floats(np.zeros_like(taken)), floats(np.ones_like(taken))
    across = np.maximum(meant_dp, 1e-9)
    for _ in range(34):
        middle = (low + high) / 2.0
        rail = at_engine(floats(middle * taken))[3]
        passes = np.sqrt(np.maximum(rail - manifold, 0.0) / across)
        low, high = floats(np.where(passes > middle, middle, low)), floats(np.where(passes > middle, high, middle))
    delivered = floats((low + high) / 2.0 * taken)
    full = at_engine(taken)
    kept = full[3] - manifold >= meant_dp  # the rail stands at or above the set pressure: a controller trims to demand
    delivered = floats(np.where(kept, taken, delivered))
    at_set, held, node, rail, short = at_engine(delivered)
    solved = _finish(supply, back, at_set, held, node, rail, short, delivered)
    solved.columns["feed_kpa"] = feed_kpa(delivered)
    solved.columns["passages_kpa"] = passages_loss_kpa(option.feed_passages, delivered, fluid)
    solved.columns["split_kpa"] = split_loss_kpa(option.split, delivered, fluid, joined=False)
    return solved


def returnless(case: Case) -> Solved:
    """No return: pump speed is closed on rail pressure between the slowest speed and full speed."""
    option, manifold, target, meant_dp, taken = case.option, case.manifold, case.target, case.meant_dp, case.taken
    levels = np.linspace(option.regulator.slowest_pct / 100.0, 1.0, SPEED_LEVELS)
    curves = [case.supply(speed=float(level)) for level in levels]
    reads = [Lookup(curve.rail_kpa, target) for curve in curves]
    flows = np.array([read.read(curve.flow_m3_s) for read, curve in zip(reads, curves, strict=True)])
    starved = (flows[-1] < np.maximum(taken, _LEAST_M3_S)) & (meant_dp > 0)
    over = flows[0] > taken
    upper = np.clip((flows < taken).sum(axis=0), 1, SPEED_LEVELS - 1)
    at = np.arange(taken.size)
    low, high = flows[upper - 1, at], flows[upper, at]
    with np.errstate(divide="ignore", invalid="ignore"):
        share = np.clip(np.where(high > low, (taken - low) / (high - low), 0.0), 0.0, 1.0)
    speed = floats(levels[upper - 1] + share * (levels[upper] - levels[upper - 1]))

    def blended(name: str, group: int | None = None) -> Floats:
        columns_of = [getattr(curve, name) if group is None else getattr(curve, name)[group] for curve in curves]
        stack = np.array([read.read(column) for read, column in zip(reads, columns_of, strict=True)])
        return floats(stack[upper - 1, at] + share * (stack[upper, at] - stack[upper - 1, at]))

    rail, delivered = target.copy(), taken.copy()
    columns = {name: blended(name) for name in COLUMNS}
    groups = {name: np.array([blended(name, group) for group in range(len(option.pumps))]) for name in GROUP_COLUMNS}
    for edge, curve, level in ((over & ~starved, curves[0], levels[0]), (starved, curves[-1], 1.0)):
        if not edge.any():
            continue
        if level == 1.0:
            rail[edge] = _starved_rail(curve, manifold[edge], meant_dp[edge], taken[edge])
            delivered[edge] = taken[edge] * np.sqrt(np.maximum(rail[edge] - manifold[edge], 0.0) / meant_dp[edge])
        else:
            rail[edge] = np.interp(taken[edge], curve.flow_m3_s[::-1], curve.rail_kpa[::-1])
        speed[edge] = level
        read = Lookup(curve.rail_kpa, floats(rail[edge]))
        for name in COLUMNS:
            columns[name][edge] = read.read(getattr(curve, name))
        for name in GROUP_COLUMNS:
            for index in range(len(option.pumps)):
                groups[name][index, edge] = read.read(getattr(curve, name)[index])
    nothing = floats(np.zeros_like(taken))
    codes = np.where(starved, State.STARVED, np.where(rail > target + 1e-6, State.OVERRUN, State.REGULATING))
    return Solved(
        codes.astype(np.int64),
        rail,
        delivered,
        delivered,
        nothing,
        nothing,
        nothing,
        floats(flows[-1]),
        speed,
        columns,
        groups,
    )


def carburettor(case: Case) -> Solved:
    """Carburettor: floats take just what the engine burns, as long as their needles pass it at the inlet pressure.

    Deadhead: the regulator only lets through; its outlet droops with flow and nothing returns. Bypass: as after a rail.
    """
    option, fluid, target, taken = case.option, case.fluid, case.target, case.taken
    supply = case.supply()
    back = case.back(supply)
    fitted, part = option.carburettor, option.regulator.part
    assert fitted is not None
    dead = option.regulator.arrangement == "carburettor, deadhead"
    droop = part.droop_kpa / (100.0 * M3_S_PER_L_H)

    def inlet(flow: Floats) -> tuple[Floats, Floats, Floats, Floats]:
        """Supply at the set pressure, regulated pressure, regulator inlet and carburettor inlet at a flow taken."""
        at_set, held, node, _ = _regulate(case, supply, back, flow)
        before = floats(np.interp(flow, supply.flow_m3_s[::-1], supply.rail_kpa[::-1]))
        if dead:
            return at_set, target, before, floats(np.minimum(target - droop * flow, before))
        return at_set, held, floats(np.minimum(node, before)), floats(np.minimum(node, before))

    low, high = floats(np.zeros_like(taken)), taken.copy()
    for _ in range(34):
        middle = floats((low + high) / 2.0)
        passes = needle_flow_kg_s(fitted, inlet(middle)[3], fluid.density_kg_m3) / fluid.density_kg_m3
        low, high = floats(np.where(passes > middle, middle, low)), floats(np.where(passes > middle, high, middle))
    enough = needle_flow_kg_s(fitted, inlet(taken)[3], fluid.density_kg_m3) / fluid.density_kg_m3 >= taken
    delivered = floats(np.where(enough, taken, low))
    _, held, node, rail = inlet(delivered)
    starved = ~enough
    # Floats are content down to their lowest pressure: that, not the set pressure, is what the pumps must reach.
    at_set = floats(np.full_like(taken, np.interp(fitted.lowest_kpa, supply.rail_kpa, supply.flow_m3_s)))
    solved = _finish(supply, back, at_set, held, node, rail, starved, delivered)
    if not dead:
        return solved
    nothing = floats(np.zeros_like(taken))
    codes = np.where(starved, State.STARVED, State.REGULATING).astype(np.int64)
    return replace(solved, state=codes, supply_m3_s=delivered, bypass_m3_s=nothing, return_kpa=nothing, floor_kpa=nothing)


def _regulate(
    case: Case, supply: SupplyCurve, back: ReturnCurve, taken: Floats
) -> tuple[Floats, Floats, Floats, NDArray[np.bool_]]:
    """Supply at the set pressure, regulated pressure, pressure with the floor, and where the pumps fall short."""
    at_set = floats(np.interp(case.target, supply.rail_kpa, supply.flow_m3_s))
    # Pumps that stall below the set pressure starve even an engine that takes next to nothing.
    starved = (at_set < np.maximum(taken, _LEAST_M3_S)) & (case.meant_dp > 0)
    creep = case.option.regulator.part.creep_kpa / (100.0 * M3_S_PER_L_H)
    held = _regulated_rail(supply, case.target, taken, creep)
    stall = supply.rail_kpa[np.argmax(supply.flow_m3_s <= 0)]
    rail = floats(np.minimum(np.maximum(held, _floor_rail(supply, back, taken)), stall))
    return at_set, held, rail, starved


def _finish(
    supply: SupplyCurve,
    back: ReturnCurve,
    at_set: Floats,
    held: Floats,
    node: Floats,
    rail: Floats,
    starved: NDArray[np.bool_],
    delivered: Floats,
) -> Solved:
    """Read everything else off the curves at the pressure `node` behind the supply curve."""
    read = Lookup(supply.rail_kpa, node)
    brought = read.read(supply.flow_m3_s).copy()
    brought[starved] = delivered[starved]
    bypass = floats(np.maximum(brought - delivered, 0.0))
    on_return = Lookup(back.bypass_m3_s, bypass)
    codes = np.where(starved, State.STARVED, np.where(node > held + 1e-6, State.OVERRUN, State.REGULATING))
    return Solved(
        codes.astype(np.int64),
        rail,
        brought,
        delivered,
        bypass,
        on_return.read(back.line_kpa),
        on_return.read(back.floor_kpa),
        at_set,
        floats(np.ones_like(rail)),
        {name: read.read(getattr(supply, name)) for name in COLUMNS},
        {name: np.array([read.read(row) for row in getattr(supply, name)]) for name in GROUP_COLUMNS},
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
        high = np.where(above, np.maximum(middle, low + 1), high)  # the last segment keeps its width
        low = np.where(above, low, middle)
    gradient = (flow[high] - flow[low]) / (rail[high] - rail[low])
    constant = flow[low] ** 2 - slope_of_square * (rail[low] - manifold)
    linear = slope_of_square - 2.0 * flow[low] * gradient
    root = np.sqrt(np.maximum(linear**2 - 4.0 * gradient**2 * constant, 0.0))
    within = rail[low] + 2.0 * constant / (linear + root)
    # Below the first node the pumps already run free: their flow no longer depends on the rail.
    free = manifold + flow[0] ** 2 / slope_of_square
    return floats(np.where(constant < 0, free, within))
