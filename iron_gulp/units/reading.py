"""Reading what people type into a field: a number, or a number with a unit of the right kind."""

import math
import re

from pint.errors import PintError

from .bench import CHOICES, BenchUnit, BenchUnits, registry
from .names import Quantity, quantity_of

_NUMBER = re.compile(r"^\s*([+\-−]?(?:\d+(?:[.,]\d*)?|[.,]\d+)(?:[eE][+\-]?\d{1,3})?)\s*(\D.*)?$", re.DOTALL)
_SPELLINGS = {
    "kgf/cm2": "kgf/cm²",
    "kg/cm2": "kgf/cm²",
    "l/h": "L/h",
    "lph": "L/h",
    "gph": "gal/h",
    "cc": "cc/min",
    "cc/m": "cc/min",
    "ml/min": "cc/min",
    "psig": "psi",
    "cid": "ci",
    "cuin": "ci",
    "cu.in": "ci",
    "in3": "ci",
    "in³": "ci",
    "in.hg": "inHg",
    "an": "dash",
    "ga": "AWG",
    "gauge": "AWG",
    "mm2": "mm²",
    "sqmm": "mm²",
    "lb/hr": "lb/h",
    "lbs/hr": "lb/h",
    "lbs/h": "lb/h",
    "pph": "lb/h",
    "kpa": "kPa",
    "c": "°C",
    "degc": "°C",
    "f": "°F",
    "degf": "°F",
    "kw": "kW",
    **dict.fromkeys(("whp", "bhp", "rwhp", "fwhp", "wheelhp", "crankhp", "hpatthewheels", "hpatthecrank"), "hp"),
    "ps": "metric hp",
    "cv": "metric hp",
    "in": "inch",
    '"': "inch",
    "'": "ft",
    "l": "L",
    "lb/hp/h": "lb/hp·h",
    "lb/hph": "lb/hp·h",
}
# Unit text that pint may be asked about: a few unit words with small powers, nothing to evaluate.
_UNIT_TEXT = re.compile(r"^[A-Za-zµ°]{1,16}(?:\*\*[23]|[²³23])?(?:[/*·][A-Za-zµ°]{1,16}(?:\*\*[23]|[²³23])?){0,3}$")
# Units of one-unit quantities, and their accepted spellings.
_FIXED = {"%": {"%", "pct", "percent"}, "µm": {"um", "µm", "micron", "microns"}}


GAUGES = (-3, 40)  # 4/0 is −3
# An altitude may be typed where the barometer is asked for.
_METRES = {"m": 1.0, "ft": 0.3048, "'": 0.3048}


class Unreadable(ValueError):
    """What was typed cannot be read; the message says why and what would be."""


def read_number(text: str) -> float:
    """A plain number. Raises Unreadable."""
    value, rest = _split(text)
    if rest:
        raise Unreadable(f"“{_short(rest)}” is not part of a number")
    return value


def read_quantity(text: str, name: str, units: BenchUnits) -> float:
    """What was typed for the field `name`, in the unit it is kept in. Raises Unreadable.

    Without a unit the bench unit counts; with one, that unit, if it measures the same thing.
    """
    quantity = quantity_of(name)
    text = _plain_words(text, name)
    value, rest = _split(text)
    if not rest:
        return _kept(units, value, quantity, None)
    if name == "barometer_kpa" and rest.lower() in _METRES:
        return _at_altitude_kpa(value * _METRES[rest.lower()])
    unit = _unit(rest, quantity, units)
    if unit and unit.key == "inHg" and "manifold" in name:
        value = -abs(value)  # a gauge in inches of mercury at a manifold reads vacuum
    # The trade writes dash sizes with a leading dash, which is no minus.
    return _kept(units, abs(value) if unit and unit.key == "dash" else value, quantity, unit)


def unit_said(text: str, name: str, units: BenchUnits) -> str:
    """The unit that was typed with a value of the field `name`, if it is one to choose; "" without one."""
    quantity = quantity_of(name)
    try:
        _, rest = _split(_plain_words(text, name))
        unit = _unit(rest, quantity, units) if rest and quantity.dimension else None
    except Unreadable:
        return ""
    return unit.key if unit is not None and unit.key in CHOICES[quantity.dimension] else ""


def _plain_words(text: str, name: str) -> str:
    """What the trade writes before or around a number, brought to a number with a unit."""
    text = text.strip()
    if quantity_of(name).symbol == "%" and (found := re.fullmatch(r"[eEmM]\s?(\d{1,3}(?:[.,]\d+)?)", text)):
        return found.group(1)
    if found := re.fullmatch(r"dash\s*-?(\d{1,2})", text, re.IGNORECASE):
        return f"{found.group(1)} dash"
    if (said := _said(text, name)) is not None:
        return said
    if quantity_of(name).dimension == "wire" and (found := re.fullmatch(r"([1-4])/0\s*(\D.*)?", text)):
        return f"{1 - int(found.group(1))} {found.group(2) or 'AWG'}"
    if found := re.fullmatch(r"(?:(\d{1,3})[ -])?(\d{1,3})/(\d{1,3})\s*(\D.*)", text):
        whole, over, under, rest = found.groups()
        if int(under):
            return f"{float(whole or 0) + int(over) / int(under):.10g} {rest}"
    return text


