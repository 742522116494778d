"""Bypass regulators: set pressure by reference, and the floor that its passage and the return line put under the rail."""

from .arrays import KPA, Floats, Number, floats


def set_pressure_kpa(base_kpa: Number, reference_ratio: Number, manifold_kpa: Number) -> Floats:
    """Rail pressure asked for, kPa gauge: base + ratio × manifold (ratio 0 atmospheric, 1 manifold, >1 rising rate)."""
    return floats(floats(base_kpa) + floats(reference_ratio) * floats(manifold_kpa))


def wide_open_k(flow_m3_s: float, drop_kpa: float) -> float:
    """Quadratic coefficient, Pa/(m³/s)², of a regulator that drops `drop_kpa` wide open at `flow_m3_s`."""
    return drop_kpa * KPA / flow_m3_s**2


def wide_open_drop_kpa(bypass_m3_s: Number, k_pa: Number) -> Floats:
    """Drop across the wide-open regulator, kPa."""
    return floats(floats(k_pa) * floats(bypass_m3_s) ** 2 / KPA)
