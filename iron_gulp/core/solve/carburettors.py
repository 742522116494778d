"""Float needles: what they pass wide open, by the orifice law (discharge coefficient 0.7, class value for a seat)."""

import numpy as np

from ..model import Carburettor
from ..physics import KPA, Floats, Number, floats

DISCHARGE = 0.7


def needle_flow_kg_s(carburettor: Carburettor, inlet_kpa: Number, density_kg_m3: Number) -> Floats:
    """Mass flow of all needles wide open at an inlet pressure, kg/s; the float chambers are at ambient pressure."""
    area_m2 = np.pi / 4.0 * (carburettor.needle_mm * 1e-3) ** 2 * carburettor.needles
    pressure = np.maximum(floats(inlet_kpa), 0.0) * KPA
    return floats(DISCHARGE * area_m2 * np.sqrt(2.0 * floats(density_kg_m3) * pressure))
