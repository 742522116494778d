"""The bench units on offer for each dimension, and conversion by pint."""

import math
from collections.abc import Callable, Mapping
from dataclasses import dataclass
from functools import lru_cache

import pint

from iron_gulp.core.physics import awg_mm2, awg_of

from .names import Quantity


@dataclass(frozen=True)
class BenchUnit:
    """A unit on offer: `key` is what is chosen and shown, `pint` its name there, `decimals` how figures are shown."""

    key: str
    pint: str
    decimals: int


def _units(*rows: tuple[str, str, int]) -> dict[str, BenchUnit]:
    return {key: BenchUnit(key, name, decimals) for key, name, decimals in rows}


CHOICES: dict[str, dict[str, BenchUnit]] = {
    "pressure": _units(
        ("kPa", "kPa", 0), ("bar", "bar", 2), ("psi", "psi", 1), ("kgf/cm²", "kgf/cm**2", 2), ("inHg", "inHg", 1)
    ),
    "flow": _units(("L/h", "L/h", 0), ("cc/min", "cc/min", 0), ("gal/h", "gallon/h", 1)),
    "injector flow": _units(
        ("cc/min", "cc/min", 0), ("lb/h", "catalogue_lb/h", 1), ("lb/h n-heptane", "test_lb/h", 1), ("g/s", "test_g/s", 2)
    ),
    "fuel mass": _units(("kg/h", "kg/h", 1), ("lb/h", "lb/h", 1), ("g/s", "g/s", 2)),
    "air flow": _units(("kg/s", "kg/s", 3), ("g/s", "g/s", 0), ("lb/min", "lb/min", 1)),
    "consumption": _units(("kg/kWh", "kg/kW/h", 3), ("lb/hp·h", "lb/hp/h", 3), ("g/kWh", "g/kW/h", 0)),
    "power": _units(("kW", "kW", 0), ("hp", "hp", 0), ("metric hp", "metric_hp", 0)),
    "temperature": _units(("°C", "degC", 0), ("°F", "degF", 0)),
    "length": _units(("m", "m", 2), ("ft", "ft", 2), ("inch", "inch", 1)),
    "bore": _units(("mm", "mm", 1), ("inch", "inch", 3), ("dash", "dash", 2)),
    "displacement": _units(("L", "L", 2), ("ci", "inch**3", 0), ("cc", "milliliter", 0)),
    "mixture": _units(("λ", "dimensionless", 3), ("AFR", "gasoline_lambda", 2)),
    "volume": _units(("L", "L", 1), ("gal", "gallon", 1)),
    "wire": _units(("mm²", "mm**2", 1), ("AWG", "", 1)),
}
# Scales that are no multiple of the kept unit: (to be shown, to be kept).
CURVED: dict[str, tuple[Callable[[float], float], Callable[[float], float]]] = {"AWG": (awg_of, awg_mm2)}
DEFAULT_UNITS = {dimension: next(iter(units)) for dimension, units in CHOICES.items()}
PRESETS: dict[str, dict[str, str]] = {
    "Metric, kPa": DEFAULT_UNITS,
    "Metric, kPa and hp": {**DEFAULT_UNITS, "power": "hp"},
    "Metric, bar": {**DEFAULT_UNITS, "pressure": "bar", "power": "metric hp"},
    "US": {
        **DEFAULT_UNITS,
        "pressure": "psi",
        "flow": "gal/h",
        "injector flow": "lb/h",
        "fuel mass": "lb/h",
        "air flow": "lb/min",
        "consumption": "lb/hp·h",
        "power": "hp",
        "temperature": "°F",
        "length": "ft",
        "bore": "inch",
        "volume": "gal",
        "displacement": "ci",
        "mixture": "AFR",
        "wire": "AWG",
    },
}


@lru_cache(maxsize=1)
def registry() -> pint.UnitRegistry[float]:
    """The unit registry: pint's own, with the trade's additions.

    Injector ratings quoted in lb/h follow catalogues, about 10.5 cc/min each (0.72 kg/L); those in g/s, and in lb/h of
    n-heptane where that is asked for, 684 kg/m³ (SAE J1832). hp is the mechanical horsepower. A dash
    size counts sixteenths of an inch of nominal bore.
    """
    units: pint.UnitRegistry[float] = pint.UnitRegistry(autoconvert_offset_to_baseunit=False)
    units.define("@alias horsepower = hp")
    units.define("test_g = (1 / 0.684) * milliliter")
    units.define("test_lb = 453.59237 * test_g")
    units.define("catalogue_lb = 453.59237 / 0.72 * milliliter")
    units.define("metric_hp = 735.49875 * watt")
    units.define("dash = inch / 16")
    # Gauges show air to fuel on the gasoline scale, 14.7 at λ 1, whatever is burnt.
    units.define("gasoline_lambda = 1 / 14.7")
    return units


@lru_cache(maxsize=512)
def linear(source: str, target: str) -> tuple[float, float]:
    """Scale and offset that take a number from one pint unit to another."""
    units = registry()
    at_zero = units.Quantity(0.0, source).to(target).magnitude
    at_one = units.Quantity(1.0, source).to(target).magnitude
    if at_zero == 0:
        return float(at_one), 0.0
    # A far point keeps the scale of offset units clean.
    far = units.Quantity(1000.0, source).to(target).magnitude
    return round(float((far - at_zero) / 1000.0), 14), float(at_zero)


class BenchUnits:
    """The units chosen, by dimension; unknown choices fall back to the default."""

    def __init__(self, chosen: Mapping[str, str] | None = None):
        asked = chosen or {}
        self.chosen = {
            dimension: asked[dimension] if asked.get(dimension) in units else DEFAULT_UNITS[dimension]
            for dimension, units in CHOICES.items()
        }

    def instead(self, quantity: Quantity, key: str) -> "BenchUnits":
        """The same with a quantity in another of its units; the same where it has no such unit."""
        if key not in CHOICES.get(quantity.dimension, {}) or self.chosen[quantity.dimension] == key:
            return self
        return BenchUnits({**self.chosen, quantity.dimension: key})

    def unit(self, quantity: Quantity) -> BenchUnit:
        """The unit a quantity is shown in."""
        if not quantity.dimension:
            return BenchUnit(quantity.symbol, "", quantity.decimals)
        return CHOICES[quantity.dimension][self.chosen[quantity.dimension]]

    def shown(self, value: float, quantity: Quantity) -> float:
        """A kept value in the chosen unit."""
        unit = self.unit(quantity)
        kept = kept_unit(quantity)
        if kept is None or unit.key == kept.key:
            return value
        if unit.key in CURVED:
            return round(CURVED[unit.key][0](value), 12)
        scale, offset = linear(kept.pint, unit.pint)
        return value * scale + offset

    def kept(self, value: float, quantity: Quantity, unit: BenchUnit | None = None) -> float:
        """A value in the chosen (or the given) unit brought to the unit it is kept in."""
        given, kept = unit or self.unit(quantity), kept_unit(quantity)
        if kept is None or given.key == kept.key:
            return value
        if given.key in CURVED:
            return CURVED[given.key][1](value)
        scale, offset = linear(given.pint, kept.pint)
        return value * scale + offset


def kept_unit(quantity: Quantity) -> BenchUnit | None:
    """The bench unit a quantity is kept in; None for quantities without a choice."""
    return CHOICES[quantity.dimension][quantity.kept] if quantity.dimension else None


def finite(value: float | None) -> bool:
    """Whether there is a number to show."""
    return value is not None and math.isfinite(value)
