"""Fuels and ethanol blends: density, stoichiometry, heating value, viscosity and vapour pressure.

Sources: J. B. Heywood, *Internal Combustion Engine Fundamentals*, appendix D (stoichiometry, heating values);
NIST (pure alcohols: density, viscosity, Antoine constants); EPA AP-42 chapter 7.1 (vapour pressure from Reid pressure);
V. F. Andersen et al., *Energy & Fuels* 2010 (Reid pressure of ethanol blends, approximate table).
"""

from dataclasses import dataclass

import numpy as np

from .arrays import Floats, Number, floats

KPA_PER_PSI = 6.894757293168


@dataclass(frozen=True)
class BaseFuel:
    """Constants of a fuel without added ethanol.

    `viscosity_20c_mpa_s` falls by `viscosity_fall_per_k` (relative, exponential) for each kelvin. `antoine` holds the
    constants of a pure alcohol's saturation curve (log10 of bar, K); without them vapour goes by the petroleum law.
    """

    name: str
    density_15c_kg_m3: float
    expansion_per_k: float
    stoich_afr: float
    lhv_mj_kg: float
    viscosity_20c_mpa_s: float
    rvp_kpa: float
    viscosity_fall_per_k: float = 0.013
    ap42_slope: float = 3.0
    kg_kmol: float = 105.0
    antoine: tuple[float, float, float] | None = None


GASOLINE = BaseFuel("gasoline", 745.0, 1.0e-3, 14.7, 43.4, 0.53, 9.0 * KPA_PER_PSI)
METHANOL = BaseFuel(
    "methanol", 795.6, 1.19e-3, 6.46, 19.9, 0.59, 32.0, kg_kmol=32.04, antoine=(5.20409, 1581.341, -33.50)
)
ETHANOL = BaseFuel("ethanol", 793.6, 1.08e-3, 9.0, 26.8, 1.19, 16.0, kg_kmol=46.07, antoine=(5.37229, 1670.409, -40.191))
REID_C = 37.78

# NIST, pure ethanol at atmospheric pressure; interpolated in the logarithm.
_ETHANOL_VISCOSITY_C = np.array([0.0, 15.0, 20.0, 40.0, 60.0])
_ETHANOL_VISCOSITY_MPA_S = np.array([1.82, 1.32, 1.19, 0.82, 0.58])
# Change of Reid pressure against ethanol percentage, kPa, for an ordinary gasoline base (approximate).
_RVP_SHIFT_PCT = np.array([0.0, 5.0, 10.0, 20.0, 30.0, 47.5, 60.0, 75.0, 85.0])
_RVP_SHIFT_KPA = np.array([0.0, 6.0, 7.0, 6.2, 4.2, 0.0, -5.0, -13.0, -20.0])
# Slopes of the monotone cubics (PCHIP) through these points: SciPy's, which takes half a second and 50 MB to load.
_RVP_SHIFT_SLOPE = np.array(
    [1.7, 12.0 / 35.0, 0.0, -4.0 / 35.0, -66.0 / 305.0, -108.0 / 355.0, -66.0 / 145.0, -168.0 / 275.0, -23.0 / 30.0]
)


@dataclass(frozen=True)
class FuelProperties:
    """Properties of a blend at a temperature; every field is an array of the broadcast shape."""

    mass_fraction: Floats
    stoich_afr: Floats
    lhv_mj_kg: Floats
    density_kg_m3: Floats
    density_15c_kg_m3: Floats
    viscosity_mpa_s: Floats
    rvp_kpa: Floats
    vapour_kpa_abs: Floats


def ethanol_mass_fraction(ethanol: Number, base: BaseFuel = GASOLINE) -> Floats:
    """Ethanol mass fraction of a blend.

    Parameters: `ethanol`, volume fraction 0…1 at 15 °C, any shape; volumes are taken as additive.
    Raises ValueError outside 0…1.
    """
    e = floats(ethanol)
    if np.any((e < 0) | (e > 1)):
        raise ValueError("ethanol volume fraction must lie between 0 and 1")
    heavy = e * ETHANOL.density_15c_kg_m3
    return floats(heavy / (heavy + (1 - e) * base.density_15c_kg_m3))


