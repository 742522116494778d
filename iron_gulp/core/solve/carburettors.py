"""Float needles: what they pass wide open, by the orifice law (discharge coefficient 0.7, class value for a seat)."""

import numpy as np

from ..model import Carburettor
from ..physics import KPA, Floats, Number, floats

DISCHARGE = 0.7


def needle_area_m2(carburettor: Carburettor) -> float:
    """Area of all needle seats, m²."""
    return float(np.pi / 4.0 * (carburettor.needle_mm * 1e-3) ** 2 * carburettor.needles)


def needle_area_flow_kg_s(area_m2: Number, inlet_kpa: Number, density_kg_m3: Number) -> Floats:
    """Mass flow of needles wide open at an inlet pressure, kg/s; the float chambers are at ambient pressure."""
    pressure = np.maximum(floats(inlet_kpa), 0.0) * KPA
    return floats(DISCHARGE * floats(area_m2) * np.sqrt(2.0 * floats(density_kg_m3) * pressure))


def needle_flow_kg_s(carburettor: Carburettor, inlet_kpa: Number, density_kg_m3: Number) -> Floats:
    """Mass flow of all needles of a carburettor wide open at an inlet pressure, kg/s."""
    return needle_area_flow_kg_s(needle_area_m2(carburettor), inlet_kpa, density_kg_m3)
