"""A bypass regulator at work, and rails that sink where the pumps fall short, with and without a high side."""

from collections.abc import Callable
from dataclasses import dataclass, replace
from typing import Any

import numpy as np
from numpy.typing import NDArray

from ..physics import Floats, acceleration_head_kpa, floats, level
from .case import Case, Solved, State
from .curves import FLOOR, FLOW, LINE, RAIL
from .feeding import Taking
from .pipes import branches_kpa, pipe_kpa, pipes_kpa
from .pump_curves import Index
from .seeking import Place
from .systems import port_most_kpa

LEAST_M3_S = 1e-12  # far below any engine's demand; keeps the starved case defined without demand
_SETTLED = 1e-9  # of what is taken
_RAISES = 8  # rounds of a node above its set pressure and of what is then taken


@dataclass(frozen=True)
class Regulated:
    """A regulator at work: supply at the set pressure, pressure it would hold, where it stands, and who falls short.

    `set_place` is where the set pressure lies on the supply side, whatever is taken.
    """

    set_place: Place
    at_set: Floats
    held: Floats
    place: Place
    node: Floats
    starved: NDArray[np.bool_]


def rail_column(columns: Floats, _at: Any) -> Floats:
    """The rail's pressure among the columns of a supply side, kPa."""
    return floats(columns[RAIL])


def pick(values: Floats, at: Any) -> Floats:
    """Values at an index; one value for all stays one."""
    return values if values.shape[-1] == 1 else values[at]


def regulate(case: Case, supply: Any, back: Any, taken: Floats, before: Regulated | None = None) -> Regulated:
    """A bypass regulator with `taken` drawn behind it; `before` with something else taken."""
    at_set_kpa = supply.find(rail_column, case.set_kpa) if before is None else before.set_place
    at_set = at_set_kpa.column(FLOW)
    # Pumps that stall below the set pressure starve even an engine that takes next to nothing.
    starved = (at_set < np.maximum(taken, LEAST_M3_S)) & case.draws
    creep, place, brought = case.at.creep_pa, at_set_kpa, at_set
    if creep.any():
        # The set pressure plus creep times the flow bypassed, which itself falls as the rail rises.
        wanted = floats(case.set_kpa - creep * taken)
        place = supply.find(lambda columns, at: floats(columns[RAIL] - pick(creep, at) * columns[FLOW]), wanted, place)
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
    return Regulated(at_set_kpa, at_set, held, place, node, starved)


