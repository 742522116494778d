"""Fuel demand by the three schools: specific consumption, air mass, and scaling from a measured run.

Sources: Heywood, *Internal Combustion Engine Fundamentals*, ch. 2 (specific consumption, volumetric efficiency,
four-stroke air flow).
"""

import numpy as np

from .arrays import ATM_KPA, KPA, R_AIR, Floats, Number, floats

KG_KWH_PER_LB_HPH = 0.45359237 / 0.74569987


def crank_power_kw(wheel_power_kw: Number, loss: Number) -> Floats:
    """Crank power from wheel power and the driveline's loss fraction. Raises ValueError for a loss outside 0…<1."""
    share = floats(loss)
    if ((share < 0) | (share >= 1)).any():
        raise ValueError("driveline loss must be at least 0 and below 1")
    return floats(floats(wheel_power_kw) / (1.0 - share))


def blend_bsfc_kg_kwh(
    gasoline_bsfc_kg_kwh: Number, lhv_gasoline: Number, lhv_blend: Number, credit: Number = 0.0
) -> Floats:
    """Specific consumption on a blend: scaled by heating value, less an explicit efficiency credit (fraction)."""
    return floats(floats(gasoline_bsfc_kg_kwh) * floats(lhv_gasoline) / floats(lhv_blend) / (1.0 + floats(credit)))


def fuel_from_power_kg_s(crank_kw: Number, bsfc_kg_kwh: Number) -> Floats:
    """Specific-consumption school: fuel mass flow, kg/s."""
    return floats(floats(crank_kw) * floats(bsfc_kg_kwh) / 3600.0)


def air_kg_s(displacement_l: Number, rpm: Number, ve: Number, manifold_kpa_abs: Number, charge_temp_c: Number) -> Floats:
    """Air a four-stroke engine swallows, kg/s; `ve` is a fraction of manifold density."""
    volume_m3_s = floats(displacement_l) * 1e-3 * floats(rpm) / 120.0
    density = floats(manifold_kpa_abs) * KPA / (R_AIR * (floats(charge_temp_c) + 273.15))
    return floats(floats(ve) * density * volume_m3_s)


def corrected_air_kg_s(air_kg_s_: Number, intake_c: Number, barometer_kpa: Number) -> Floats:
    """Air flow corrected to 15 °C and 101.325 kPa before the compressor, kg/s (dimensional analysis, as on its map)."""
    warm = np.sqrt((floats(intake_c) + 273.15) / 288.15)
    return floats(floats(air_kg_s_) * warm * ATM_KPA / floats(barometer_kpa))


def fuel_from_air_kg_s(air: Number, lambda_: Number, stoich_afr: Number) -> Floats:
    """Air-mass school: fuel mass flow, kg/s, for `air` kg/s at λ."""
    return floats(floats(air) / (floats(lambda_) * floats(stoich_afr)))


def fuel_from_measured_kg_s(
    injector_kg_s: Number,
    duty: Number,
    dead_share: Number,
    count: Number,
    power_ratio: Number,
    lhv_ratio: Number = 1.0,
) -> Floats:
    """Measured school: a logged run scaled to this target.

    `injector_kg_s` is one injector held open at the logged differential pressure on the logged fuel; `duty` and
    `dead_share` are fractions of the cycle; `power_ratio` is wanted over logged crank power; `lhv_ratio` is logged
    over wanted heating value.
    """
    logged = floats(injector_kg_s) * (floats(duty) - floats(dead_share)) * floats(count)
    return floats(logged * floats(power_ratio) * floats(lhv_ratio))
