"""A target's fuel as scalars."""

from dataclasses import dataclass, replace
from functools import lru_cache

from ..model import Build, Target, base_fuel
from ..physics import BaseFuel, blend


@dataclass(frozen=True)
class FuelState:
    """A target's fuel at its temperature, scalars."""

    mass_fraction: float
    stoich_afr: float
    lhv_mj_kg: float
    density_kg_m3: float
    density_15c_kg_m3: float
    viscosity_mpa_s: float
    rvp_kpa: float
    vapour_kpa_abs: float


@lru_cache(maxsize=256)
def blend_state(base: BaseFuel, ethanol_pct: float, temp_c: float) -> FuelState:
    """Properties of a blend (% ethanol in `base`) at a temperature, as scalars."""
    mix = blend(ethanol_pct / 100.0, temp_c, base)
    return FuelState(**{name: float(getattr(mix, name)) for name in FuelState.__dataclass_fields__})


def fuel_state(build: Build, target: Target) -> FuelState:
    """Properties of the target's blend at its fuel temperature; a measured vapour pressure replaces the computed one."""
    found = blend_state(base_fuel(build, target.base_fuel), target.ethanol_pct, target.fuel_temp_c)
    return found if target.vapour_kpa_abs is None else replace(found, vapour_kpa_abs=target.vapour_kpa_abs)
