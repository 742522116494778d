"""A regulator before the engine, near the tank: the feed carries only what the engine takes and its drop stays."""

from collections.abc import Callable
from dataclasses import replace
from functools import partial
from typing import Any

import numpy as np

from ..physics import Floats, floats, rising_root
from .case import Case, Solved
from .curves import COLUMNS, FLOW, RAIL
from .feeding import Taking
from .regulating import Regulated, after_regulator, asked_of, finish, rail_column, regulate
from .systems import port_most_kpa, port_set_kpa

_WIDE_OPEN = 1e3  # m³/s a root of a kilopascal: injectors of no known limit
_SHARE_WIDTH, _NODE_WIDTH = 1e-9, 1e-9
_RAISES = 12  # rounds of a node above its set pressure and of what injectors held open then pass


def near_tank(case: Case) -> Solved:
    """Regulator before the engine, near the tank: the feed carries only engine flow and its drop is not corrected.

    The drop repeats, so the calibration has it in: pulses are for the differential left at the demand, and mixture holds
    until the injectors are held open or the pumps fall short.
    """
    supply = case.supply(with_feed=False)
    back = case.back(supply)
    if case.high is not None:
        return _near_tank_fed(case, supply, back)
    behind = floats(case.set_kpa - sum(after_regulator(case, case.wanted)))
    meant = floats(port_set_kpa(case.at, behind, case.manifold) - case.manifold)
    with np.errstate(divide="ignore", invalid="ignore"):
        pulse = np.where(meant > 0, case.wanted / np.sqrt(meant), np.inf)
        # What passes a root of a kilopascal at that pulse, and at most with the injectors held open.
        opened = floats(np.minimum(np.minimum(pulse, case.open_limit / np.sqrt(case.meant_dp)), _WIDE_OPEN))
    taken = case.wanted.copy()
    held_open = np.flatnonzero((opened < pulse) & (case.meant_dp > 0))
    if held_open.size:
        own = case.of(held_open)
        taken[held_open] = _passed(own, opened[held_open], own.wanted, lambda _flow: own.set_kpa)
    taken[~(case.meant_dp > 0)] = 0.0
    found = regulate(replace(case, taken=taken), supply, back, taken)
    for _ in range(_RAISES):
        # A node above its set pressure pushes more through injectors held open, which lets it down again.
        above = held_open[(found.node[held_open] > case.set_kpa[held_open] + 1e-6) & ~found.starved[held_open]]
        if not above.size:
            break
        own = case.of(above)
        more = _passed(own, opened[above], own.wanted, partial(_held, found.node[above]))
        if np.all(np.abs(more - taken[above]) <= 1e-9 * more):
            break
        taken = taken.copy()
        taken[above] = more
        found = regulate(replace(case, taken=taken), supply, back, taken, found)
    node, place, delivered = found.node, found.place, taken
    short = np.flatnonzero(found.starved)
    if short.size:
        # The regulator is shut: the node sits where the pumps bring just what its pressure pushes through the injectors.
        node, delivered, own = node.copy(), delivered.copy(), case.of(short)
        flow = _passed(own, opened[short], taken[short], lambda flow: floats(supply.shut(flow, short).column(RAIL)))
        # Pumps running free bring no more, however low the node sinks.
        flow = floats(np.minimum(flow, supply.shut(flow, short).column(FLOW)))
        delivered[short] = flow
        node[short] = own.manifold + sum(after_regulator(own, flow)) + (flow / np.maximum(opened[short], 1e-12)) ** 2
        if own.at.port_regulator is not None:
            # A regulator of its own takes the rest down: the node stands where the pumps bring just that.
            node[short] = np.maximum(node[short], supply.shut(flow, short).column(RAIL))
        place = place.replaced(short, supply.find(rail_column, node).part(short))
    return _finish_near_tank(case, back, found, place, node, delivered, meant)


def _finish_near_tank(
    case: Case, back: Any, found: Regulated, place: Any, node: Floats, delivered: Floats, meant: Floats
) -> Solved:
    """The rail and what lies before it, behind a regulator whose node stands at a pressure."""
    lost = after_regulator(case, delivered)
    rail = floats(node - sum(lost))
    solved = finish(case, back, found, place, node, rail, found.starved, delivered)
    for name, one in zip(("feed_kpa", "passages_kpa", "split_kpa"), lost, strict=True):
        solved.columns[COLUMNS[name]] = one
    return replace(solved, meant_kpa=meant, asked_kpa=rail)


def _near_tank_fed(case: Case, supply: Any, back: Any) -> Solved:
    """Regulator near the tank with a high side at the end of the feed, where what is taken makes its own pressure."""
    behind = floats(case.set_kpa - sum(after_regulator(case, case.wanted)))
    meant = floats(port_set_kpa(case.at, behind, case.manifold) - case.manifold)
    with np.errstate(divide="ignore", invalid="ignore"):
        most = case.open_limit * np.sqrt(np.maximum(meant, 0.0) / case.meant_dp)
    port = np.where((meant > 0) & (case.meant_dp > 0), np.fmin(case.metered, most), 0.0)
    taking = replace(case.taking(meant), port_m3_s=floats(port))
    taken = _behind_regulator(case, taking)
    found = regulate(replace(case, taken=taken), supply, back, taken)
    node, place, delivered = found.node, found.place, taken
    short = np.flatnonzero(found.starved)
    if short.size:
        node, delivered, own, fed = node.copy(), delivered.copy(), case.of(short), taking.of(short)

        def brings(rail: Floats, flow: Floats) -> Floats:
            before = floats(rail + sum(after_regulator(own, flow)))
            return floats(supply.find(rail_column, before, None, short).column(FLOW))

        sunk = fed.node_by_taken_kpa(brings, own.set_kpa)
        delivered[short] = fed.at(sunk)
        node[short] = sunk + sum(after_regulator(own, delivered[short]))
        place = place.replaced(short, supply.find(rail_column, node[short], None, short))
    return asked_of(case, supply, _finish_near_tank(case, back, found, place, node, delivered, meant))


def _behind_regulator(case: Case, taking: Taking) -> Floats:
    """What a high side and the port side beside it take behind a regulator near the tank that holds its set pressure."""
    taken = case.wanted.copy()
    lost = floats(case.set_kpa - sum(after_regulator(case, case.wanted)))
    short = np.flatnonzero(taking.at(lost) < case.wanted * (1.0 - 1e-12))
    if short.size:
        own, fed = case.of(short), taking.of(short)

        def over(rail: Floats) -> Floats:
            return floats(rail + sum(after_regulator(own, fed.at(rail))) - own.set_kpa)

        lowest = floats(np.minimum(fed.high.lowest_kpa, own.set_kpa))
        taken[short] = fed.at(rising_root(over, lowest, own.set_kpa, _NODE_WIDTH))
    return taken


def _held(node_kpa: Floats, _flow: Floats) -> Floats:
    """A node that stands where it is, whatever flows."""
    return node_kpa


def _passed(case: Case, opened: Floats, most: Floats, node: Callable[[Floats], Floats]) -> Floats:
    """What injectors pass behind the drops after a node, up to `most`, m³/s; `opened` a root of a kilopascal."""
    most_kpa = port_most_kpa(case.at, case.manifold)

    def excess(share: Floats) -> Floats:
        flow = floats(share * most)
        left = np.minimum(node(flow) - sum(after_regulator(case, flow)) - case.manifold, most_kpa)
        return floats(flow - opened * np.sqrt(np.maximum(left, 0.0)))

    return floats(rising_root(excess, np.zeros_like(most), np.ones_like(most), _SHARE_WIDTH) * most)