# What the trade writes for a quantity: its dimension, the writing, and the same as a number with a unit.
_WRITINGS = (
    ("bore", r"(?:AN\s*-?|#\s*|[-\u2212])(\d{1,2})(?:\s*AN)?", r"\1 dash"),
    ("bore", r"(\d{1,2})\s*AN", r"\1 dash"),
    ("bore", r"(?:(\d{1,2})[ -])?(\d{1,2})/(\d{1,2})", r'\g<0> "'),
    ("wire", r"#\s*(\d{1,2})", r"\1 AWG"),
    ("mixture", r"(?:lambda|λ|l)\s*=?\s*(\d*[.,]?\d+)", r"\1 λ"),
    ("mixture", r"(\d*[.,]?\d+)\s*(?:lambda|l)", r"\1 λ"),
    ("mixture", r"(\d+(?:[.,]\d+)?)\s*:\s*1", r"\1 AFR"),
    ("displacement", r"(\d+(?:[.,]\d+)?)\s*(?:T|TT|TFT|SC)", r"\1 L"),
)
_THOUSANDS = re.compile(r"(\d{1,3}(?:[.,]\d{1,2})?)\s*k", re.IGNORECASE)
_CYLINDERS = re.compile(r"(?:V|W|I|L|R|flat|inline|straight)[ -]?(\d{1,2})", re.IGNORECASE)


def _said(text: str, name: str) -> str | None:
    """What was typed in one of the trade's writings, as a number with a unit; None where it is in none of them."""
    quantity = quantity_of(name)
    for dimension, writing, means in _WRITINGS:
        if dimension == quantity.dimension and (found := re.fullmatch(writing, text, re.IGNORECASE)):
            return _plain_words(found.expand(means), name) if "/" in text else found.expand(means)
    if quantity.symbol == "rpm" and (found := _THOUSANDS.fullmatch(text)):
        return f"{float(found.group(1).replace(',', '.')) * 1000:.10g}"
    if name == "cylinders" and (found := _CYLINDERS.fullmatch(text)):
        return found.group(1)
    return None


_QUOTED = (("wheels", r"(?:[rf]?whp|wheels?)"), ("crank", r"(?:bhp|crank|flywheel)"))


def where_quoted(text: str) -> str | None:
    """Where a power is quoted by what was typed: at the "wheels" or the "crank"; None where that is not said."""
    return next((place for place, said in _QUOTED if re.search(rf"(?<![a-z]){said}(?![a-z])", text.lower())), None)


def _at_altitude_kpa(metres: float) -> float:
    """Air pressure at an altitude in the standard atmosphere (ISO 2533, troposphere), kPa. Raises Unreadable."""
    if not -500.0 <= metres <= 9000.0:
        raise Unreadable("an altitude from −500 to 9000 m can be typed here, or a pressure")
    return float(101.325 * (1.0 - 2.25577e-5 * metres) ** 5.25588)


def _kept(units: BenchUnits, value: float, quantity: Quantity, unit: BenchUnit | None) -> float:
    if (unit or units.unit(quantity)).key == "AWG" and not GAUGES[0] <= value <= GAUGES[1]:
        raise Unreadable("wire gauges from 4/0 to 40 are known here")
    return _finite(units.kept(value, quantity, unit))


def _finite(value: float) -> float:
    if not math.isfinite(value):
        raise Unreadable("that number is too large")
    return value


def _split(text: str) -> tuple[float, str]:
    if not text.strip():
        raise Unreadable("a value is needed here")
    match = _NUMBER.match(text)
    if match is None:
        raise Unreadable(f"“{_short(text)}” is not a number")
    digits = match.group(1).replace("−", "-").replace(",", ".")
    rest = (match.group(2) or "").strip()
    if re.match(r"^[.,]\d", rest):
        raise Unreadable("write thousands without a separator, for example 1050 or 1050.5")
    if found := re.fullmatch(r"[+-]?([1-9]\d{0,2}),(\d{3})", match.group(1).replace("−", "-")):
        # Commas are decimals here, and thousands elsewhere: no guess may be a thousandfold wrong.
        raise Unreadable(
            f"write {''.join(found.groups())} or {'.'.join(found.groups())}: a comma may be meant for either"
        )
    value = float(digits)
    if not math.isfinite(value):
        raise Unreadable("that number is too large")
    return value, rest


def _unit(text: str, quantity: Quantity, units: BenchUnits) -> BenchUnit | None:
    squeezed = re.sub(r"\s+", " ", text.strip())
    if not quantity.dimension:
        spellings = _FIXED.get(quantity.symbol, set()) | {quantity.symbol.lower(), quantity.symbol}
        if quantity.symbol and squeezed.lower() in spellings:
            return None
        wanted = f"this field is in {quantity.symbol}" if quantity.symbol else "this field is a plain number"
        raise Unreadable(f"“{_short(squeezed)}” does not fit: {wanted}")
    choices = CHOICES[quantity.dimension]
    key = _SPELLINGS.get(squeezed.lower().replace(" ", ""), squeezed)
    for unit in choices.values():
        if unit.key.lower() == key.lower():
            return unit
    offered = ", ".join(choices)
    try:
        if not _UNIT_TEXT.match(squeezed.replace(" ", "")):
            raise ValueError(squeezed)
        parsed = registry().parse_units(squeezed)
    except (PintError, ValueError, TypeError, AttributeError):
        raise Unreadable(f"“{_short(squeezed)}” is not a unit known here; try {offered}") from None
    kept = CHOICES[quantity.dimension][quantity.kept]
    if parsed.dimensionality != registry().parse_units(kept.pint).dimensionality:
        raise Unreadable(
            f"“{_short(squeezed)}” measures something else; this field is a {quantity.dimension} ({offered})"
        )
    return BenchUnit(squeezed, str(parsed), 3)


def _short(text: str) -> str:
    stripped = " ".join(text.split())
    return stripped if len(stripped) <= 24 else stripped[:23] + "…"