def density_kg_m3(ethanol: Number, temp_c: Number, base: BaseFuel = GASOLINE) -> Floats:
    """Density of a blend: total mass over total volume at `temp_c` (°C); shapes broadcast."""
    e, t = floats(ethanol), floats(temp_c) - 15.0
    mass = e * ETHANOL.density_15c_kg_m3 + (1 - e) * base.density_15c_kg_m3
    volume = e * (1 + ETHANOL.expansion_per_k * t) + (1 - e) * (1 + base.expansion_per_k * t)
    return floats(mass / volume)


def _ethanol_viscosity(temp_c: Floats) -> Floats:
    logs = np.log(_ETHANOL_VISCOSITY_MPA_S)
    inside = np.interp(temp_c, _ETHANOL_VISCOSITY_C, logs)
    cold = np.minimum(temp_c - _ETHANOL_VISCOSITY_C[0], 0) * (logs[1] - logs[0]) / 15.0
    hot = np.maximum(temp_c - _ETHANOL_VISCOSITY_C[-1], 0) * (logs[-1] - logs[-2]) / 20.0
    return floats(np.exp(inside + cold + hot))


def viscosity_mpa_s(ethanol: Number, temp_c: Number, base: BaseFuel = GASOLINE) -> Floats:
    """Dynamic viscosity, mPa·s: mass-fraction-weighted logarithm of the components (NIST for ethanol)."""
    w, t = ethanol_mass_fraction(ethanol, base), floats(temp_c)
    base_log = np.log(base.viscosity_20c_mpa_s) - base.viscosity_fall_per_k * (t - 20.0)
    return floats(np.exp(w * np.log(_ethanol_viscosity(t)) + (1 - w) * base_log))


def ethanol_mole_fraction(ethanol: Number, base: BaseFuel = GASOLINE) -> Floats:
    """Share of ethanol's molecules in a blend of `ethanol` (volume fraction at 15 °C) in `base`."""
    w = ethanol_mass_fraction(ethanol, base)
    moles = w / ETHANOL.kg_kmol
    return floats(moles / (moles + (1 - w) / base.kg_kmol))


def _rvp_shift_kpa(pct: Floats) -> Floats:
    """Change of Reid pressure, kPa, from 0 to 85 % ethanol: a cubic from point to point."""
    low = np.clip(np.searchsorted(_RVP_SHIFT_PCT, pct, side="right") - 1, 0, _RVP_SHIFT_PCT.size - 2)
    width = _RVP_SHIFT_PCT[low + 1] - _RVP_SHIFT_PCT[low]
    at = (pct - _RVP_SHIFT_PCT[low]) / width
    rise, left = at * at * (3.0 - 2.0 * at), at * (1.0 - at)
    level = _RVP_SHIFT_KPA[low] + (_RVP_SHIFT_KPA[low + 1] - _RVP_SHIFT_KPA[low]) * rise
    bend = left * ((1.0 - at) * _RVP_SHIFT_SLOPE[low] - at * _RVP_SHIFT_SLOPE[low + 1])
    return floats(level + width * bend)


def reid_pressure_kpa(ethanol: Number, base: BaseFuel = GASOLINE) -> Floats:
    """Reid vapour pressure of a blend, kPa, approximate; 16 kPa for pure ethanol.

    In gasoline by a table (Andersen et al. 2010), in other base fuels by mole fraction (Raoult).
    """
    if base.name != GASOLINE.name:
        x = ethanol_mole_fraction(ethanol, base)
        return floats(x * ETHANOL.rvp_kpa + (1 - x) * base.rvp_kpa)
    pct = floats(ethanol) * 100.0
    up_to_85 = base.rvp_kpa + _rvp_shift_kpa(np.minimum(pct, 85.0))
    beyond = np.clip((pct - 85.0) / 15.0, 0.0, 1.0)
    return floats(np.maximum(up_to_85 * (1 - beyond) + ETHANOL.rvp_kpa * beyond, 1.0))


