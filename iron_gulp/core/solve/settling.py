"""The direct rails' steady state where the node they are fed from stands at a pressure (physics §7).

At a known inlet a pump's rail is known in closed form: what it brings falls in proportion with the rail's pressure, what
the window passes rises with its root. Left to seek is one flow: a rail's own where every pump has a line of its own, the
flow of all where they are fed one after the other. Pumps that share a rail unevenly, or are known by a table, are sought
in turns.
"""

from collections.abc import Callable
from dataclasses import dataclass
from typing import Any

import numpy as np
from numpy.typing import NDArray

from ..physics import Floats, floats, rising_root, take
from .high_side import HighAt, RailState

_NEAR = 1e-8  # of the flow: two looks this near to each other need no third
_NEAR_CEILING = 1e-6  # what the controller is told the direct side holds
_LOOKS = 4
_KG_S = 1e-12  # how near flows are found
_KG_S_SHARED = 1e-10  # where each look at a flow has turns of its own
_NODE_KPA = 1e-7
_ALIKE = 1e-9  # flows this near to each other, of the flow, are the same
_CLOSED = 1e-6  # of the rail pressure, where window and rail meet
_TURNS = 60
_NEARING = 0.9
_RAIL_KPA = 1e-3
_SAGGED_KPA = 1e-7
_Found = tuple[list[Floats], list[Floats], list[Floats], list[Floats]]


@dataclass(frozen=True)
class Rails:
    """Direct rails settled at points: a list entry a rail, or a pump, each of shape (points,)."""

    state: list[NDArray[np.int64]]
    rail_kpa: list[Floats]
    delivered_kg_s: list[Floats]
    flow_kg_s: list[Floats]
    inlet_kpa: list[Floats]

    @property
    def total_kg_s(self) -> Floats:
        """All that the direct injectors pass."""
        return floats(sum(self.delivered_kg_s))


def settled(at: HighAt, node_kpa: Floats) -> Rails:
    """The steady state of the rails where the node stands at a pressure.

    Delivered is the most, over rail pressures from the floor to the target, of the least of what is wanted, what the
    pumps bring and what the window lets pass; the rail stands as high as that allows.
    """
    asked, flows, inlets, short = _asked(at, node_kpa)
    rails, delivered = [at.target_kpa] * len(at.rails), asked
    if short.size:
        part = _settle(*_short_of(at, node_kpa, asked, short))
        lists = (rails, delivered, flows, inlets)
        rails, delivered, flows, inlets = (
            [_put(one, short, piece) for one, piece in zip(whole, pieces, strict=True)]
            for whole, pieces in zip(lists, part, strict=True)
        )
    wanted = floats(at.wanted_kg_s / len(at.rails))
    # Where nothing comes at any pressure no rail stands: it is at its floor, not at its target.
    rails = [
        floats(np.where((wanted > 0) & ~(flow > 0), at.floor_kpa, rail))
        for rail, flow in zip(rails, delivered, strict=True)
    ]
    states = [_state(at, wanted, rail, flow) for rail, flow in zip(rails, delivered, strict=True)]
    return Rails(states, rails, delivered, flows, inlets)


def passed_kg_s(at: HighAt, node_kpa: Floats) -> Floats:
    """All the rails pass, kg/s, with the node at a pressure; how high they stand is left out where it takes turns."""
    if explicit(at):
        return settled(at, node_kpa).total_kg_s
    asked, _, _, short = _asked(at, node_kpa)
    total = floats(sum(asked))
    if short.size:
        total = _put(total, short, floats(sum(_flows_in_turns(*_short_of(at, node_kpa, asked, short)))))
    return total


def _asked(at: HighAt, node_kpa: Floats) -> tuple[list[Floats], list[Floats], list[Floats], NDArray[np.int64]]:
    """What each rail is asked for, flow and inlet of each pump for that, and at which points some pump brings less."""
    count = len(at.rails)
    most = floats(np.minimum(at.wanted_kg_s / count, at.window_kg_s(at.target_kpa) / count))
    asked = [most for _ in range(count)]
    flows, inlets = _shared(at, node_kpa, asked, [at.target_kpa] * count, None)
    able = [one >= most * (1.0 - _ALIKE) for one in _each_brought(at, at.target_kpa, inlets)]
    return asked, flows, inlets, np.flatnonzero(~np.logical_and.reduce(able))


