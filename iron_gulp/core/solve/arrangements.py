"""Where supply, regulator and engine meet, one function an arrangement, for points of arrays of systems.

Every function takes a `Case` and gives a `Solved`.
"""

from dataclasses import replace

import numpy as np

from ..physics import Floats, floats, rising_root
from .carburettors import needle_area_flow_kg_s
from .case import Case, Solved, State
from .curves import FEED, FILTER, FLOW, PASSAGES, RAIL, SPLIT, SupplySide
from .near_tank import near_tank
from .pipes import strainer_kpa
from .regulating import (
    LEAST_M3_S,
    Regulated,
    after_regulator,
    asked_of,
    finish,
    passing,
    rail_column,
    raised,
    regulate,
    sunk,
    with_high_side,
)

_SPEED_WIDTH, _SHARE_WIDTH = 1e-11, 1e-9

__all__ = ["carburettor", "near_tank", "on_rail", "returnless"]


def on_rail(case: Case) -> Solved:
    """Bypass regulator after the rail: all pump flow passes the feed, the rail is what is regulated."""
    supply = case.supply()
    back = case.back(supply)
    taking, case = with_high_side(case)
    found = regulate(case, supply, back, case.taken)
    case, found = raised(case, taking, found, lambda taken, before: regulate(case, supply, back, taken, before))
    rail, place, delivered = found.node, found.place, case.taken
    short = np.flatnonzero(found.starved)
    if short.size:
        rail, delivered = rail.copy(), delivered.copy()
        rail[short], low = sunk(case, taking, supply, found.at_set, short)
        place = place.replaced(short, low)
        delivered[short] = passing(case, rail, short) if taking is None else taking.of(short).at(rail[short])
    solved = finish(case, back, found, place, rail, rail, found.starved, delivered)
    return asked_of(case, supply, solved)


def returnless(case: Case) -> Solved:
    """No return: pump speed is closed on rail pressure between the slowest speed and full speed."""
    taking, case = with_high_side(case)
    taken, set_kpa, slowest = case.taken, case.set_kpa, case.at.slowest
    fastest = case.supply()
    place = fastest.find(rail_column, set_kpa)
    at_set = place.column(FLOW)
    starved = (at_set < np.maximum(taken, LEAST_M3_S)) & case.draws
    over = case.supply(speed=case.systems.slowest).find(rail_column, set_kpa).column(FLOW) > taken
    columns = np.array(place.read())
    rail, delivered, speed = set_kpa.copy(), taken.copy(), floats(np.ones_like(taken))
    closed, idling, short = (np.flatnonzero(one) for one in (~starved & ~over, ~starved & over, starved))
    if closed.size:
        own = case.of(closed)
        speed[closed] = _speed_that_brings(own)
        columns[:, closed] = np.array(own.supply(speed=speed[closed]).find(rail_column, own.set_kpa).read())
    if idling.size:
        own = case.of(idling)
        speed[idling] = floats(slowest + 0.0 * taken)[idling]
        slow = own.supply(speed=speed[idling]).shut(own.taken)
        rail[idling], columns[:, idling] = slow.column(RAIL), np.array(slow.read())
    if short.size:
        rail[short], low = sunk(case, taking, fastest, at_set, short)
        columns[:, short] = np.array(low.read())
        delivered[short] = passing(case, rail, short) if taking is None else taking.of(short).at(rail[short])
    # Between two nodes of the grid a straight line is far off for the little that an idling engine takes.
    columns[FILTER] = strainer_kpa(case.at.filter, delivered)
    columns[FEED], columns[PASSAGES], columns[SPLIT] = after_regulator(case, delivered)
    nothing = floats(np.zeros_like(taken))
    codes = np.where(starved, State.STARVED, np.where(rail > set_kpa + 1e-6, State.OVERRUN, State.REGULATING))
    found = (rail, delivered, delivered, nothing, nothing, nothing, at_set, speed, case.meant_dp, rail, list(columns))
    return asked_of(case, fastest, Solved(codes.astype(np.int64), *found))


def _speed_that_brings(case: Case) -> Floats:
    """Share of full speed at which the pumps bring just what is taken at the set pressure, of points of their own."""
    side = SupplySide.of(case.systems, case.drive)
    rise = side.rise_kpa(case.set_kpa, case.taken)

    def excess(speed: Floats) -> Floats:
        if side.boosted:
            return floats(case.supply(speed=speed).find(rail_column, case.set_kpa).column(FLOW) - case.taken)
        return floats(SupplySide.of(case.systems, case.at_speed(speed)).brought_m3_s(rise) - case.taken)

    slowest = floats(case.systems.slowest + 0.0 * case.taken)
    return rising_root(excess, slowest, np.ones_like(case.taken), _SPEED_WIDTH)


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
    regulated: Regulated | None = None

    def node_kpa(flow: Floats) -> Floats:
        """Pressure behind the supply side at a flow taken: what the pumps stand at, or what a bypass regulator makes."""
        nonlocal regulated
        before = floats(supply.shut(flow).column(RAIL))
        if dead:
            return before
        regulated = regulate(case, supply, back, flow, regulated)
        return floats(np.minimum(regulated.node, before))

    def inlet_kpa(flow: Floats, node: Floats) -> Floats:
        return floats(np.minimum(case.set_kpa - systems.droop_pa * flow, node) if dead else node)

    def passes(flow: Floats) -> Floats:
        across = floats(inlet_kpa(flow, node_kpa(flow)) - case.manifold)
        return floats(needle_area_flow_kg_s(needles, across, density) / density)

    enough = passes(taken) >= taken
    delivered = taken
    if not enough.all():
        most = np.maximum(taken, 1e-30)

        def excess(share: Floats) -> Floats:
            return floats(share - passes(floats(share * taken)) / most)

        share = rising_root(excess, np.zeros_like(taken), np.ones_like(taken), _SHARE_WIDTH)
        delivered = floats(np.where(enough, taken, share * taken))
    node = node_kpa(delivered)
    rail, starved = inlet_kpa(delivered, node), ~enough
    # Floats are content down to their lowest pressure: that, not the set pressure, is what the pumps must reach.
    content = floats(systems.floats_kpa + case.manifold)
    at_set_place = supply.find(rail_column, content)
    place = supply.find(rail_column, node)
    held = node if regulated is None else regulated.held
    found = Regulated(at_set_place, at_set_place.column(FLOW), held, place, node, starved)
    solved = finish(case, back, found, place, node, rail, starved, delivered)
    if not dead:
        return solved
    nothing = floats(np.zeros_like(taken))
    codes = np.where(starved, State.STARVED, State.REGULATING).astype(np.int64)
    return replace(solved, state=codes, supply_m3_s=delivered, bypass_m3_s=nothing, return_kpa=nothing, floor_kpa=nothing)
