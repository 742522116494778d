"""Supply wiring of pumps: loop resistance, drop and what a wire carries.

Copper 1.724e-8 Ω·m at 20 °C, +0.393 %/K (IEC 60028).
"""

from functools import lru_cache
from math import log, pi, sqrt

import numpy as np
from ht.conv_free_immersed import Nu_horizontal_cylinder_Churchill_Chu

from .arrays import ATM_KPA, G_M_S2, KPA, R_AIR, Floats, Number, floats

COPPER_OHM_M = 1.724e-8
COPPER_PER_K = 0.00393


def loop_resistance_ohm(
    loop_m: Number, area_mm2: Number, connectors_mohm: Number = 0.0, copper_temp_c: Number = 20.0
) -> Floats:
    """Resistance of a wiring loop (there and back), Ω, with its connectors."""
    copper = COPPER_OHM_M * floats(loop_m) / (floats(area_mm2) * 1e-6)
    warm = 1.0 + COPPER_PER_K * (floats(copper_temp_c) - 20.0)
    return floats(copper * warm + floats(connectors_mohm) * 1e-3)


def drop_v(current_a: Number, resistance_ohm: Number) -> Floats:
    """Voltage lost in a loop, V."""
    return floats(floats(current_a) * floats(resistance_ohm))


# Sizes sold, mm², and the outer diameter of thin-wall automotive cable, mm (ISO 6722-1, rounded).
AMPACITY_MM2 = (0.5, 0.75, 1.0, 1.5, 2.5, 4.0, 6.0, 10.0, 16.0, 25.0, 35.0, 50.0, 70.0)
OUTER_MM = (1.6, 1.9, 2.1, 2.4, 3.0, 3.7, 4.3, 6.0, 7.2, 8.7, 10.0, 11.7, 13.7)


def awg_mm2(gauge: float) -> float:
    """Cross-section of a wire by the American gauge (ASTM B258; 0 is 1/0, −1 is 2/0), mm²."""
    return float(pi / 4.0 * (0.127 * 92.0 ** ((36.0 - gauge) / 39.0)) ** 2)


def awg_of(area_mm2: float) -> float:
    """The American gauge of a cross-section in mm², broken where it lies between two."""
    return 36.0 - 39.0 * log(sqrt(area_mm2 * 4.0 / pi) / 0.127, 92.0)


AWG_MM2 = tuple(awg_mm2(gauge) for gauge in (20, 18, 16, 14, 12, 10, 8, 6, 4, 2, 0, -1))
WIRE_SIZES_MM2 = {"mm²": AMPACITY_MM2, "AWG": AWG_MM2}
# What the insulation bears for good, °C.
INSULATION_C = {"thin-wall PVC": 105.0, "cross-linked": 125.0}
LOOM_FACTOR = 0.8  # shop figure: a wire in a loom gives off less heat
_EMISSIVITY, _STEFAN_BOLTZMANN = 0.9, 5.670374e-8
RELAYS_A = (30.0, 40.0, 70.0, 100.0, 150.0, 200.0)
FUSES_A = (3.0, 5.0, 7.5, 10.0, 15.0, 20.0, 25.0, 30.0, 40.0, 50.0, 60.0, 70.0, 80.0, 100.0)


@lru_cache(maxsize=4096)
def ampacity_a(
    area_mm2: float,
    ambient_c: float = 40.0,
    insulation: str = "thin-wall PVC",
    loom: bool = False,
    bundled: int = 1,
) -> float:
    """Continuous current of a single cable by heat balance, A (estimate); 0 in air hotter than its insulation bears.

    `I² R(T) = (h_conv + h_rad) π D (T − T_amb)` a metre, T the insulation's limit: free convection on a horizontal
    cylinder (Churchill and Chu 1975, by the `ht` package) and radiation (ε 0.9). In a `loom` times 0.8, with `bundled`
    loaded wires side by side over √n. A cable maker's own figures come first.
    """
    limit = INSULATION_C[insulation]
    warmer = limit - ambient_c
    if warmer <= 0:
        return 0.0
    outer_m = float(np.interp(area_mm2, AMPACITY_MM2, OUTER_MM)) * 1e-3
    surface_k, air_k = limit + 273.15, ambient_c + 273.15
    film_k = (surface_k + air_k) / 2.0
    # Air at the film temperature (Sutherland; Prandtl number 0.71).
    viscosity = 1.716e-5 * (film_k / 273.15) ** 1.5 * (273.15 + 110.4) / (film_k + 110.4)
    kinematic = viscosity * R_AIR * film_k / (ATM_KPA * KPA)
    conductivity = viscosity * 1005.0 / 0.71
    grashof = G_M_S2 * warmer * outer_m**3 / (film_k * kinematic**2)
    convection = Nu_horizontal_cylinder_Churchill_Chu(Pr=0.71, Gr=grashof) * conductivity / outer_m
    radiation = _EMISSIVITY * _STEFAN_BOLTZMANN * (surface_k**2 + air_k**2) * (surface_k + air_k)
    ohm_m = float(loop_resistance_ohm(1.0, area_mm2, 0.0, limit))
    free = sqrt((convection + radiation) * pi * outer_m * warmer / ohm_m)
    return free * (LOOM_FACTOR if loom else 1.0) / sqrt(bundled)


def next_fuse_a(least_a: float) -> float:
    """The next common fuse size at or above a current; the largest when none is."""
    return next((size for size in FUSES_A if size >= least_a), FUSES_A[-1])


def next_relay_a(least_a: float) -> float:
    """The next common rating of a relay at or above a current; the largest when none is."""
    return next((size for size in RELAYS_A if size >= least_a), RELAYS_A[-1])


def smallest_fuse_a(current_a: Number, margin: float = 1.25) -> Floats:
    """Smallest fuse for a continuous current: 1.25 times it."""
    return floats(floats(current_a) * margin)
