"""Defaults that depend on the car: driveline loss, specific consumption, base fuels, cold-start advice."""

from ..physics import GASOLINE, KG_KWH_PER_LB_HPH, METHANOL, BaseFuel
from .build import Build, Car, Duty, Engine

DRIVELINE_LOSS = {"FWD": 0.14, "RWD": 0.16, "AWD": 0.21}
BSFC_LB_HPH = {"naturally aspirated": 0.50, "supercharged": 0.60, "turbocharged": 0.60}
# Rule of thumb: below this ambient temperature (°C), no more than this ethanol content (%) for a cold start.
COLD_START_PCT = ((3.0, 15.0), (10.0, 55.0))


def driveline_loss(car: Car) -> float:
    """Loss fraction: measured when entered, otherwise by layout."""
    return DRIVELINE_LOSS[car.drivetrain] if car.loss_pct is None else car.loss_pct / 100.0


def bsfc_kg_kwh(duty: Duty, engine: Engine) -> float:
    """Specific consumption on gasoline, kg/kWh: the duty's own, otherwise by induction."""
    if duty.bsfc_kg_kwh is not None:
        return duty.bsfc_kg_kwh
    return BSFC_LB_HPH[engine.induction] * KG_KWH_PER_LB_HPH


def base_fuel(build: Build, fuel_id: str) -> BaseFuel:
    """The base fuel of this id. Raises KeyError when unknown."""
    if fuel_id == "gasoline":
        return GASOLINE
    if fuel_id == "methanol":
        return METHANOL
    for fuel in build.fuels:
        if fuel.id == fuel_id:
            return BaseFuel(
                fuel.name,
                fuel.density_15c_kg_m3,
                fuel.expansion_per_k,
                fuel.stoich_afr,
                fuel.lhv_mj_kg,
                fuel.viscosity_20c_mpa_s,
                fuel.rvp_kpa,
            )
    raise KeyError(f"no base fuel {fuel_id!r}")


def cold_start_limit_pct(ambient_c: float) -> float:
    """Most ethanol for a cold start at this ambient temperature, % (rule of thumb; 100 when unlimited)."""
    for below_c, limit_pct in COLD_START_PCT:
        if ambient_c < below_c:
            return limit_pct
    return 100.0
