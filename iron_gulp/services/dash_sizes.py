"""Dash sizes of lines: a number of sixteenths of an inch by name, the construction's own bore inside."""

import re
from collections.abc import Sequence

from iron_gulp.core.model import Build, Edit, EditError, LinePart, value_at
from iron_gulp.units import BenchUnits, unit_said

DASH_MM = 25.4 / 16.0
DIFFERS = 0.02  # of the number's bore: from there it is told
_BORE = re.compile(r"(.+)/part/bore_mm")
_SIZE = re.compile(r"dash (\d{1,2})")


def sold_as(lines: Sequence[LinePart], construction: str, bore_mm: float) -> LinePart | None:
    """The line of a construction whose dash number stands for so many millimetres; None where none is sold."""
    size = f"dash {bore_mm / DASH_MM:.0f}"
    return next((one for one in lines if one.construction == construction and one.size == size), None)


def line_meant(
    build: Build, path: str, typed: str, value: float, lines: Sequence[LinePart], units: BenchUnits
) -> list[Edit]:
    """The line of that number in place of the fitted one, where a dash size was typed as a line's bore; else nothing."""
    found = _BORE.fullmatch(path)
    if found is None or unit_said(typed, "bore_mm", units) != "dash":
        return []
    holder = f"{found.group(1)}/part"
    try:
        construction = value_at(build, f"{holder}/construction")
    except EditError:
        return []  # no line, such as a rail
    part = sold_as(lines, construction, value)
    return [] if part is None else [(holder, part.model_dump(mode="json"))]


def differs_mm(size: str, bore_mm: float) -> float | None:
    """The bore by the number of a dash size, mm, where a line's own is another; None where it is not, or by no number."""
    found = _SIZE.fullmatch(size)
    by_number = DASH_MM * int(found.group(1)) if found else bore_mm
    return by_number if abs(bore_mm - by_number) > DIFFERS * by_number else None
