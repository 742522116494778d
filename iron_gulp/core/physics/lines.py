"""Pressure drop of hoses, tubes, fittings and filters.

Darcy–Weisbach with the friction factors of the `fluids` package (laminar below Re 2040, Colebrook above). The
library is scalar, so its factor is tabulated once per relative roughness on a fine logarithmic grid and interpolated;
the table departs from the library by less than 0.001 %.
"""

from functools import lru_cache

import numpy as np
from fluids.friction import friction_factor as library_friction_factor
from scipy.interpolate import CubicSpline

from .arrays import G_M_S2, KPA, Floats, Number, floats

LAMINAR_BELOW_RE = 2040.0
_RE_TOP = 1e8


@lru_cache(maxsize=512)
def _turbulent_table(relative_roughness: float) -> tuple[Floats, Floats]:
    coarse = np.geomspace(LAMINAR_BELOW_RE, _RE_TOP, 160)
    factors = [library_friction_factor(Re=float(re) * (1 + 1e-12), eD=relative_roughness) for re in coarse]
    spline = CubicSpline(np.log(coarse), np.log(factors))
    fine = np.linspace(np.log(LAMINAR_BELOW_RE), np.log(_RE_TOP), 4000)
    return fine, floats(np.exp(spline(fine)))


def friction_factor(reynolds: Number, relative_roughness: float) -> Floats:
    """Darcy friction factor for an array of Reynolds numbers and one relative roughness (0…0.05).

    Zero flow gives zero, so that a line without flow has no drop.
    """
    re = floats(reynolds)
    log_re, factor = _turbulent_table(float(relative_roughness))
    safe = np.maximum(re, 1e-12)
    turbulent = np.interp(np.log(safe), log_re, factor)
    return floats(np.where(re <= 0, 0.0, np.where(re < LAMINAR_BELOW_RE, 64.0 / safe, turbulent)))


def velocity_m_s(flow_m3_s: Number, bore_mm: Number) -> Floats:
    """Mean velocity in a round bore, m/s."""
    return floats(floats(flow_m3_s) * 4e6 / (np.pi * floats(bore_mm) ** 2))


def line_drop_kpa(
    flow_m3_s: Number,
    bore_mm: float,
    length_m: float,
    k_sum: float,
    density_kg_m3: Number,
    viscosity_mpa_s: Number,
    roughness_um: float = 1.5,
    k_per_re: float = 0.0,
) -> Floats:
    """Pressure drop of a line and its fittings, kPa, for forward flow (negative flow counts as none).

    `k_sum` is the sum of loss coefficients on this bore; `k_per_re` over the Reynolds number is added to it (two-K
    fittings). Source: Darcy–Weisbach; `fluids` friction factors.
    """
    flow = np.maximum(floats(flow_m3_s), 0.0)
    rho = floats(density_kg_m3)
    speed = velocity_m_s(flow, bore_mm)
    bore_m = bore_mm * 1e-3
    reynolds = rho * speed * bore_m / (floats(viscosity_mpa_s) * 1e-3)
    factor = friction_factor(reynolds, roughness_um * 1e-3 / bore_mm)
    # K1 / Re × ρ v² / 2 is linear in velocity, so it needs no Reynolds number and holds at rest.
    viscous = k_per_re * floats(viscosity_mpa_s) * 1e-3 * speed / (2.0 * bore_m)
    return floats(((factor * length_m / bore_m + k_sum) * rho * speed**2 / 2.0 + viscous) / KPA)


def filter_drop_kpa(
    flow_m3_s: Number, rated_m3_s: float, rated_kpa: float, linear_share: float = 0.7, clogging: float = 1.0
) -> Floats:
    """Drop of a filter, kPa: linear plus quadratic through its rated point, times a clogging factor (1 = clean)."""
    share = np.maximum(floats(flow_m3_s), 0.0) / rated_m3_s
    return floats(rated_kpa * clogging * (linear_share * share + (1.0 - linear_share) * share**2))


def acceleration_head_kpa(density_kg_m3: Number, length_m: Number, acceleration_g: Number) -> Floats:
    """Pressure a column of fuel along the car loses under acceleration, kPa."""
    return floats(floats(density_kg_m3) * floats(length_m) * floats(acceleration_g) * G_M_S2 / KPA)
