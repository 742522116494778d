"""Showing quantities: figures rounded for reading, inputs exactly as they were typed."""

import math
import re
from collections.abc import Mapping

from .bench import BenchUnits, finite
from .names import quantity_of
from .reading import read_quantity

SIGNIFICANT, SHORT = 3, 9
ENDLESS = "∞"
NOTHING = "–"
_PLACEHOLDER = re.compile(r"\{(\w+)\}")


def show(value: float | None, name: str, units: BenchUnits, finer: int = 0) -> tuple[str, str]:
    """A figure for reading: (number, unit symbol). `name` ends in the unit the value is kept in.

    Estimates have three significant digits and are never finer than a bench instrument; an opened figure shows `finer`
    digits more.
    """
    quantity = quantity_of(name)
    unit = units.unit(quantity)
    if value is None or not finite(value):
        return (ENDLESS if value is not None and value > 0 else NOTHING), unit.key
    significant = None if quantity.exact else SIGNIFICANT + finer
    if quantity.dimension == "wire" and unit.key == "mm²" and value < 1.0 and round(value, 1) != round(value, 2):
        finer += 1  # wires below 1 mm² are sold by hundredths
    return _gauge(number(units.shown(value, quantity), unit.decimals + finer, significant), unit.key), unit.key


def number(value: float, decimals: int, significant: int | None = None) -> str:
    """A number with thin-space thousands and a true minus, rounded to decimals and to significant digits.

    One that would read as zero shows its first digit, unless it is a residue.
    """
    if significant == SIGNIFICANT and abs(value) < 1e6 and value == round(value):
        decimals = 0  # what is set to a whole number reads as one
    if value != 0 and significant is not None:
        rounded = float(f"{value:.{significant - 1}e}")
        places = significant - 1 - _magnitude(rounded)
        # Rounded once only, to whichever is coarser.
        value, decimals = (rounded, 0) if places < 0 else (value, min(decimals, places))
    if 0.005 * 10**-decimals <= abs(value) < 0.5 * 10**-decimals:
        decimals = -_magnitude(value)
    text = f"{value:,.{decimals}f}".replace(",", "\u202f")
    if float(text.replace("\u202f", "")) == 0:
        text = text.lstrip("-")
    return text.replace("-", "−")


def signed(value: float, decimals: int = 0) -> str:
    """A number with its sign, a true minus."""
    return f"{value:+.{decimals}f}".replace("-", "−")


def _magnitude(value: float) -> int:
    return int(f"{value:.12e}".split("e")[1])


def show_text(template: str, values: Mapping[str, float | str], units: BenchUnits) -> str:
    """A text with `{name}` filled in, numbers in bench units."""

    def fill(match: re.Match[str]) -> str:
        value = values[match.group(1)]
        if isinstance(value, str):
            return value
        shown, symbol = show(value, match.group(1), units)
        return f"{shown}\u00a0{symbol}" if symbol else shown

    return _PLACEHOLDER.sub(fill, template)


def as_input(value: float | int | None, name: str, units: BenchUnits) -> str:
    """What an input field holds: exactly what was typed if typed in this unit, otherwise five significant digits.

    A value typed in a unit has a short decimal form in that unit, and only there (up to rounding noise of the
    conversion); that form is what is looked for.
    """
    if value is None:
        return ""
    shown = units.shown(float(value), quantity_of(name))
    if shown == 0:
        return _gauge("0", units.unit(quantity_of(name)).key)
    for digits in range(1, 12):
        text = f"{shown:.{digits}g}"
        if math.isclose(float(text), shown, rel_tol=1e-13, abs_tol=0):
            return _gauge(_plain(text), units.unit(quantity_of(name)).key)
    return _plain(f"{shown:.5g}")


def short_in(value: float, name: str, units: BenchUnits) -> bool:
    """Whether a value has a short form in these units, as one has that was typed in them."""
    text = as_input(value, name, units)
    return len(text) <= SHORT and math.isclose(read_quantity(text, name, units), value, rel_tol=1e-12, abs_tol=0)


def _gauge(text: str, unit: str) -> str:
    """Thick wires as the trade writes them: 0 is 1/0, −1 is 2/0."""
    whole = re.fullmatch(r"(?:0|[-−]([1-3]))", text) if unit == "AWG" else None
    return text if whole is None else f"{int(whole.group(1) or 0) + 1}/0"


def _plain(text: str) -> str:
    return f"{float(text):.12f}".rstrip("0").rstrip(".") if "e" in text else text
