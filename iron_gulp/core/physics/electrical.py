"""Supply wiring of pumps: loop resistance and drop. Copper 1.724e-8 Ω·m at 20 °C, +0.393 %/K (IEC 60028)."""

import numpy as np

from .arrays import Floats, Number, floats

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


# Continuous current of a single PVC-insulated copper cable in free air at 30 °C, A, by area in mm²
# (DIN VDE 0298-4, table 11). A cable maker's own figures come first.
AMPACITY_MM2 = (0.5, 0.75, 1.0, 1.5, 2.5, 4.0, 6.0, 10.0, 16.0, 25.0, 35.0, 50.0, 70.0)
AMPACITY_A = (9.0, 12.0, 15.0, 18.0, 26.0, 34.0, 44.0, 61.0, 82.0, 108.0, 135.0, 168.0, 207.0)
AMPACITY_LIMIT_C = 70.0
FUSES_A = (3.0, 5.0, 7.5, 10.0, 15.0, 20.0, 25.0, 30.0, 40.0, 50.0, 60.0, 70.0, 80.0, 100.0)


def ampacity_a(area_mm2: Number, ambient_c: Number = 30.0) -> Floats:
    """Continuous current a single cable carries, A: the table, derated for ambient by √((70 − T) / 40)."""
    table = np.interp(floats(area_mm2), AMPACITY_MM2, AMPACITY_A)
    room = np.maximum(AMPACITY_LIMIT_C - np.maximum(floats(ambient_c), 30.0), 0.0)
    return floats(table * np.sqrt(room / (AMPACITY_LIMIT_C - 30.0)))


def next_fuse_a(least_a: float) -> float:
    """The next common fuse size at or above a current; the largest when none is."""
    return next((size for size in FUSES_A if size >= least_a), FUSES_A[-1])


def smallest_fuse_a(current_a: Number, margin: float = 1.25) -> Floats:
    """Smallest fuse for a continuous current: 1.25 times it."""
    return floats(floats(current_a) * margin)