def _short_of(
    at: HighAt, node_kpa: Floats, asked: list[Floats], short: NDArray[np.int64]
) -> tuple[HighAt, Floats, list[Floats]]:
    """The same points alone."""
    node = node_kpa[short] if node_kpa.size > 1 else node_kpa
    return take(at, short), floats(node + np.zeros(short.size)), [one[short] for one in asked]


def _put(whole: Floats, where: Any, piece: Floats) -> Floats:
    changed = whole.copy()
    changed[where] = piece
    return changed


def _state(at: HighAt, wanted: Floats, rail_kpa: Floats, delivered: Floats) -> NDArray[np.int64]:
    satisfied, holds = delivered >= wanted * (1.0 - _ALIKE), rail_kpa >= at.target_kpa * (1.0 - _ALIKE)
    closed = at.cylinder_kpa + (delivered / (at.passes / len(at.rails))) ** 2 >= rail_kpa * (1.0 - _CLOSED)
    above = rail_kpa > at.floor_kpa * (1.0 + _CLOSED)
    found = np.where(closed | above, RailState.CLOSED_SAGGING, RailState.LEAN)
    found = np.where(holds & (delivered > 0), RailState.CLOSED_AT_TARGET, found)
    found = np.where(satisfied, np.where(holds, RailState.HOLDS, RailState.SAGS), found)
    return np.asarray(found, dtype=np.int64)


def _each_brought(at: HighAt, rail_kpa: Floats, inlets: list[Floats]) -> list[Floats]:
    """What the pumps of every rail bring at a pressure; like pumps with one inlet are worked out once."""
    found: list[Floats] = []
    for number, rail in enumerate(at.rails):
        first = next(
            (
                earlier
                for earlier in range(number)
                if len(rail) == len(at.rails[earlier]) == 1
                and at.like[rail[0]] == at.like[at.rails[earlier][0]]
                and inlets[rail[0]] is inlets[at.rails[earlier][0]]
            ),
            None,
        )
        found.append(_brought(at, rail, rail_kpa, inlets) if first is None else found[first])
    return found


def _brought(at: HighAt, rail: tuple[int, ...], rail_kpa: Floats, inlets: list[Floats]) -> Floats:
    return floats(sum(at.capacity_kg_s(number, rail_kpa, inlets[number]) for number in rail))


def _settle(at: HighAt, node: Floats, asked: list[Floats]) -> _Found:
    """Rails where the pumps do not bring what is asked at the target: (rails, delivered, flows, inlets)."""
    if not explicit(at):
        return _in_turns(at, node, asked)
    if at.series:
        most = floats(sum(asked))
        total = _settled_flow(lambda which, flow: _over_chain(_of(at, which), _of(node, which), flow), most)
        flows, inlets = _chained(at, node, total)
        delivered = [flows[rail[0]] for rail in at.rails]
    else:
        delivered = _own_flows(at, node, asked)
        flows = at.by_displacement(delivered)
        inlets = at.inlets_kpa(node, flows)
    rails = [_rail_kpa(at, rail, flow, inlets) for rail, flow in zip(at.rails, delivered, strict=True)]
    return rails, delivered, flows, inlets


def explicit(at: HighAt) -> bool:
    """Whether every rail's state follows in closed form from its pump's inlet."""
    if any(pump.measured is not None for pump in at.pumps):
        return False
    return all(len(rail) == 1 or (not at.series and _alike(at, rail)) for rail in at.rails)


def _alike(at: HighAt, pumps: tuple[int, ...]) -> bool:
    """Whether pumps and their lines are the same in every number, so that they carry the same."""

    def numbers(number: int) -> list[Floats]:
        pump, line = at.pumps[number], at.branches[number] if at.branches else None
        own = [pump.swept_m3_s, pump.follows, pump.loss, pump.full_kg_s]
        return own if line is None else [*own, line.bore_mm, line.length_m, line.k_sum, line.k_per_re, line.roughness_um]

    first = numbers(pumps[0])
    return all(
        all(one is other or np.array_equal(one, other) for one, other in zip(first, numbers(number), strict=True))
        for number in pumps[1:]
    )


