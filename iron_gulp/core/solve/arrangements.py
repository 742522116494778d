"""Where supply, regulator and engine meet, one function an arrangement, for points of arrays of systems.

Every function takes a `Case` and gives a `Solved`.
"""

from dataclasses import dataclass, replace
from enum import IntEnum
from typing import Any

import numpy as np
from numpy.typing import NDArray

from ..physics import Floats, acceleration_head_kpa, floats, level, rising_root
from .carburettors import needle_area_flow_kg_s
from .curves import COLUMNS, FLOOR, FLOW, LINE, RAIL, Drive, Index, ReturnSide, SupplySide
from .pipes import FluidState, branches_kpa, pipe_kpa, pipes_kpa
from .places import gathered
from .seeking import Place, TabledBack, TabledSupply, WalkedBack, WalkedSupply
from .systems import Systems
from .tables import return_table, supply_table

SPEED_LEVELS = 12
_LEAST_M3_S = 1e-12  # far below any engine's demand; keeps the starved case defined without demand


class State(IntEnum):
    """What the regulator is doing at a point."""

    REGULATING = 0
    OVERRUN = 1
    STARVED = 2
    NO_DIFFERENTIAL = 3


@dataclass(frozen=True)
class Case:
    """Points and the systems they belong to.

    `systems` and `drive` are those of the curves: one a row. `row` says which row a point belongs to where curves are
    tabulated; None where every point has a row of its own. `at` holds the systems as the points see them. Arrays of
    shape (points,): `meant_dp` is the differential meant by the set pressure `target`, `taken` the fuel taken at it.
    """

    systems: Systems
    drive: Drive
    row: Index | None
    at: Systems
    fluid: FluidState
    manifold: Floats
    target: Floats
    meant_dp: Floats
    taken: Floats

    def supply(self, with_feed: bool = True, speed: Floats | None = None) -> Any:
        """The supply side, at a share of full speed."""
        drive = self.drive if speed is None else replace(self.drive, speed=floats(speed + 0.0 * self.drive.supply_v))
        if self.row is None:
            return WalkedSupply(SupplySide.of(self.systems, drive, with_feed))
        return TabledSupply(supply_table(self.systems, drive, with_feed), self._tabled_row)

    def back(self, supply: Any) -> Any:
        """The return side, up to all the pumps can bring."""
        side = ReturnSide(self.systems.back, floats(supply.most_m3_s() * 1.05), self.drive.fluid)
        if self.row is None:
            return WalkedBack(side)
        return TabledBack(return_table(side), side.step_m3_s(), self._tabled_row)

    @property
    def _tabled_row(self) -> Index | None:
        return None if self.drive.supply_v.size == 1 else self.row


@dataclass(frozen=True)
class Solved:
    """What an arrangement finds: arrays of shape (points,), `columns` are those of the supply side."""

    state: NDArray[np.int64]
    rail_kpa: Floats
    supply_m3_s: Floats
    delivered_m3_s: Floats
    bypass_m3_s: Floats
    return_kpa: Floats
    floor_kpa: Floats
    supply_at_set_m3_s: Floats
    speed: Floats
    columns: list[Floats]


@dataclass(frozen=True)
class _Regulated:
    """A regulator at work: supply at the set pressure, pressure it would hold, where it stands, and who falls short."""

    at_set: Floats
    held: Floats
    place: Place
    node: Floats
    starved: NDArray[np.bool_]


def _rail(columns: Floats, _at: Any) -> Floats:
    return floats(columns[RAIL])


def _pick(values: Floats, at: Any) -> Floats:
    return values if values.shape[-1] == 1 else values[at]


def on_rail(case: Case) -> Solved:
    """Bypass regulator after the rail: all pump flow passes the feed, the rail is what is regulated."""
    supply = case.supply()
    back = case.back(supply)
    found = _regulate(case, supply, back, case.taken)
    rail, place, delivered = found.node, found.place, case.taken
    short = np.flatnonzero(found.starved)
    if short.size:
        rail, delivered = rail.copy(), delivered.copy()
        rail[short], sunk = _starved(case, supply, found.at_set, short)
        place = place.replaced(short, sunk)
        delivered[short] = _passing(case, rail, short)
    return _finish(case, back, found, place, rail, rail, found.starved, delivered)


