"""Ceilings of direct injection: as roots of their own, since solving whole cars at every power looked at takes long.

Where the node cannot be read off the low side's curve alone, or the direct side's share moves with the flow, they are
sought among whole solutions like others (`ceilings`).
"""

from collections.abc import Callable

import numpy as np

from ..model import Component
from ..physics import Floats, floats, rising_root
from ..solve import PEAK, FedPeak
from .loads import Solved

_LEAST, _MOST = 1e-3, 30.0  # powers looked at, of the target's
_NEAR, _POWER = 0.25, 1e-6


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
    wanted = solved.points.demand_kg_s[PEAK]
    density, power = cases.targets.density_kg_m3, cases.targets.power_kw
    size = wanted.size
    share = floats(direct.direct_kg_s[PEAK] / np.maximum(wanted, 1e-30))
    most = floats(told.use * direct.ceiling_kg_s[PEAK]) if told.mode == "ceiling" else floats(np.full(size, np.inf))

    def asked(times: Floats) -> Floats:
        """Fuel asked of the direct side at a multiple of the target's power."""
        return floats(np.minimum(wanted * times, most) if told.mode == "ceiling" else wanted * times * share)

    def inlet(times: Floats) -> Floats:
        return peak.inlet_excess_kpa(asked(times), floats(wanted * times / density))

    def pump(times: Floats) -> Floats:
        """Delivered of what is asked, port injectors as they are at their own pressure."""
        direct_kg_s = floats(np.minimum(asked(times), direct.window_kg_s[PEAK]))
        port = floats(wanted * times - asked(times))
        return peak.pump_excess_kg_s(asked(times), floats((direct_kg_s + port) / density))

    found: dict[Component, Floats] = {"high-pressure inlet": _power_kw(inlet, direct.inlet_load[PEAK], power)}
    if told.mode == "ceiling":
        # The direct side is never asked for more than a share of what it holds: no power runs it out.
        nowhere = floats(np.full(size, np.nan))
        return {**found, "high-pressure pump": nowhere, "direct injectors": nowhere}
    sunk = _power_kw(pump, direct.pump_load[PEAK], power)
    carried = np.where(np.isnan(sunk), 0.0, sunk) / power * wanted / density
    ported = direct.port_kg_s[PEAK] > 0
    # A port side passes less at a node that has sunk, which only whole solutions tell.
    if not np.any(ported & (carried > solved.points.hydraulics.supply_at_set_m3_s[PEAK])):
        found["high-pressure pump"] = sunk
    return found


def _power_kw(excess: Callable[[Floats], Floats], load: Floats, power: Floats) -> Floats:
    """The power at which a rising excess is nothing, near the target's over its `load`; NaN where never or always."""
    near = np.clip(1.0 / np.maximum(load, 1e-9), _LEAST * 2.0, _MOST / 2.0)
    low, high = floats(near * (1.0 - _NEAR)), floats(near * (1.0 + _NEAR))
    below, above = excess(low), excess(high)
    if not np.all((below < 0) & (above > 0)):
        low = floats(np.where(below < 0, low, _LEAST))
        high = floats(np.where(above > 0, high, _MOST))
        below, above = excess(low), excess(high)
    times = np.exp(rising_root(lambda at: excess(floats(np.exp(at))), np.log(low), np.log(high), _POWER))
    return floats(np.where((below < 0) & (above > 0), times * power, np.nan))


def _switched(solved: Solved) -> bool:
    """Whether a stage of the low side is switched by what the engine burns."""
    groups = solved.cases.systems.groups
    return any(
        bool((np.isfinite(one.limits.flow_l_h) | np.isfinite(one.limits.duty_pct)).any() and one.limits.staged.any())
        for one in groups
    )
