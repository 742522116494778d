"""Pressure drop of hoses, tubes, fittings and filters.

Darcy–Weisbach with the friction factor of Colebrook above Re 2040, laminar below. The `fluids` package is the reference
in the tests; being scalar it would take a microsecond a value, so its method for Colebrook is written here for arrays.
"""

from math import log

import numpy as np

from .arrays import G_M_S2, KPA, Floats, Number, floats

LAMINAR_BELOW_RE = 2040.0
_LN_10 = log(10.0)


def _colebrook(reynolds: Floats, relative_roughness: Number) -> Floats:
    """Colebrook's friction factor to rounding, after D. Clamond, *Ind. Eng. Chem. Res.* 48 (2009) 3665–3671."""
    rough = floats(relative_roughness) * reynolds * (_LN_10 / 18.574)
    level = np.log(reynolds * (_LN_10 / 5.02))
    root = level - 0.2
    sum_ = rough + root
    more = 1.0 + sum_
    error = (np.log(sum_) - 0.2) / more
    root = root - (more + 0.5 * error) * error * sum_ / (more + error * (1.0 + error / 3.0))
    sum_ = rough + root
    more = 1.0 + sum_
    error = (np.log(sum_) + root - level) / more
    root = root - (more + 0.5 * error) * error * sum_ / (more + error * (1.0 + error / 3.0))
    return floats(np.square(0.5 * _LN_10 / root))


def friction_factor(reynolds: Number, relative_roughness: Number) -> Floats:
    """Darcy friction factor at Reynolds numbers and relative roughnesses (0…0.05); shapes broadcast.

    Zero flow gives zero, so that a line without flow has no drop.
    """
    re = floats(reynolds)
    laminar = re < LAMINAR_BELOW_RE
    if not laminar.any():
        return _colebrook(re, relative_roughness)
    turbulent = _colebrook(floats(np.maximum(re, LAMINAR_BELOW_RE)), relative_roughness)
    return floats(np.where(laminar, np.where(re > 0, 64.0 / np.maximum(re, 1e-12), 0.0), turbulent))


def velocity_m_s(flow_m3_s: Number, bore_mm: Number) -> Floats:
    """Mean velocity in a round bore, m/s."""
    return floats(floats(flow_m3_s) * 4e6 / (np.pi * floats(bore_mm) ** 2))


def line_drop_kpa(
    flow_m3_s: Number,
    bore_mm: Number,
    length_m: Number,
    k_sum: Number,
    density_kg_m3: Number,
    viscosity_mpa_s: Number,
    roughness_um: Number = 1.5,
    k_per_re: Number = 0.0,
) -> Floats:
    """Pressure drop of a line and its fittings, kPa, for forward flow (negative flow counts as none).

    `k_sum` is the sum of loss coefficients on this bore; `k_per_re` over the Reynolds number is added to it (two-K
    fittings). Source: Darcy–Weisbach; `fluids` friction factors.
    """
    flow = np.maximum(floats(flow_m3_s), 0.0)
    rho, mu_pa_s, bore_m = floats(density_kg_m3), floats(viscosity_mpa_s) * 1e-3, floats(bore_mm) * 1e-3
    speed = velocity_m_s(flow, bore_mm)
    factor = friction_factor(speed * (rho * bore_m / mu_pa_s), floats(roughness_um) * 1e-6 / bore_m)
    # K1 / Re × ρ v² / 2 is linear in velocity, so it needs no Reynolds number and holds at rest.
    viscous = floats(k_per_re) * mu_pa_s / (2.0 * bore_m * KPA)
    head = rho / (2.0 * KPA)
    return floats(speed * ((factor * (floats(length_m) / bore_m) + floats(k_sum)) * head * speed + viscous))


def filter_drop_kpa(
    flow_m3_s: Number, rated_m3_s: Number, rated_kpa: Number, linear_share: Number = 0.7, clogging: Number = 1.0
) -> Floats:
    """Drop of a filter, kPa: linear plus quadratic through its rated point, times a clogging factor (1 = clean)."""
    share, linear = np.maximum(floats(flow_m3_s), 0.0) / floats(rated_m3_s), floats(linear_share)
    return floats(floats(rated_kpa) * floats(clogging) * share * (linear + (1.0 - linear) * share))


def acceleration_head_kpa(density_kg_m3: Number, length_m: Number, acceleration_g: Number) -> Floats:
    """Pressure a column of fuel along the car loses under acceleration, kPa."""
    return floats(floats(density_kg_m3) * floats(length_m) * floats(acceleration_g) * G_M_S2 / KPA)
