"""Supply wiring of pumps: loop resistance and drop. Copper 1.724e-8 Ω·m at 20 °C, +0.393 %/K (IEC 60028)."""

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


def smallest_fuse_a(current_a: Number, margin: float = 1.25) -> Floats:
    """Smallest fuse for a continuous current: 1.25 times it."""
    return floats(floats(current_a) * margin)