def _delivers(at: HighAt, rail: tuple[int, ...], inlet_kpa: Floats) -> Floats:
    """What a rail delivers with its (like) pumps' inlets at a pressure: the most of the least, in closed form, kg/s."""
    pump, count = at.pumps[rail[0]], len(at.rails)
    full = floats(len(rail) * pump.full_kg_s * at.fill(rail[0], inlet_kpa))
    passes = at.passes / count
    at_floor = full * np.maximum(1.0 - pump.loss * (at.floor_kpa - inlet_kpa), 0.0)
    # Where pumps and window meet: flow = full (1 − loss (cylinder + (flow ÷ passes)² − inlet)).
    bare = full * np.maximum(1.0 - pump.loss * (at.cylinder_kpa - inlet_kpa), 0.0)
    meets = 2.0 * bare / (1.0 + np.sqrt(1.0 + 4.0 * pump.loss * full * bare / passes**2))
    most = np.minimum(at.wanted_kg_s / count, passes * np.sqrt(np.maximum(at.target_kpa - at.cylinder_kpa, 0.0)))
    return floats(np.minimum(np.minimum(most, at_floor), meets))


def _own_flows(at: HighAt, node: Floats, asked: list[Floats]) -> list[Floats]:
    """Flow of every rail whose pumps have lines of their own; like rails are worked out once."""
    found: dict[int, Floats] = {}
    for number, (rail, most) in enumerate(zip(at.rails, asked, strict=True)):
        first = at.like[rail[0]]
        twin = next((one for one in found if at.like[at.rails[one][0]] == first and asked[one] is most), None)
        found[number] = _own_flow(at, rail, node, most) if twin is None else found[twin]
    return list(found.values())


def _own_flow(at: HighAt, rail: tuple[int, ...], node: Floats, most: Floats) -> Floats:
    """Flow of a rail whose pumps have lines of their own, kg/s."""
    return _settled_flow(lambda which, flow: _over_own(_of(at, which), rail, _of(node, which), flow), most)


def _over_own(at: HighAt, rail: tuple[int, ...], node: Floats, flow: Floats) -> Floats:
    inlet = floats(node - at.branch_kpa(rail[0], floats(flow / len(rail))))
    return floats(flow - _delivers(at, rail, inlet))


def _over_chain(at: HighAt, node: Floats, total: Floats) -> Floats:
    return floats(total - sum(_chained(at, node, total)[0]))


def _chained(at: HighAt, node: Floats, total: Floats) -> tuple[list[Floats], list[Floats]]:
    """Flow and inlet of each pump fed one after the other, where so much enters the first line."""
    left, before, flows, inlets = total, node, [], []
    owner = {pump: rail for rail in at.rails for pump in rail}
    for number in range(len(at.pumps)):
        here = floats(before - at.branch_kpa(number, floats(np.maximum(left, 0.0))))
        flow = _delivers(at, owner[number], here)
        flows.append(flow)
        inlets.append(here)
        left, before = floats(left - flow), here
    return flows, inlets


def _rail_kpa(at: HighAt, rail: tuple[int, ...], flow: Floats, inlets: list[Floats]) -> Floats:
    """The highest rail pressure at which like pumps bring a flow, from where the window passes it up to the target."""
    pump, inlet = at.pumps[rail[0]], inlets[rail[0]]
    full = len(rail) * pump.full_kg_s * at.fill(rail[0], inlet)
    with np.errstate(divide="ignore", invalid="ignore"):
        highest = inlet + (1.0 - flow * (1.0 - _ALIKE) / full) / pump.loss
    highest = np.where(full > 0, highest, -np.inf)
    return floats(np.clip(highest, _lowest_rail_kpa(at, flow), at.target_kpa))


def sunk_kpa(at: HighAt, brings: Callable[[Floats], Floats], highest_kpa: Floats) -> Floats | None:
    """The node's pressure at which the rails take what is left for them there, kg/s; None where that takes turns."""
    rail, count = at.rails[0], len(at.rails)
    twins = all(len(one) == len(rail) and at.like[one[0]] == at.like[rail[0]] for one in at.rails)
    if not explicit(at) or not (at.series or twins):
        return None

    def excess(node: Floats) -> Floats:
        left = brings(node)  # less than nothing where the port side takes more than there is
        flow = floats(np.maximum(left, 0.0))
        if at.series:
            return floats(sum(_chained(at, node, flow)[0]) - left)
        inlet = node - at.branch_kpa(rail[0], floats(flow / count / len(rail)))
        return floats(_delivers(at, rail, floats(inlet)) * count - left)

    lowest = floats(np.minimum(at.lowest_kpa, highest_kpa))
    return rising_root(excess, lowest, highest_kpa, _NODE_KPA)


