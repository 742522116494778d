"""Loads of direct injection: high-pressure pumps, their inlets, the injectors' window and idle, the rail's pressure."""

from collections.abc import Iterator

import numpy as np

from ..physics import floats
from ..solve import IDLE, PEAK
from .loads import Share, Solved, share


def loads(solved: Solved) -> Iterator[Share]:
    """Shares of what pumps, inlets, windows and parts bear; nothing without direct injection."""
    direct = solved.points.direct
    if direct is None:
        return
    yield Share("high-pressure pump", direct.pump_load[PEAK], "fuel asked of what the pumps bring at the rail target")
    asked = share(direct.direct_kg_s[PEAK], direct.window_kg_s[PEAK])
    yield Share("direct injectors", asked, "fuel asked of what passes in the window at the rail target")
    yield Share("high-pressure inlet", direct.inlet_load[PEAK], "head a full stroke needs of the head at the inlet")
    shortest = np.minimum.reduce([rail.effective_ms[IDLE] for rail in direct.rails])
    smallest = np.where(direct.direct_kg_s[IDLE] > 0, direct.min_pulse_ms[IDLE], 0.0)
    yield Share("direct injector idle", share(smallest, shortest), "smallest repeatable pulse of the pulse idle needs")
    highest = np.maximum(direct.target_kpa[PEAK], direct.target_kpa[IDLE])
    yield Share("high-pressure limit", floats(highest / direct.borne_kpa[PEAK]), "rail target of what its parts bear")