def near_tank(case: Case) -> Solved:
    """Regulator before the engine, near the tank: the feed carries only engine flow and its drop is not corrected."""
    systems, fluid = case.at, case.fluid
    supply = case.supply(with_feed=False)
    back = case.back(supply)
    head = acceleration_head_kpa(fluid.density_kg_m3, systems.feed.length_m, fluid.accel_g)
    start: Any = None

    def losses(flow: Floats) -> tuple[Floats, Floats, Floats]:
        feed = floats(pipe_kpa(systems.feed, flow, fluid) + head)
        return feed, pipes_kpa(systems.passages, flow, fluid), branches_kpa(systems.branches, flow, fluid, joined=False)

    def at_engine(delivered: Floats) -> tuple[_Regulated, Place, Floats, Floats]:
        nonlocal start
        found = _regulate(case, supply, back, delivered, start)
        start = found.place
        node, place = found.node.copy(), found.place
        short = np.flatnonzero(found.starved)
        if short.size:
            # The regulator is shut: the node sits where the pumps bring just this flow.
            shut = supply.shut(delivered[short], short)
            node[short] = shut.column(RAIL)
            place = place.replaced(short, shut)
        return found, place, node, floats(node - sum(losses(delivered)))

    across = np.maximum(case.meant_dp, 1e-9)

    def excess(share: Floats) -> Floats:
        rail = at_engine(floats(share * case.taken))[3]
        return floats(share - np.sqrt(np.maximum(rail - case.manifold, 0.0) / across))

    full = at_engine(case.taken)[3]
    # The rail stands at or above the set pressure: a controller trims to demand. Else less flow means more rail.
    kept = full - case.manifold >= case.meant_dp
    share = rising_root(excess, np.zeros_like(case.taken), np.ones_like(case.taken))
    delivered = floats(np.where(kept, 1.0, share) * case.taken)
    found, place, node, rail = at_engine(delivered)
    solved = _finish(case, back, found, place, node, rail, found.starved, delivered)
    for name, lost in zip(("feed_kpa", "passages_kpa", "split_kpa"), losses(delivered), strict=True):
        solved.columns[COLUMNS[name]] = lost
    return solved


def returnless(case: Case) -> Solved:
    """No return: pump speed is closed on rail pressure between the slowest speed and full speed."""
    taken, target, meant_dp = case.taken, case.target, case.meant_dp
    slowest = case.systems.slowest
    steps = np.arange(SPEED_LEVELS) / (SPEED_LEVELS - 1)
    sides = [case.supply(speed=floats(slowest + step * (1.0 - slowest))) for step in steps]
    places = [side.find(_rail, target) for side in sides]
    flows = np.array([place.column(FLOW) for place in places])
    starved = (flows[-1] < np.maximum(taken, _LEAST_M3_S)) & (meant_dp > 0)
    over = flows[0] > taken
    upper = np.clip((flows < taken).sum(axis=0), 1, SPEED_LEVELS - 1)
    at = np.arange(taken.size)
    low, high = flows[upper - 1, at], flows[upper, at]
    with np.errstate(divide="ignore", invalid="ignore"):
        share = np.clip(np.where(high > low, (taken - low) / (high - low), 0.0), 0.0, 1.0)
    level = steps[upper - 1] + share * (steps[upper] - steps[upper - 1])
    speed = floats(case.at.slowest + level * (1.0 - case.at.slowest))
    read = gathered(places)
    below, above = read[upper - 1, :, at].T, read[upper, :, at].T
    columns = floats(below + share * (above - below))
    rail, delivered = target.copy(), taken.copy()
    idling, short = np.flatnonzero(over & ~starved), np.flatnonzero(starved)
    if idling.size:
        slow = sides[0].shut(taken[idling], idling)
        rail[idling], columns[:, idling] = slow.column(RAIL), np.array(slow.read())
        speed[idling] = _pick(case.at.slowest, idling)
    if short.size:
        rail[short], sunk = _starved(case, sides[-1], floats(flows[-1]), short)
        columns[:, short], speed[short] = np.array(sunk.read()), 1.0
        delivered[short] = _passing(case, rail, short)
    nothing = floats(np.zeros_like(taken))
    codes = np.where(starved, State.STARVED, np.where(rail > target + 1e-6, State.OVERRUN, State.REGULATING))
    at_set, read_columns = floats(flows[-1]), list(columns)
    return Solved(
        codes.astype(np.int64), rail, delivered, delivered, nothing, nothing, nothing, at_set, speed, read_columns
    )


def carburettor(case: Case) -> Solved:
    """Carburettor: floats take just what the engine burns, as long as their needles pass it at the inlet pressure.

    Deadhead: the regulator only lets through; its outlet droops with flow and nothing returns. Bypass: as after a rail.
    """
    systems, taken, density = case.at, case.taken, floats(case.fluid.density_kg_m3)
    needles = systems.needles_m2
    assert needles is not None
    supply = case.supply()
    back = case.back(supply)
    dead = case.systems.arrangement == "carburettor, deadhead"
    start: Any = None

    def inlet(flow: Floats) -> tuple[_Regulated, Floats, Floats]:
        """Regulator, its inlet and the carburettor's inlet at a flow taken."""
        nonlocal start
        found = _regulate(case, supply, back, flow, start)
        start = found.place
        before = supply.shut(flow).column(RAIL)
        if dead:
            return found, before, floats(np.minimum(case.target - systems.droop_pa * flow, before))
        node = floats(np.minimum(found.node, before))
        return found, node, node

    def passes(flow: Floats) -> Floats:
        return floats(needle_area_flow_kg_s(needles, inlet(flow)[2], density) / density)

    enough = passes(taken) >= taken
    most = np.maximum(taken, 1e-30)
    share = rising_root(
        lambda share: floats(share - passes(floats(share * taken)) / most), np.zeros_like(taken), np.ones_like(taken)
    )
    delivered = floats(np.where(enough, taken, share * taken))
    found, node, rail = inlet(delivered)
    starved = ~enough
    # Floats are content down to their lowest pressure: that, not the set pressure, is what the pumps must reach.
    content = floats(np.broadcast_to(systems.floats_kpa, taken.shape))
    at_set = supply.find(_rail, content).column(FLOW)
    place = supply.find(_rail, node)
    solved = _finish(case, back, replace(found, at_set=at_set), place, node, rail, starved, delivered)
    if not dead:
        return solved
    nothing = floats(np.zeros_like(taken))
    codes = np.where(starved, State.STARVED, State.REGULATING).astype(np.int64)
    return replace(solved, state=codes, supply_m3_s=delivered, bypass_m3_s=nothing, return_kpa=nothing, floor_kpa=nothing)