def _shared(
    at: HighAt, node: Floats, each_rail: list[Floats], rails_kpa: list[Floats], start: list[Floats] | None
) -> tuple[list[Floats], list[Floats]]:
    """Flow and inlet of each pump: those of a rail have the same command, so they share by what each could bring."""
    flows = at.by_displacement(each_rail) if start is None else start
    inlets = at.inlets_kpa(node, flows)
    if all(len(rail) == 1 for rail in at.rails):
        return flows, inlets
    before: list[Floats] | None = None
    for _ in range(_TURNS):
        moved = _shares(at, each_rail, rails_kpa, inlets)
        change = max(float(np.max(np.abs(new - old), initial=0.0)) for new, old in zip(moved, flows, strict=True))
        if change < _KG_S * 10:
            return moved, at.inlets_kpa(node, moved)
        # Each turn leaves about the same part of what the last one left: two of them tell where they lead.
        ahead = None if before is None else [_led(*three) for three in zip(before, flows, moved, strict=True)]
        before, flows = (flows, moved) if ahead is None else (None, _of_their_rails(at, each_rail, ahead))
        inlets = at.inlets_kpa(node, flows)
    return flows, inlets


def _shares(at: HighAt, each_rail: list[Floats], rails_kpa: list[Floats], inlets: list[Floats]) -> list[Floats]:
    """Flow of each pump with the inlets as they are."""
    found: dict[int, Floats] = {}
    for rail, flow, pressure in zip(at.rails, each_rail, rails_kpa, strict=True):
        able = [at.capacity_kg_s(number, pressure, inlets[number]) for number in rail]
        total = floats(sum(able))
        for number, one in zip(rail, able, strict=True):
            with np.errstate(divide="ignore", invalid="ignore"):
                found[number] = floats(np.where(total > 0, flow * one / total, flow / len(rail)))
    return [found[number] for number in range(len(found))]


def _led(first: Floats, second: Floats, third: Floats) -> Floats:
    """Where three values that near a last one by the same part each time lead (Aitken); the third where unsure."""
    went, goes = second - first, third - second
    with np.errstate(divide="ignore", invalid="ignore"):
        part = np.where(went != 0, goes / went, 1.0)
        led = third + goes * part / (1.0 - part)
    return floats(np.where((np.abs(part) < _NEARING) & (led >= 0), led, third))


def _of_their_rails(at: HighAt, each_rail: list[Floats], flows: list[Floats]) -> list[Floats]:
    """The same shares of what each rail carries."""
    found = list(flows)
    for rail, whole in zip(at.rails, each_rail, strict=True):
        total = floats(sum(flows[number] for number in rail))
        for number in rail:
            with np.errstate(divide="ignore", invalid="ignore"):
                found[number] = floats(np.where(total > 0, flows[number] * whole / total, whole / len(rail)))
    return found


def _lowest_rail_kpa(at: HighAt, flow: Floats) -> Floats:
    """Lowest rail pressure at which a rail's window passes a flow, or the floor."""
    needed = at.cylinder_kpa + (flow / (at.passes / len(at.rails))) ** 2
    return floats(np.clip(needed, at.floor_kpa, at.target_kpa))


def _flows_in_turns(at: HighAt, node: Floats, asked: list[Floats]) -> list[Floats]:
    """Flow of every rail, with any pumps: each in turn, the others' as they are, until nothing moves."""
    delivered, latest = list(asked), list[Floats]()
    lone = all(len(rail) == 1 for rail in at.rails)
    together = at.series and len(at.rails) > 1
    for _ in range(_TURNS if together else 1):
        before = list(delivered)
        for number, rail in enumerate(at.rails):

            def excess(flow: Floats, number: int = number, rail: tuple[int, ...] = rail) -> Floats:
                each = [*delivered[:number], flow, *delivered[number + 1 :]]
                lowest = _lowest_rail_kpa(at, flow)
                if lone:
                    inlets = at.inlets_kpa(node, [each[_rail_of(at, pump)] for pump in range(len(at.pumps))])
                else:
                    start = _of_their_rails(at, each, latest) if latest else None
                    flows, inlets = _shared(at, node, each, [lowest] * len(at.rails), start)
                    latest[:] = flows
                return floats(flow - _brought(at, rail, lowest, inlets))

            near = _KG_S if lone else _KG_S_SHARED
            delivered[number] = rising_root(excess, np.zeros_like(node), asked[number], near)
        if max(float(np.max(np.abs(a - b), initial=0.0)) for a, b in zip(delivered, before, strict=True)) < near * 10:
            break
    return delivered