def vapour_pressure_kpa_abs(rvp_kpa: Number, temp_c: Number, slope: float = 3.0) -> Floats:
    """True vapour pressure, kPa absolute, from Reid pressure (EPA AP-42 chapter 7.1, refined stocks).

    `slope` is the 10 % distillation slope, °F per percent; 3 for motor gasoline.
    """
    rvp = np.log10(floats(rvp_kpa) / KPA_PER_PSI)
    rankine = floats(temp_c) * 1.8 + 32.0 + 459.6
    root = np.sqrt(slope)
    exponent = (
        (0.7553 - 413.0 / rankine) * root * rvp
        - (1.854 - 1042.0 / rankine) * root
        + (2416.0 / rankine - 2.013) * rvp
        - 8742.0 / rankine
        + 15.64
    )
    return floats(np.exp(exponent) * KPA_PER_PSI)


def saturation_kpa_abs(alcohol: BaseFuel, temp_c: Number) -> Floats:
    """Vapour pressure of a pure alcohol, kPa absolute (Antoine, NIST). Raises ValueError for a petroleum fuel."""
    if alcohol.antoine is None:
        raise ValueError(f"{alcohol.name} has no saturation curve of its own")
    a, b, c = alcohol.antoine
    return floats(100.0 * 10.0 ** (a - b / (floats(temp_c) + 273.15 + c)))


def blend_vapour_kpa_abs(ethanol: Number, temp_c: Number, base: BaseFuel = GASOLINE) -> Floats:
    """True vapour pressure of a blend, kPa absolute, approximate: `g^(1 − x) · (RVP · e(T) / e(37.78 °C))^x`.

    x is the ethanol's mole fraction, e its own saturation curve, g the base's law at the blend's Reid pressure: AP-42 for
    petroleum, its own curve for an alcohol. Shapes broadcast.
    """
    e, t = np.broadcast_arrays(floats(ethanol), floats(temp_c))
    x, rvp = ethanol_mole_fraction(e, base), reid_pressure_kpa(e, base)

    def as_alcohol(one: BaseFuel) -> Floats:
        return floats(rvp * saturation_kpa_abs(one, t) / saturation_kpa_abs(one, REID_C))

    plain = vapour_pressure_kpa_abs(rvp, t, base.ap42_slope) if base.antoine is None else as_alcohol(base)
    return floats(plain ** (1 - x) * as_alcohol(ETHANOL) ** x)


def blend(ethanol: Number, temp_c: Number, base: BaseFuel = GASOLINE) -> FuelProperties:
    """All properties of a blend of `ethanol` (volume fraction at 15 °C) in `base` at `temp_c`; shapes broadcast."""
    e, t = np.broadcast_arrays(floats(ethanol), floats(temp_c))
    w = ethanol_mass_fraction(e, base)
    rvp = reid_pressure_kpa(e, base)
    return FuelProperties(
        mass_fraction=w,
        stoich_afr=floats(w * ETHANOL.stoich_afr + (1 - w) * base.stoich_afr),
        lhv_mj_kg=floats(w * ETHANOL.lhv_mj_kg + (1 - w) * base.lhv_mj_kg),
        density_kg_m3=density_kg_m3(e, t, base),
        density_15c_kg_m3=density_kg_m3(e, 15.0, base),
        viscosity_mpa_s=viscosity_mpa_s(e, t, base),
        rvp_kpa=rvp,
        vapour_kpa_abs=blend_vapour_kpa_abs(e, t, base),
    )


def volume_ratio_same_air(ethanol: Number, base: BaseFuel = GASOLINE) -> Floats:
    """Fuel volume against the base fuel at equal air and equal λ, at 15 °C."""
    mix, none = blend(ethanol, 15.0, base), blend(0.0, 15.0, base)
    return floats(none.stoich_afr / mix.stoich_afr * none.density_15c_kg_m3 / mix.density_15c_kg_m3)


def volume_ratio_same_energy(ethanol: Number, base: BaseFuel = GASOLINE) -> Floats:
    """Fuel volume against the base fuel at equal heating value, at 15 °C."""
    mix, none = blend(ethanol, 15.0, base), blend(0.0, 15.0, base)
    return floats(none.lhv_mj_kg / mix.lhv_mj_kg * none.density_15c_kg_m3 / mix.density_15c_kg_m3)