def finish(
    case: Case,
    back: Any,
    found: Regulated,
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


def passing(case: Case, rail: Floats, short: Index) -> Floats:
    """What injectors at the pulse meant for the set pressure pass at a sunk rail, m³/s."""
    left = np.maximum(rail[short] - case.manifold[short], 0.0)
    # Behind a regulator of its own the port rail stands as meant while the node is above that.
    return floats(case.taken[short] * np.sqrt(np.minimum(left / case.meant_dp[short], 1.0)))


def starved_rail(case: Case, supply: Any, at_set: Floats, short: Index) -> tuple[Floats, Any]:
    """Rail at which injectors, at the pulse meant for the set pressure, pass exactly what the pumps bring.

    Between two nodes flow is linear, so the crossing is a quadratic's root.
    """
    manifold = case.manifold[short]
    slopes = np.zeros_like(case.taken)
    slopes[short] = slope = np.maximum(case.taken[short], LEAST_M3_S) ** 2 / case.meant_dp[short]
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


def with_high_side(case: Case) -> tuple[Taking | None, Case]:
    """What a high side takes with its node at the set pressure, added to what the port injectors take."""
    if case.high is None:
        return None, case
    taking = case.taking()
    return taking, replace(case, taken=floats(case.taken + taking.direct_m3_s(case.set_kpa)))


def raised(
    case: Case, taking: Taking | None, found: Regulated, regulate: Callable[[Floats, Regulated], Regulated]
) -> tuple[Case, Regulated]:
    """A node above its set pressure fills high-pressure pumps better, and injectors held open pass more: what falls short
    then takes more, which lets less go round and the node down again."""
    before: tuple[Floats, Floats] | None = None
    for turn in range(_RAISES):
        some = _short_above_set(case, taking, found)
        if not some.size:
            break
        more = _taken_at(case, taking, found.node[some], some) if turn else _on_this_step(case, taking, found, some)
        off = floats(np.zeros_like(case.taken))
        off[some] = more - case.taken[some]
        if np.all(np.abs(off[some]) <= _SETTLED * more):
            break
        step = off.copy()
        if before is not None:
            moved, apart = case.taken - before[0], off - before[1]
            with np.errstate(divide="ignore", invalid="ignore"):
                secant = -off * moved / apart
            usable = np.isfinite(secant) & (np.abs(secant) <= np.abs(off))
            step = floats(np.where(usable, secant, off))
        before = case.taken, off
        case = replace(case, taken=floats(case.taken + step))
        found = regulate(case.taken, found)
    return case, found


def _short_above_set(case: Case, taking: Taking | None, found: Regulated) -> Index:
    """Points whose node stands above its set pressure and that are short of what is asked: pumps there, or injectors."""
    short = case.open_limit < case.metered * (1.0 - 1e-9)
    if taking is not None:
        high = taking.high
        least = floats(case.taken - taking.port_m3_s) * high.low_density
        short = short | (least < high.wanted_kg_s * (1.0 - 1e-9))
    return np.flatnonzero(short & ~found.starved & (found.node > case.set_kpa + 1e-6) & case.draws)


def _on_this_step(case: Case, taking: Taking | None, found: Regulated, some: Index) -> Floats:
    """What some points take where a regulator that creeps would then stand, m³/s: on the step of the pumps' curve on
    which it stands now, where all is a straight line. A first guess elsewhere, and with no creep."""
    place, node, taken = found.place.part(some), found.node[some], case.taken[some]
    more = _taken_at(case, taking, node, some)
    creep = pick(case.at.creep_pa, some)
    if not creep.any():
        return more
    rails, flows = place.ends(RAIL), place.ends(FLOW)
    with np.errstate(divide="ignore", invalid="ignore"):
        falls = creep / (1.0 - creep * (flows[1] - flows[0]) / (rails[1] - rails[0]))
        again = _taken_at(case, taking, floats(node - falls * (more - taken)), some)
        # A secant of what is taken less what was let go by.
        step = (more - taken) ** 2 / (2.0 * more - taken - again)
    return floats(np.where(np.isfinite(step) & (step > 0), taken + step, more))


def _taken_at(case: Case, taking: Taking | None, node: Floats, some: Index) -> Floats:
    """What `some` points take with their node at pressures above the set one, m³/s."""
    if taking is not None:
        return taking.of(some).at(node)
    meant, manifold = case.meant_dp[some], case.manifold[some]
    with np.errstate(divide="ignore", invalid="ignore"):
        across = np.minimum(node - manifold, pick(port_most_kpa(case.at, case.manifold), some))
        share = np.sqrt(np.maximum(across, 0.0) / meant)
    return floats(np.where(meant > 0, np.minimum(case.open_limit[some] * share, case.metered[some]), 0.0))


def sunk(case: Case, taking: Taking | None, supply: Any, at_set: Floats, short: Index) -> tuple[Floats, Any]:
    """Rail of starved points, and where on the supply side it lies."""
    if taking is None:
        rail, place = starved_rail(case, supply, at_set, short)
        if case.at.port_regulator is None:
            return rail, place
        whole = supply.shut(case.taken[short], short)
        own = np.flatnonzero(whole.column(RAIL) - case.manifold[short] >= case.meant_dp[short])
        if own.size:
            rail[own], place = whole.column(RAIL)[own], place.replaced(own, whole.part(own))
        return rail, place
    fed = taking.of(short)
    rail = fed.node_kpa(lambda node: supply.find(rail_column, node, None, short).column(FLOW), case.set_kpa[short])
    return rail, supply.find(rail_column, rail, None, short)


def asked_of(case: Case, supply: Any, solved: Solved) -> Solved:
    """With a high side: the pressure at which the pumps would bring all that is wanted."""
    if case.high is None:
        return solved
    asked = solved.rail_kpa.copy()
    short = np.flatnonzero(solved.supply_at_set_m3_s < case.wanted)
    if short.size:
        lowest = case.high.lowest_kpa[short]
        place = supply.shut(case.wanted[short], short)
        free = place.ends(FLOW)[0] < case.wanted[short]
        asked[short] = np.where(free, lowest, np.maximum(place.column(RAIL) - lost_kpa(case, short), lowest))
    return replace(solved, asked_kpa=asked)


def lost_kpa(case: Case, only: Index) -> Floats:
    """What is lost behind a regulator near the tank with all that is wanted; nothing where it stands at the rail."""
    if case.systems.arrangement != "bypass near the tank":
        return floats(np.zeros(only.size))
    own = case.of(only)
    return floats(sum(after_regulator(own, own.wanted)))


def after_regulator(case: Case, flow: Floats) -> tuple[Floats, Floats, Floats]:
    """Drops of feed, passages and split between a regulator near the tank and the engine, kPa."""
    systems, fluid = case.at, case.fluid
    head = acceleration_head_kpa(fluid.density_kg_m3, systems.feed.length_m, fluid.accel_g)
    feed = floats(pipe_kpa(systems.feed, flow, fluid) + head)
    return feed, pipes_kpa(systems.passages, flow, fluid), branches_kpa(systems.branches, flow, fluid, joined=False)
