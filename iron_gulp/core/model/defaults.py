"""Defaults that depend on the car: driveline loss, specific consumption, base fuels, cold-start advice."""

from ..physics import GASOLINE, KG_KWH_PER_LB_HPH, METHANOL, BaseFuel
from .build import Build, Car, Engine, Option, Target
from .evidence import newest

DRIVELINE_LOSS = {"FWD": 0.14, "RWD": 0.16, "AWD": 0.21}
# What systems are sized for, lb/hp·h: it holds a reserve. Boosted engines with a direct side burn less.
BSFC_LB_HPH = {"naturally aspirated": 0.50, "supercharged": 0.60, "turbocharged": 0.60}
DIRECT_LB_HPH = {"naturally aspirated": 0.50, "supercharged": 0.53, "turbocharged": 0.53}
# What the engine is expected to burn, lb/hp·h ± 8 %, and the λ at which it makes its power (physics §2).
EXPECTED_LB_HPH = {"naturally aspirated": 0.45, "supercharged": 0.52, "turbocharged": 0.50}
EXPECTED_LAMBDA = {"naturally aspirated": 0.87, "supercharged": 0.82, "turbocharged": 0.80}
EXPECTED_DIRECT_LB_HPH = {"naturally aspirated": 0.45, "supercharged": 0.47, "turbocharged": 0.44}
EXPECTED_DIRECT_LAMBDA = {"naturally aspirated": 0.87, "supercharged": 0.83, "turbocharged": 0.83}
EXPECTED_BAND = 0.08
# How much of its time a car is at full load by its use, and how long at a time, s (physics §6).
LOAD_SHARE = {"street": 0.35, "drag": 0.2, "rally": 0.5, "track": 0.65, "hill climb": 0.7, "salt flat": 0.9}
LOAD_S = {"street": 15.0, "drag": 12.0, "rally": 30.0, "track": 60.0, "hill climb": 120.0, "salt flat": 120.0}
DRIVEN_HARD = ("track", "rally", "hill climb")  # corners and braking uncover an open pickup
# Alcohol as run: so much less energy a kilowatt at the ethanol's mass share of E85, in proportion elsewhere.
AS_RUN_CREDIT, AS_RUN_SHARE = 0.08, 0.858
# Coldest start where none is entered, °C; below which start (°C) a class of the cold-start table begins.
COLDEST_C, COLD_CLASSES_C = 0.0, (20.0, 5.0, -5.0)


def time_at_load_s(target: Target, car: Car) -> float:
    """How long a target's load lasts at a time, s: as entered, otherwise by use."""
    return LOAD_S[car.use] if target.load_s is None else target.load_s


def driveline_loss(car: Car) -> float:
    """Loss fraction: as entered, otherwise by layout."""
    return DRIVELINE_LOSS[car.drivetrain] if car.loss_pct is None else car.loss_pct / 100.0


def driveline_share(build: Build) -> float:
    """Loss fraction: as entered, else by the newest pull with the dyno's own crank figure, else by layout."""
    pull = newest(one for one in build.pulls if one.loss is not None)
    if build.car.loss_pct is None and pull is not None and pull.loss is not None:
        return pull.loss
    return driveline_loss(build.car)


def injects_directly(option: Option) -> bool:
    """Whether a system has a direct side that is at work."""
    return option.high_side is not None and option.mode != "port only"


def bsfc_kg_kwh(target: Target, engine: Engine, direct: bool) -> float:
    """Consumption on gasoline a target is sized for, kg/kWh: its own, otherwise by induction and injection."""
    if target.bsfc_kg_kwh is not None:
        return target.bsfc_kg_kwh
    return (DIRECT_LB_HPH if direct else BSFC_LB_HPH)[engine.induction] * KG_KWH_PER_LB_HPH


def expected_bsfc_kg_kwh(target: Target, engine: Engine, direct: bool) -> float:
    """What the engine is expected to burn on gasoline, kg/kWh: the target's own, otherwise by induction and injection."""
    if target.expected_bsfc_kg_kwh is not None:
        return target.expected_bsfc_kg_kwh
    return (EXPECTED_DIRECT_LB_HPH if direct else EXPECTED_LB_HPH)[engine.induction] * KG_KWH_PER_LB_HPH


def expected_lambda(engine: Engine, direct: bool) -> float:
    """The mixture at which the engine is expected to make its power."""
    return (EXPECTED_DIRECT_LAMBDA if direct else EXPECTED_LAMBDA)[engine.induction]


def credit_share(target: Target, ethanol_share: float) -> float:
    """Efficiency credit on alcohol, a share, with the ethanol's mass share of the blend: typed, none, or as run."""
    typed, per_share = credit_terms(target)
    return typed + per_share * ethanol_share


def alcohol_counted(build: Build) -> str:
    """By which school a build counts alcohol, in words; "" where no target burns any."""
    strong = [one for one in build.targets if one.ethanol_pct > 0]
    schools = dict.fromkeys(one.alcohol for one in strong)
    if len(schools) > 1:
        return "mixed"
    credits = sorted({one.efficiency_credit_pct for one in strong}) or [0.0]
    span = f"{credits[0]:g}" if len(credits) < 2 else f"{credits[0]:g} to {credits[-1]:g}"
    typed = f"typed credit, {span} %"
    return "" if not schools else typed if "typed credit" in schools else next(iter(schools))


def credit_terms(target: Target) -> tuple[float, float]:
    """Credit as (typed on every blend, for all of the mass being ethanol), shares."""
    if target.alcohol == "as run":
        return 0.0, AS_RUN_CREDIT / AS_RUN_SHARE
    return (target.efficiency_credit_pct / 100.0 if target.alcohol == "typed credit" else 0.0), 0.0


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
