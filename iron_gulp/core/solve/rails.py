"""Rails: the drop along them, and a rough estimate of pulsation."""

import numpy as np

from ..model import Rail
from ..physics import KPA, Floats, Number, floats, line_drop_kpa

# Stiffness of fuel, rail and the hoses at its ends together, a class figure: hoses give far more than fuel does.
EFFECTIVE_STIFFNESS_PA = 30e6


def rail_drop_kpa(
    rail: Rail, flow_m3_s: float, density_kg_m3: Number, viscosity_mpa_s: Number, leaving_m3_s: float = 0.0
) -> Floats:
    """Drop from the entry to the far end of each rail, kPa; flows are those of all rails together.

    Flow leaves evenly along the rail, so friction is that of the full flow over the length times (1 + r + r²) / 3, where
    r is the share that leaves at the end for a regulator behind it: a third in a dead end. A centre entry halves both
    flow and length.
    """
    halves = 2.0 if rail.entry == "in the centre" else 1.0
    flow, length = flow_m3_s / rail.count / halves, rail.length_m / halves
    share = leaving_m3_s / flow_m3_s if flow_m3_s > 0 else 0.0
    full = line_drop_kpa(flow, rail.bore_mm, length, 0.0, density_kg_m3, viscosity_mpa_s)
    return floats(full * (1.0 + share + share**2) / 3.0)


def pulsation_kpa(rail: Rail, open_m3_s: float, count: float, duty: float, cycle_s: float) -> Floats:
    """Pressure swing in each rail, kPa: a rough estimate.

    Supply is taken as steady and `count` injectors (of all rails together) as evenly spaced, each open for the share
    `duty` of the cycle and passing `open_m3_s`. Between f of the spacing with one more open and 1 − f with one fewer, the
    rail takes up `open × spacing × f (1 − f)`; over its volume, times an effective stiffness.
    """
    each = count / rail.count
    share = each * min(max(duty, 0.0), 1.0) % 1.0
    swing = open_m3_s * cycle_s / each * share * (1.0 - share)
    volume = np.pi / 4.0 * (rail.bore_mm * 1e-3) ** 2 * rail.length_m
    return floats(swing / volume * EFFECTIVE_STIFFNESS_PA / KPA)
