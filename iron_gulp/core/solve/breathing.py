"""What an engine breathes by what it has done: pulls that count bound the air question (physics §2)."""

from collections.abc import Iterator
from dataclasses import dataclass

from ..model import (
    Build,
    Target,
    base_fuel,
    credit_share,
    driveline_share,
    expected_bsfc_kg_kwh,
    expected_lambda,
)
from ..physics import GASOLINE, air_kg_s, blend_bsfc_kg_kwh, crank_power_kw, fuel_from_power_kg_s
from .fuel_state import blend_state

MOST_MORE = 1.1  # a pull speaks for no more than a tenth above its own pressure, and its own speed


@dataclass(frozen=True)
class Done:
    """What a pull has shown: crank power, kW, at an absolute manifold pressure, kPa, and a speed, on its own blend."""

    crank_kw: float
    kpa_abs: float
    rpm: float
    ethanol_pct: float
    base_fuel: str

    def borne_kw(self, kpa_abs: float, rpm: float) -> float:
        """Crank power it speaks for at a pressure and a speed, kW."""
        return self.crank_kw * min(kpa_abs / self.kpa_abs, MOST_MORE) * min(rpm / self.rpm, MOST_MORE)


def done_by(build: Build) -> Iterator[Done]:
    """What each pull of a build that counts has shown; at the barometer of the build."""
    for one in build.pulls:
        if one.counts == "counts":
            crank = float(crank_power_kw(one.as_measured_kw, driveline_share(build)))
            yield Done(crank, build.car.barometer_kpa + one.boost_kpa, one.rpm, one.ethanol_pct, one.base_fuel)


def bounding_pull(build: Build, target: Target) -> Done | None:
    """The pull that speaks for most power at a target's own point; None without one."""
    kpa_abs = build.car.barometer_kpa + target.boost_kpa
    return max(done_by(build), key=lambda one: one.borne_kw(kpa_abs, target.rpm), default=None)


def air_bsfc_kg_kwh(build: Build, target: Target, direct: bool) -> float:
    """Consumption on gasoline by which the air is asked about, kg/kWh: the expected, fitted to the pull nearest by
    pressure × speed where one counts. It holds the error of the volumetric efficiency too."""
    expected, engine = expected_bsfc_kg_kwh(target, build.engine, direct), build.engine
    here = (build.car.barometer_kpa + target.boost_kpa) * target.rpm
    pull = min(done_by(build), key=lambda one: abs(one.kpa_abs * one.rpm - here), default=None)
    if pull is None:
        return expected
    fuel = blend_state(base_fuel(build, pull.base_fuel), pull.ethanol_pct, target.fuel_temp_c)
    credit = credit_share(target, fuel.mass_fraction)
    bsfc = blend_bsfc_kg_kwh(expected, GASOLINE.lhv_mj_kg, fuel.lhv_mj_kg, credit)
    needed = fuel_from_power_kg_s(pull.crank_kw, bsfc) * expected_lambda(engine, direct) * fuel.stoich_afr
    ve = (engine.ve_pct if target.ve_pct is None else target.ve_pct) / 100.0
    air = air_kg_s(engine.displacement_l, pull.rpm, ve, pull.kpa_abs, target.charge_temp_c)
    return expected * float(air / needed)
