"""Defaults that depend on the car: driveline loss, specific consumption, base fuels, cold-start advice."""

from ..physics import GASOLINE, KG_KWH_PER_LB_HPH, METHANOL, BaseFuel
from .build import Build, Car, Engine, Target
from .evidence import newest

DRIVELINE_LOSS = {"FWD": 0.14, "RWD": 0.16, "AWD": 0.21}
BSFC_LB_HPH = {"naturally aspirated": 0.50, "supercharged": 0.60, "turbocharged": 0.60}
# What the engine is expected to burn, lb/hp·h ± 8 %, and the λ at which it makes its power (physics §2).
EXPECTED_LB_HPH = {"naturally aspirated": 0.45, "supercharged": 0.52, "turbocharged": 0.50}
EXPECTED_LAMBDA = {"naturally aspirated": 0.87, "supercharged": 0.82, "turbocharged": 0.80}
EXPECTED_BAND = 0.08
# Coldest start where none is entered, °C; below which start (°C) a class of the cold-start table begins.
COLDEST_C, COLD_CLASSES_C = 0.0, (20.0, 5.0, -5.0)


def driveline_loss(car: Car) -> float:
    """Loss fraction: as entered, otherwise by layout."""
    return DRIVELINE_LOSS[car.drivetrain] if car.loss_pct is None else car.loss_pct / 100.0


def driveline_share(build: Build) -> float:
    """Loss fraction: as entered, else by the newest pull with the dyno's own crank figure, else by layout."""
    pull = newest(one for one in build.pulls if one.loss is not None)
    if build.car.loss_pct is None and pull is not None and pull.loss is not None:
        return pull.loss
    return driveline_loss(build.car)


def bsfc_kg_kwh(target: Target, engine: Engine) -> float:
    """Specific consumption on gasoline, kg/kWh: the target's own, otherwise by induction."""
    if target.bsfc_kg_kwh is not None:
        return target.bsfc_kg_kwh
    return BSFC_LB_HPH[engine.induction] * KG_KWH_PER_LB_HPH


def expected_bsfc_kg_kwh(target: Target, engine: Engine) -> float:
    """What the engine is expected to burn on gasoline, kg/kWh: by induction, or less where the target says so."""
    return min(EXPECTED_LB_HPH[engine.induction] * KG_KWH_PER_LB_HPH, bsfc_kg_kwh(target, engine))


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


def cold_start_rvp_kpa(build: Build) -> float | None:
    """Least Reid pressure a strong blend wants for the car's coldest start, kPa; None where any starts.

    The temperature classes of the specification for fuel ethanol (ASTM D5798; the shop's own table), a rule of thumb.
    """
    coldest = COLDEST_C if build.car.coldest_c is None else build.car.coldest_c
    mild_c, cool_c, cold_c = COLD_CLASSES_C
    if coldest >= mild_c:
        return None
    rules = build.rules
    return rules.mild_rvp_kpa if coldest > cool_c else rules.cool_rvp_kpa if coldest > cold_c else rules.cold_rvp_kpa