def _regulate(case: Case, supply: Any, back: Any, taken: Floats, start: Any = None) -> _Regulated:
    """A bypass regulator with `taken` drawn behind it."""
    at_target = supply.find(_rail, case.target, start)
    at_set = at_target.column(FLOW)
    # Pumps that stall below the set pressure starve even an engine that takes next to nothing.
    starved = (at_set < np.maximum(taken, _LEAST_M3_S)) & (case.meant_dp > 0)
    creep, place, brought = case.at.creep_pa, at_target, at_set
    if creep.any():
        # The target plus creep times the flow bypassed, which itself falls as the rail rises.
        wanted = floats(case.target - creep * taken)
        place = supply.find(lambda columns, at: floats(columns[RAIL] - _pick(creep, at) * columns[FLOW]), wanted, place)
        brought = place.column(FLOW)
    held = place.column(RAIL)
    node = held
    lowest = back.read(floats(np.maximum(brought - taken, 0.0)), (FLOOR,))[0]
    over = np.flatnonzero((lowest > held) & ~starved)
    if over.size:
        floor = supply.floor(back, taken, place.part(over), over)
        node = held.copy()
        node[over] = np.maximum(floor.column(RAIL), node[over])
        place = place.replaced(over, floor)
    beyond = np.flatnonzero((place.ends(FLOW)[1] <= 0) & (place.share > 0))
    if beyond.size:
        stall = supply.shut(floats(np.zeros(beyond.size)), beyond)
        lower = stall.column(RAIL) < node[beyond]
        node = node.copy()
        node[beyond[lower]] = stall.column(RAIL)[lower]
        place = place.replaced(beyond[lower], stall.part(lower))
    return _Regulated(at_set, held, place, node, starved)


def _finish(
    case: Case,
    back: Any,
    found: _Regulated,
    place: Any,
    node: Floats,
    rail: Floats,
    starved: NDArray[np.bool_],
    delivered: Floats,
) -> Solved:
    """Everything else at the pressure `node` behind the supply side, which lies at `place`."""
    columns = place.read()
    brought = np.where(starved, delivered, columns[FLOW])
    bypass = floats(np.maximum(brought - delivered, 0.0))
    floor, line = back.read(bypass, (FLOOR, LINE))
    codes = (node > found.held + 1e-6) * int(State.OVERRUN)
    codes[starved] = int(State.STARVED)
    full = level(1.0, rail.size)
    return Solved(codes, rail, floats(brought), delivered, bypass, line, floor, found.at_set, full, columns)


def _passing(case: Case, rail: Floats, short: Index) -> Floats:
    """What injectors at the pulse meant for the set pressure pass at a sunk rail, m³/s."""
    left = np.maximum(rail[short] - case.manifold[short], 0.0)
    return floats(case.taken[short] * np.sqrt(left / case.meant_dp[short]))


def _starved(case: Case, supply: Any, at_set: Floats, short: Index) -> tuple[Floats, Any]:
    """Rail at which injectors, at the pulse meant for the set pressure, pass exactly what the pumps bring.

    Between two nodes flow is linear, so the crossing is a quadratic's root.
    """
    manifold = case.manifold[short]
    slopes = np.zeros_like(case.taken)
    slopes[short] = slope = np.maximum(case.taken[short], _LEAST_M3_S) ** 2 / case.meant_dp[short]
    place = supply.sunk(slopes, case.manifold, at_set, short)
    rails, flows = place.ends(RAIL), place.ends(FLOW)
    gradient = (flows[1] - flows[0]) / (rails[1] - rails[0])
    constant = flows[0] ** 2 - slope * (rails[0] - manifold)
    linear = slope - 2.0 * flows[0] * gradient
    root = np.sqrt(np.maximum(linear**2 - 4.0 * gradient**2 * constant, 0.0))
    within = rails[0] + 2.0 * constant / (linear + root)
    # Below the first node the pumps already run free: their flow no longer depends on the rail.
    rail = floats(np.where(constant < 0, manifold + flows[0] ** 2 / slope, within))
    return rail, place.moved(floats(np.clip((rail - rails[0]) / (rails[1] - rails[0]), 0.0, 1.0)))
