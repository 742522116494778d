"""Where supply, regulator and engine meet, one function an arrangement, for points of arrays of systems.

Every function takes a `Case` and gives a `Solved`.
"""

from collections.abc import Callable
from dataclasses import dataclass, replace
from enum import IntEnum
from typing import Any

import numpy as np
from numpy.typing import NDArray

from ..physics import Floats, acceleration_head_kpa, floats, level, mapped, rising_root, take
from .carburettors import needle_area_flow_kg_s
from .curves import COLUMNS, FLOOR, FLOW, LINE, RAIL, Drive, Index, ReturnSide, SupplySide
from .feeding import Taking
from .high_side import HighAt
from .pipes import FluidState, branches_kpa, pipe_kpa, pipes_kpa
from .seeking import Place, TabledBack, TabledSupply, WalkedBack, WalkedSupply
from .systems import Systems, port_set_kpa
from .tables import return_table, supply_table

_WIDE_OPEN = 1e3  # m³/s a root of a kilopascal: injectors of no known limit
_SPEED_WIDTH, _SHARE_WIDTH, _NODE_WIDTH = 1e-11, 1e-9, 1e-9
_RAISES = 8  # rounds of a node above its set pressure and of what is then taken
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
    shape (points,): `meant_dp` is the differential meant by the set pressure `set_kpa`,
    `taken` the fuel taken at it: what is `wanted`, or what injectors held open pass there (`open_limit`), all m³/s.
    """

    systems: Systems
    drive: Drive
    row: Index | None
    at: Systems
    fluid: FluidState
    manifold: Floats
    set_kpa: Floats
    meant_dp: Floats
    taken: Floats
    wanted: Floats
    open_limit: Floats
    high: HighAt | None = None

    def supply(self, with_feed: bool = True, speed: Floats | None = None) -> Any:
        """The supply side, at a share of full speed."""
        drive = self.drive if speed is None else self.at_speed(speed)
        if self.row is None:
            return WalkedSupply(SupplySide.of(self.systems, drive, with_feed))
        return TabledSupply(supply_table(self.systems, drive, with_feed), self._tabled_row)

    def back(self, supply: Any) -> Any:
        """The return side, up to all the pumps can bring."""
        side = ReturnSide(self.systems.back, floats(supply.most_m3_s() * 1.05), self.drive.fluid)
        if self.row is None:
            return WalkedBack(side)
        return TabledBack(return_table(side), side.step_m3_s(), self._tabled_row)

    def at_speed(self, speed: Floats) -> Drive:
        """What drives the pumps at a share of full speed."""
        return replace(self.drive, speed=floats(speed + 0.0 * self.drive.supply_v))

    def of(self, only: Index) -> "Case":
        """Some of the points, each with a curve of its own."""
        of = only if self.row is None else self.row[only]
        drive = mapped(take(self.drive, of), lambda array: np.broadcast_to(array, (*array.shape[:-1], only.size)).copy())
        systems, fluid = take(self.at, only), take(self.fluid, only)
        manifold, set_kpa, meant_dp, taken, wanted, opened = (one[only] for one in self._points())
        boosted = any(group.boosting for group in systems.groups)
        row = np.arange(only.size) if boosted else None
        high = None if self.high is None else take(self.high, only)
        return Case(systems, drive, row, systems, fluid, manifold, set_kpa, meant_dp, taken, wanted, opened, high)

    def _points(self) -> tuple[Floats, ...]:
        return self.manifold, self.set_kpa, self.meant_dp, self.taken, self.wanted, self.open_limit

    @property
    def draws(self) -> NDArray[np.bool_]:
        """Where anything can be taken at all: by a high side, or with differential pressure."""
        return self.meant_dp > 0 if self.high is None else (self.meant_dp > 0) | (self.high.wanted_kg_s > 0)

    def taking(self, meant_kpa: Floats | None = None) -> Taking:
        """What a high side takes, and the port side beside it. Raises AssertionError without one."""
        assert self.high is not None
        return Taking(self.high, self.taken, self.manifold, self.meant_dp if meant_kpa is None else meant_kpa)

    @property
    def _tabled_row(self) -> Index | None:
        return None if self.drive.supply_v.size == 1 else self.row


@dataclass(frozen=True)
class Solved:
    """What an arrangement finds: arrays of shape (points,), `columns` are those of the supply side.

    `meant_kpa` is the differential pressure at the engine that pulses are meant for, pumps sufficing.
    """

    state: NDArray[np.int64]
    rail_kpa: Floats
    supply_m3_s: Floats
    delivered_m3_s: Floats
    bypass_m3_s: Floats
    return_kpa: Floats
    floor_kpa: Floats
    supply_at_set_m3_s: Floats
    speed: Floats
    meant_kpa: Floats
    asked_kpa: Floats
    columns: list[Floats]

    def arrays(self) -> list[Floats]:
        """Every array, the columns last."""
        return [*(getattr(self, name) for name in _SINGLE), *self.columns]

    @classmethod
    def of(cls, arrays: list[Floats]) -> "Solved":
        """From arrays in that order."""
        single: dict[str, Any] = dict(zip(_SINGLE, arrays[: len(_SINGLE)], strict=True))
        return cls(**single, columns=arrays[len(_SINGLE) :])


_SINGLE = tuple(name for name in Solved.__dataclass_fields__ if name != "columns")


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
    taking, case = _with_high_side(case)
    found = _regulate(case, supply, back, case.taken)
    if taking is not None:
        case, found = _raised(case, taking, found, lambda taken: _regulate(case, supply, back, taken))
    rail, place, delivered = found.node, found.place, case.taken
    short = np.flatnonzero(found.starved)
    if short.size:
        rail, delivered = rail.copy(), delivered.copy()
        rail[short], sunk = _sunk(case, taking, supply, found.at_set, short)
        place = place.replaced(short, sunk)
        delivered[short] = _passing(case, rail, short) if taking is None else taking.of(short).at(rail[short])
    solved = _finish(case, back, found, place, rail, rail, found.starved, delivered)
    return _asked_of(case, supply, solved)


def _with_high_side(case: Case) -> tuple[Taking | None, Case]:
    """What a high side takes with its node at the set pressure, added to what the port injectors take."""
    if case.high is None:
        return None, case
    taking = case.taking()
    return taking, replace(case, taken=floats(case.taken + taking.direct_m3_s(case.set_kpa)))


def _raised(
    case: Case, taking: Taking, found: _Regulated, regulate: Callable[[Floats], _Regulated]
) -> tuple[Case, _Regulated]:
    """A node above its set pressure fills the high-pressure pumps better: where they fall short they then take more."""
    high = taking.high
    for _ in range(_RAISES):
        least = np.where(found.starved, np.inf, floats(case.taken - taking.port_m3_s) * high.low_density)
        some = np.flatnonzero((least < high.wanted_kg_s * (1.0 - 1e-9)) & (found.node > case.set_kpa + 1e-6))
        more = taking.of(some).at(found.node[some])
        if not some.size or np.all(np.abs(more - case.taken[some]) < 1e-12):
            break
        taken = case.taken.copy()
        taken[some] = more
        case = replace(case, taken=taken)
        found = regulate(taken)
    return case, found


def _sunk(case: Case, taking: Taking | None, supply: Any, at_set: Floats, short: Index) -> tuple[Floats, Any]:
    """Rail of starved points, and where on the supply side it lies."""
    if taking is None:
        return _starved(case, supply, at_set, short)
    fed = taking.of(short)
    rail = fed.node_kpa(lambda node: supply.find(_rail, node, None, short).column(FLOW), case.set_kpa[short])
    return rail, supply.find(_rail, rail, None, short)


def _asked_of(case: Case, supply: Any, solved: Solved) -> Solved:
    """With a high side: the pressure at which the pumps would bring all that is wanted."""
    if case.high is None:
        return solved
    asked = solved.rail_kpa.copy()
    short = np.flatnonzero(solved.supply_at_set_m3_s < case.wanted)
    if short.size:
        lowest = case.high.lowest_kpa[short]
        place = supply.shut(case.wanted[short], short)
        free = place.ends(FLOW)[0] < case.wanted[short]
        asked[short] = np.where(free, lowest, np.maximum(place.column(RAIL) - _lost_kpa(case, short), lowest))
    return replace(solved, asked_kpa=asked)


def _lost_kpa(case: Case, only: Index) -> Floats:
    """What is lost behind a regulator near the tank with all that is wanted; nothing where it stands at the rail."""
    if case.systems.arrangement != "bypass near the tank":
        return floats(np.zeros(only.size))
    own = case.of(only)
    return floats(sum(_after_regulator(own, own.wanted)))


def near_tank(case: Case) -> Solved:
    """Regulator before the engine, near the tank: the feed carries only engine flow and its drop is not corrected.

    The drop repeats, so the calibration has it in: pulses are for the differential left at the demand, and mixture holds
    until the injectors are held open or the pumps fall short.
    """
    supply = case.supply(with_feed=False)
    back = case.back(supply)
    if case.high is not None:
        return _near_tank_fed(case, supply, back)
    meant = floats(case.set_kpa - sum(_after_regulator(case, case.wanted)) - case.manifold)
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
    found = _regulate(replace(case, taken=taken), supply, back, taken)
    node, place, delivered = found.node, found.place, taken
    short = np.flatnonzero(found.starved)
    if short.size:
        # The regulator is shut: the node sits where the pumps bring just what its pressure pushes through the injectors.
        node, delivered, own = node.copy(), delivered.copy(), case.of(short)
        flow = _passed(own, opened[short], taken[short], lambda flow: floats(supply.shut(flow, short).column(RAIL)))
        # Pumps running free bring no more, however low the node sinks.
        flow = floats(np.minimum(flow, supply.shut(flow, short).column(FLOW)))
        delivered[short] = flow
        node[short] = own.manifold + sum(_after_regulator(own, flow)) + (flow / np.maximum(opened[short], 1e-12)) ** 2
        place = place.replaced(short, supply.find(_rail, node).part(short))
    return _finish_near_tank(case, back, found, place, node, delivered, meant)


def _finish_near_tank(
    case: Case, back: Any, found: _Regulated, place: Any, node: Floats, delivered: Floats, meant: Floats
) -> Solved:
    """The rail and what lies before it, behind a regulator whose node stands at a pressure."""
    lost = _after_regulator(case, delivered)
    rail = floats(node - sum(lost))
    solved = _finish(case, back, found, place, node, rail, found.starved, delivered)
    for name, one in zip(("feed_kpa", "passages_kpa", "split_kpa"), lost, strict=True):
        solved.columns[COLUMNS[name]] = one
    return replace(solved, meant_kpa=meant, asked_kpa=rail)


def _near_tank_fed(case: Case, supply: Any, back: Any) -> Solved:
    """Regulator near the tank with a high side at the end of the feed, where what is taken makes its own pressure."""
    behind = floats(case.set_kpa - sum(_after_regulator(case, case.wanted)))
    meant = floats(port_set_kpa(case.at, behind, case.manifold) - case.manifold)
    with np.errstate(divide="ignore", invalid="ignore"):
        most = case.open_limit * np.sqrt(np.maximum(meant, 0.0) / case.meant_dp)
    port = np.where((meant > 0) & (case.meant_dp > 0), np.fmin(case.taken, most), 0.0)
    taking = replace(case.taking(meant), port_m3_s=floats(port))
    taken = _behind_regulator(case, taking)
    found = _regulate(replace(case, taken=taken), supply, back, taken)
    node, place, delivered = found.node, found.place, taken
    short = np.flatnonzero(found.starved)
    if short.size:
        node, delivered, own, fed = node.copy(), delivered.copy(), case.of(short), taking.of(short)

        def brings(rail: Floats, flow: Floats) -> Floats:
            before = floats(rail + sum(_after_regulator(own, flow)))
            return floats(supply.find(_rail, before, None, short).column(FLOW))

        sunk = fed.node_by_taken_kpa(brings, own.set_kpa)
        delivered[short] = fed.at(sunk)
        node[short] = sunk + sum(_after_regulator(own, delivered[short]))
        place = place.replaced(short, supply.find(_rail, node[short], None, short))
    return _asked_of(case, supply, _finish_near_tank(case, back, found, place, node, delivered, meant))


def _behind_regulator(case: Case, taking: Taking) -> Floats:
    """What a high side and the port side beside it take behind a regulator near the tank that holds its set pressure."""
    taken = case.wanted.copy()
    lost = floats(case.set_kpa - sum(_after_regulator(case, case.wanted)))
    short = np.flatnonzero(taking.at(lost) < case.wanted * (1.0 - 1e-12))
    if short.size:
        own, fed = case.of(short), taking.of(short)

        def over(rail: Floats) -> Floats:
            return floats(rail + sum(_after_regulator(own, fed.at(rail))) - own.set_kpa)

        lowest = floats(np.minimum(fed.high.lowest_kpa, own.set_kpa))
        taken[short] = fed.at(rising_root(over, lowest, own.set_kpa, _NODE_WIDTH))
    return taken


def _after_regulator(case: Case, flow: Floats) -> tuple[Floats, Floats, Floats]:
    """Drops of feed, passages and split between a regulator near the tank and the engine, kPa."""
    systems, fluid = case.at, case.fluid
    head = acceleration_head_kpa(fluid.density_kg_m3, systems.feed.length_m, fluid.accel_g)
    feed = floats(pipe_kpa(systems.feed, flow, fluid) + head)
    return feed, pipes_kpa(systems.passages, flow, fluid), branches_kpa(systems.branches, flow, fluid, joined=False)


def _passed(case: Case, opened: Floats, most: Floats, node: Callable[[Floats], Floats]) -> Floats:
    """What injectors pass behind the drops after a node, up to `most`, m³/s; `opened` a root of a kilopascal."""

    def excess(share: Floats) -> Floats:
        flow = floats(share * most)
        left = node(flow) - sum(_after_regulator(case, flow)) - case.manifold
        return floats(flow - opened * np.sqrt(np.maximum(left, 0.0)))

    return floats(rising_root(excess, np.zeros_like(most), np.ones_like(most), _SHARE_WIDTH) * most)


def returnless(case: Case) -> Solved:
    """No return: pump speed is closed on rail pressure between the slowest speed and full speed."""
    taking, case = _with_high_side(case)
    taken, set_kpa, slowest = case.taken, case.set_kpa, case.at.slowest
    fastest = case.supply()
    place = fastest.find(_rail, set_kpa)
    at_set = place.column(FLOW)
    starved = (at_set < np.maximum(taken, _LEAST_M3_S)) & case.draws
    over = case.supply(speed=case.systems.slowest).find(_rail, set_kpa).column(FLOW) > taken
    columns = np.array(place.read())
    rail, delivered, speed = set_kpa.copy(), taken.copy(), floats(np.ones_like(taken))
    closed, idling, short = (np.flatnonzero(one) for one in (~starved & ~over, ~starved & over, starved))
    if closed.size:
        own = case.of(closed)
        speed[closed] = _speed_that_brings(own)
        columns[:, closed] = np.array(own.supply(speed=speed[closed]).find(_rail, own.set_kpa).read())
    if idling.size:
        own = case.of(idling)
        speed[idling] = floats(slowest + 0.0 * taken)[idling]
        slow = own.supply(speed=speed[idling]).shut(own.taken)
        rail[idling], columns[:, idling] = slow.column(RAIL), np.array(slow.read())
    if short.size:
        rail[short], sunk = _sunk(case, taking, fastest, at_set, short)
        columns[:, short] = np.array(sunk.read())
        delivered[short] = _passing(case, rail, short) if taking is None else taking.of(short).at(rail[short])
    nothing = floats(np.zeros_like(taken))
    codes = np.where(starved, State.STARVED, np.where(rail > set_kpa + 1e-6, State.OVERRUN, State.REGULATING))
    found = (rail, delivered, delivered, nothing, nothing, nothing, at_set, speed, case.meant_dp, rail, list(columns))
    return _asked_of(case, fastest, Solved(codes.astype(np.int64), *found))


def _speed_that_brings(case: Case) -> Floats:
    """Share of full speed at which the pumps bring just what is taken at the set pressure, of points of their own."""
    side = SupplySide.of(case.systems, case.drive)
    rise = side.rise_kpa(case.set_kpa, case.taken)

    def excess(speed: Floats) -> Floats:
        if side.boosted:
            return floats(case.supply(speed=speed).find(_rail, case.set_kpa).column(FLOW) - case.taken)
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
    regulated: _Regulated | None = None

    def node_kpa(flow: Floats) -> Floats:
        """Pressure behind the supply side at a flow taken: what the pumps stand at, or what a bypass regulator makes."""
        nonlocal regulated
        before = floats(supply.shut(flow).column(RAIL))
        if dead:
            return before
        regulated = _regulate(case, supply, back, flow, regulated and regulated.place)
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
    at_set = supply.find(_rail, content).column(FLOW)
    place = supply.find(_rail, node)
    held = node if regulated is None else regulated.held
    found = _Regulated(at_set, held, place, node, starved)
    solved = _finish(case, back, found, place, node, rail, starved, delivered)
    if not dead:
        return solved
    nothing = floats(np.zeros_like(taken))
    codes = np.where(starved, State.STARVED, State.REGULATING).astype(np.int64)
    return replace(solved, state=codes, supply_m3_s=delivered, bypass_m3_s=nothing, return_kpa=nothing, floor_kpa=nothing)


def _regulate(case: Case, supply: Any, back: Any, taken: Floats, start: Any = None) -> _Regulated:
    """A bypass regulator with `taken` drawn behind it."""
    at_set_kpa = supply.find(_rail, case.set_kpa, start)
    at_set = at_set_kpa.column(FLOW)
    # Pumps that stall below the set pressure starve even an engine that takes next to nothing.
    starved = (at_set < np.maximum(taken, _LEAST_M3_S)) & case.draws
    creep, place, brought = case.at.creep_pa, at_set_kpa, at_set
    if creep.any():
        # The set pressure plus creep times the flow bypassed, which itself falls as the rail rises.
        wanted = floats(case.set_kpa - creep * taken)
        place = supply.find(lambda columns, at: floats(columns[RAIL] - _pick(creep, at) * columns[FLOW]), wanted, place)
        brought = place.column(FLOW)
    # Below their first node pumps run free (a booster behind them lifts even that): the regulator takes the rest down.
    held = floats(np.minimum(place.column(RAIL), case.set_kpa + creep * np.maximum(brought - taken, 0.0)))
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
    return Solved(
        codes, rail, floats(brought), delivered, bypass, line, floor, found.at_set, full, case.meant_dp, rail, columns
    )


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
