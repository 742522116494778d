"""Figures of the blend."""

from ...model import base_fuel
from ...physics import ethanol_mass_fraction, volume_ratio_same_air, volume_ratio_same_energy
from ...solve import blend_state
from .base import AnyFigure, Context, Figure, Values

SOURCE = "NIST (ethanol); Heywood, Internal Combustion Engine Fundamentals, appendix D"
_E = ("E", "Ethanol by volume", "ethanol_pct")
_T = ("T", "Fuel temperature", "fuel_temp_c")


def _read(context: Context) -> Values:
    return {"E": context.verdict.target.ethanol_pct, "T": context.verdict.target.fuel_temp_c}


def _property(key: str, label: str, formula: str, source: str = SOURCE, note: str = "") -> Figure:
    _, _, name = key.partition(".")

    def compute(context: Context, x: Values) -> float:
        base = base_fuel(context.build, context.verdict.target.base_fuel)
        return float(getattr(blend_state(base, x["E"], x["T"]), name))

    return Figure(key, label, formula, source, (_E, _T), _read, compute, note)


def _mass_pct(context: Context, x: Values) -> float:
    base = base_fuel(context.build, context.verdict.target.base_fuel)
    return float(ethanol_mass_fraction(x["E"] / 100.0, base)) * 100.0


def _same_air(context: Context, x: Values) -> float:
    return float(volume_ratio_same_air(x["E"] / 100.0, base_fuel(context.build, context.verdict.target.base_fuel)))


def _same_energy(context: Context, x: Values) -> float:
    return float(volume_ratio_same_energy(x["E"] / 100.0, base_fuel(context.build, context.verdict.target.base_fuel)))


_RATIO_NOTE = (
    "The shop rule of about 30 % more for E85 counts on more power from each kilogram of air; equal mixture takes "
    "about 42 %. The efficiency credit of a target chooses between them."
)

FIGURES: tuple[AnyFigure, ...] = (
    _property("fuel.density_kg_m3", "Density", "ρ = mass ÷ volume, each part expanded from 15 °C to T"),
    _property("fuel.stoich_afr", "Stoichiometric air–fuel ratio", "AFR = w × AFR_ethanol + (1 − w) × AFR_base"),
    _property("fuel.lhv_mj_kg", "Heating value", "LHV = w × LHV_ethanol + (1 − w) × LHV_base"),
    _property("fuel.viscosity_mpa_s", "Viscosity", "ln μ = w × ln μ_ethanol + (1 − w) × ln μ_base"),
    _property(
        "fuel.vapour_kpa_abs",
        "True vapour pressure (absolute)",
        "p_v from the blend's Reid pressure and T",
        "EPA AP-42 ch. 7.1; Andersen et al., Energy & Fuels 2010 (blend table)",
        "Approximate: blends follow a table, and winter and summer fuel differ.",
    ),
    Figure(
        "fuel.mass_fraction_pct",
        "Ethanol by mass",
        "w = E × ρ_e ÷ (E × ρ_e + (1 − E) × ρ_base)",
        SOURCE,
        (_E,),
        _read,
        _mass_pct,
    ),
    Figure(
        "fuel.same_air_ratio",
        "Volume against the base fuel, same air and λ",
        "ratio = (AFR × ρ)_base ÷ (AFR × ρ), at 15 °C",
        SOURCE,
        (_E,),
        _read,
        _same_air,
        _RATIO_NOTE,
    ),
    Figure(
        "fuel.same_energy_ratio",
        "Volume against the base fuel, same energy",
        "ratio = (LHV × ρ)_base ÷ (LHV × ρ), at 15 °C",
        SOURCE,
        (_E,),
        _read,
        _same_energy,
        _RATIO_NOTE,
    ),
)
