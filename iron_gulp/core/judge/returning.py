"""Loads of the regulator and the return at idle, where most must be dumped."""

from collections.abc import Iterator

import numpy as np

from ..model import Option
from ..physics import Floats, Number, floats
from ..solve import IDLE, FluidState, ReturnSide, State, WalkedBack, of_few, return_of
from .loads import Share, Solved, share
from .supply import flow_at_drop_m3_s

_FIRST_M3_S, _LAST_M3_S = 1e-3, 10.0


def loads(solved: Solved) -> Iterator[Share]:
    """Bypass at idle of what regulator and return pass at the set pressure; nothing where nothing returns."""
    systems, hyd, targets = solved.cases.systems, solved.points.hydraulics, solved.cases.targets
    if systems.arrangement == "carburettor, deadhead":
        return
    if systems.arrangement == "returnless, speed-controlled":
        over = hyd.state[IDLE] == State.OVERRUN
        excess = floats(np.where(over, share(hyd.rail_kpa[IDLE], hyd.set_kpa[IDLE]), 0.0))
        yield Share("regulator", excess, "rail at idle of the set pressure, at the slowest speed")
        return
    # What must be dumped to hold the set pressure at idle; in overrun the pumps really bring less, at a higher rail.
    idle = solved.demand.idle_kg_s / targets.density_kg_m3
    bypass = floats(np.maximum(hyd.supply_at_set_m3_s[IDLE] - idle, 0.0))
    spill = spilled_at_m3_s(ReturnSide(systems.back, floats(np.zeros_like(bypass)), solved.fluid), hyd.set_kpa[IDLE])
    yield Share("regulator", share(bypass, spill), "bypass of what it can pass at the set pressure")
    limit = flow_at_drop_m3_s(systems.back.line, systems.back.passages, targets.return_drop_kpa, solved.fluid)
    yield Share("return", share(bypass, limit), "bypass of the flow at the back-pressure allowed")


def spilled_at_m3_s(side: ReturnSide, set_kpa: Floats) -> Floats:
    """Bypass flow at which the wide-open regulator and return line alone hold `set_kpa`, m³/s."""
    return of_few("spilled", (side.back, side.fluid, set_kpa), set_kpa.size, lambda: _spilled_at_m3_s(side, set_kpa))


def _spilled_at_m3_s(side: ReturnSide, set_kpa: Floats) -> Floats:
    most = floats(np.full(set_kpa.shape, _FIRST_M3_S))
    last = np.full((1, set_kpa.size), 399)
    while True:
        whole = ReturnSide(side.back, most, side.fluid)
        below = whole.nodes(last)[0, 0] < set_kpa
        if not np.any(below & (most < _LAST_M3_S)):
            break
        most = floats(np.where(below, most * 2.0, most))
    rest = set_kpa - side.back.tank_kpa
    near = np.sqrt(np.maximum(rest, 0.0) * 1e3 / (2.0 * side.back.k_pa))
    found = WalkedBack(whole).passes_m3_s(set_kpa, np.arange(set_kpa.size), floats(np.minimum(near, most)))
    return floats(np.where(rest <= 0, 0.0, found))


def overrun_bypass_m3_s(option: Option, set_kpa: Number, density_kg_m3: Number, viscosity_mpa_s: Number) -> Floats:
    """Bypass flow at which an option's wide-open regulator and return line alone hold `set_kpa`, m³/s, shape (n,)."""
    wanted = floats(np.atleast_1d(set_kpa))
    if not wanted.size:
        return wanted
    fluid = FluidState(floats(np.atleast_1d(density_kg_m3)), floats(np.atleast_1d(viscosity_mpa_s)))
    return spilled_at_m3_s(ReturnSide(return_of(option), floats(np.zeros_like(wanted)), fluid), wanted)
