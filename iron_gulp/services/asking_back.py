"""What may have been meant where what was typed cannot be taken as it stands: asked back, each to be taken with one key.

A comma before three digits may part thousands or decimals. A bare number that cannot be in the unit chosen, or hardly,
may be plain in another.
"""

import re
from collections.abc import Callable
from math import isclose

from iron_gulp.units import CHOICES, BenchUnits, Unreadable, quantity_of, read_number, read_quantity

_COMMA = re.compile(r"([+-]?[1-9]\d{0,2}),(\d{3})(?!\d)")
# What such a thing hardly ever is outside of, in the unit it is kept in, though a build may hold it.
PLAUSIBLE = {"displacement_l": (0.1, 20.0)}


def meant(typed: str, name: str, units: BenchUnits, allowed: Callable[[float], bool]) -> tuple[str, ...]:
    """What to write instead, for a field `name` that takes what is `allowed` (in the unit it is kept in)."""
    if _COMMA.search(typed):
        return tuple(_COMMA.sub(rf"\1{point}\2", typed).strip() for point in ("", "."))
    quantity = quantity_of(name)
    try:
        number = read_number(typed)
    except Unreadable:
        return ()
    found: dict[str, float] = {}
    for key, unit in CHOICES.get(quantity.dimension, {}).items():
        if key == "inHg" and "manifold" not in name:
            continue  # a vacuum is meant by it
        try:
            value = units.kept(number, quantity, unit)
        except (OverflowError, ValueError):
            continue
        # What is nearly the same in two units, as bar and kgf/cm², is asked once.
        alike = any(isclose(value, one, rel_tol=0.03) for one in found.values())
        if allowed(value) and _plausible(name, value) and not alike:
            found[f"{typed.strip()} {key}"] = value
    return tuple(found)


def hardly(typed: str, name: str, units: BenchUnits) -> bool:
    """Whether a bare number hardly can be in the unit chosen."""
    try:
        read_number(typed)
        return not _plausible(name, read_quantity(typed, name, units))
    except Unreadable:
        return False


def _plausible(name: str, value: float) -> bool:
    low, high = PLAUSIBLE.get(name, (float("-inf"), float("inf")))
    return low <= value <= high