def _in_turns(at: HighAt, node: Floats, asked: list[Floats]) -> _Found:
    """The same as by `_settle` for any pumps."""
    delivered = _flows_in_turns(at, node, asked)
    lone = all(len(rail) == 1 for rail in at.rails)
    rails = [_lowest_rail_kpa(at, flow) for flow in delivered]
    flows, inlets = _shared(at, node, delivered, rails, None)
    for _ in range(1 if lone else _TURNS):
        before = rails
        rails = [_sagged(at, rail, flow, inlets) for rail, flow in zip(at.rails, delivered, strict=True)]
        if lone:
            break
        flows, inlets = _shared(at, node, delivered, rails, flows)
        if max(float(np.max(np.abs(a - b), initial=0.0)) for a, b in zip(rails, before, strict=True)) < _RAIL_KPA:
            break
    return rails, delivered, flows, inlets


def _rail_of(at: HighAt, pump: int) -> int:
    return next(number for number, rail in enumerate(at.rails) if pump in rail)


def _sagged(at: HighAt, rail: tuple[int, ...], flow: Floats, inlets: list[Floats]) -> Floats:
    """The highest rail pressure at which the pumps bring a flow, from where the window passes it up to the target."""

    def excess(pressure: Floats) -> Floats:
        return floats(flow * (1.0 - _ALIKE) - _brought(at, rail, pressure, inlets))

    return rising_root(excess, _lowest_rail_kpa(at, flow), at.target_kpa, _SAGGED_KPA)


def ceiling_kg_s(at: HighAt, node_kpa: Floats) -> Floats:
    """What the direct side holds at its target with the node at a pressure, kg/s: as much as every rail still brings
    with all of them, and so the inlets, at that flow, and as the windows pass."""
    count = len(at.rails)
    most = floats(at.window_kg_s(at.target_kpa) / count)

    def over(some: HighAt, node: Floats, flow: Floats) -> Floats:
        each = [flow] * count
        _, inlets = _shared(some, node, each, [some.target_kpa] * count, None)
        return floats(np.maximum.reduce([flow - one for one in _each_brought(some, some.target_kpa, inlets)]))

    short = np.flatnonzero(over(at, node_kpa, most) > 0)
    if short.size:
        some, node = take(at, short), node_kpa[short] if node_kpa.size > 1 else node_kpa
        most = _put(
            most,
            short,
            _settled_flow(lambda which, flow: over(_of(some, which), _of(node, which), flow), most[short], _NEAR_CEILING),
        )
    return floats(most * count)


def _of(rows: Any, which: Any) -> Any:
    """Rows at an index; all of them for None."""
    return rows if which is None else take(rows, which)


def _settled_flow(over: Callable[[Any, Floats], Floats], most: Floats, near: float = _NEAR) -> Floats:
    """The flow at which nothing is asked beyond what is brought; `over(which, flow)` asks at some of the points.

    What is brought hardly falls with the flow unless an inlet chokes: a few looks settle most points, each from the other
    side of the last; the rest are sought between the last two.
    """
    low, high = floats(np.zeros_like(most)), most
    for _ in range(_LOOKS):
        low, high = high, floats(np.clip(high - over(None, high), 0.0, most))
        if np.all(np.abs(high - low) <= near * most):
            return high
    open_ = np.flatnonzero(np.abs(high - low) > near * most)
    ends = floats(np.minimum(low, high)[open_]), floats(np.maximum(low, high)[open_])
    return _put(high, open_, rising_root(lambda flow: over(open_, flow), *ends, _KG_S))


def at_target_kg_s(at: HighAt, node_kpa: Floats) -> Floats:
    """What the pumps bring at the target with their inlets as they are at the flow delivered there, kg/s: the least
    rail's times the rails."""
    count = len(at.rails)
    wanted = floats(at.wanted_kg_s / count)
    most = floats(np.minimum(wanted, at.window_kg_s(at.target_kpa) / count))
    _, inlets = _shared(at, node_kpa, [most] * count, [at.target_kpa] * count, None)
    return floats(np.minimum.reduce([_brought(at, rail, at.target_kpa, inlets) for rail in at.rails]) * count)
