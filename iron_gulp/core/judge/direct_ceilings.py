"""Ceilings of direct injection: as roots of their own, since solving whole cars at every power looked at takes long.

Where the node cannot be read off the low side's curve alone, or the direct side's share moves with the flow, they are
sought among whole solutions like others (`ceilings`).
"""

from typing import Any

import numpy as np

from ..model import Component
from ..physics import Floats, floats
from ..solve import PEAK, FedPeak
from .loads import Solved


def direct_ceilings(solved: Solved) -> dict[Component, Floats]:
    """Powers, as targets quote them, at which high-pressure pumps and inlets run out; what is not known is left out."""
    cases, direct = solved.cases, solved.points.direct
    told = cases.systems.delivery
    if direct is None or told is None or (told.mode == "threshold" and told.signal == "flow_l_h"):
        return {}
    if _switched(solved):
        return {}
    peak = FedPeak.of(cases.systems, cases.meters, cases.targets, solved.points)
    if peak is None:
        return {}
    wanted, density = solved.points.demand_kg_s[PEAK], cases.targets.density_kg_m3
    share = floats(direct.direct_kg_s[PEAK] / np.maximum(wanted, 1e-30))
    most = (
        floats(told.use * direct.ceiling_kg_s[PEAK]) if told.mode == "ceiling" else floats(np.full(wanted.size, np.inf))
    )
    window, rho = direct.window_kg_s[PEAK], floats(density + 0.0 * wanted)

    def asked(which: Any, total_kg_s: Floats) -> Floats:
        """Fuel asked of the direct side, of all that the engine burns."""
        if told.mode == "ceiling":
            return floats(np.minimum(total_kg_s, _some(most, which)))
        return floats(total_kg_s * _some(share, which))

    def inlet(peak: FedPeak, which: Any, flow: Floats, node: Floats) -> Floats:
        return peak.inlet_excess(which, asked(which, floats(flow * _some(rho, which))), node)

    def pump(peak: FedPeak, which: Any, flow: Floats, node: Floats) -> Floats:
        return peak.pump_excess(which, asked(which, floats(flow * _some(rho, which))), node)

    found: dict[Component, Floats] = {"high-pressure inlet": _power_kw(solved, peak.limit_m3_s(inlet))}
    if told.mode == "ceiling":
        # The direct side is never asked for more than a share of what it holds: no power runs it out.
        nowhere = floats(np.full(wanted.size, np.nan))
        return {**found, "high-pressure pump": nowhere, "direct injectors": nowhere}
    limit = peak.limit_m3_s(pump)
    ported = direct.port_kg_s[PEAK] > 0
    closed = limit * density * share > window
    beyond = limit > solved.points.hydraulics.supply_at_set_m3_s[PEAK]
    # A port side passes less at a node that has sunk, and a closed window takes less than is asked: only whole solutions
    # tell what follows then.
    if not np.any(beyond & ported | closed & beyond):
        found["high-pressure pump"] = _power_kw(solved, limit)
    return found


def _some(values: Floats, which: Any) -> Floats:
    return values if which is None else floats(values[which])


def _power_kw(solved: Solved, flow_m3_s: Floats) -> Floats:
    """The power, as the targets quote it, at which the engine burns a flow."""
    targets = solved.cases.targets
    return floats(targets.power_kw * flow_m3_s * targets.density_kg_m3 / solved.points.demand_kg_s[PEAK])


def _switched(solved: Solved) -> bool:
    """Whether a stage of the low side is switched by what the engine burns."""
    groups = solved.cases.systems.groups
    return any(
        bool((np.isfinite(one.limits.flow_l_h) | np.isfinite(one.limits.duty_pct)).any() and one.limits.staged.any())
        for one in groups
    )
