"""The values sheet in the units chosen, and as files."""

import csv
import io
import re
from dataclasses import dataclass
from typing import Any

from iron_gulp.core.account import Changed, SheetRow
from iron_gulp.formats.cells import neutral
from iron_gulp.services.sheets import Sheet
from iron_gulp.units import BenchUnits, as_input, quantity_of, show

PERMITTED = re.compile(r"boost_e(\d+)_kpa")
TYPED = 4  # digits of a value that was typed in this unit; a longer one was typed in another


@dataclass(frozen=True)
class ShownRow:
    """A value as it reads."""

    label: str
    value: str
    retune: str
    kind: str
    place: dict[str, Any]


@dataclass(frozen=True)
class ShownChange:
    """A value that is another than on the sheet given out."""

    section: str
    label: str
    before: str
    after: str
    retune: str


def shown(value: float | str | None, row: SheetRow, units: BenchUnits) -> tuple[str, str]:
    """A value and its unit as they read: entered ones as typed, constants finer than estimates.

    A value entered in another unit reads like an estimate: its further digits are the conversion's.
    """
    if value is None:
        return "\u2013", ""
    if isinstance(value, str):
        return value, ""
    typed = as_input(value, row.name, units)
    if row.known == "entered" and len(typed.strip("-0").replace(".", "")) <= TYPED:
        return typed, units.unit(quantity_of(row.name)).key
    return show(value, row.name, units, 1 if row.known == "constant" else 0)


def _whole(value: float | str | None, row: SheetRow, units: BenchUnits) -> str:
    return "\u00a0".join(part for part in shown(value, row, units) if part)


def sections_of(found: Sheet, units: BenchUnits) -> list[tuple[str, list[ShownRow]]]:
    """Sections with their rows."""
    return [(one.title, [_shown_row(row, found.anchor, units) for row in one.rows]) for one in found.sections]


def _shown_row(row: SheetRow, anchor: str, units: BenchUnits) -> ShownRow:
    """A row and the number it opens on: what is permitted on a blend is a number of the ceilings; words open on none."""
    kind, place = ("sheet", {"case": row.name}) if not isinstance(row.value, str) else ("", {})
    permitted = PERMITTED.fullmatch(row.name)
    if permitted:
        kind, place = "permitted-boost", {"at": permitted[1], "target": anchor}
    return ShownRow(row.label, _whole(row.value, row, units), row.retune, kind, place)


def changes_of(found: tuple[Changed, ...], units: BenchUnits) -> list[ShownChange]:
    """What must be entered and tuned anew; what reads the same before and after is none."""
    shown = [
        ShownChange(
            one.section,
            one.row.label,
            _whole(one.before, one.row, units),
            _whole(one.after, one.row, units),
            one.row.retune,
        )
        for one in found
    ]
    return [one for one in shown if one.before != one.after]


def as_csv(sheet: Sheet, units: BenchUnits) -> str:
    """The sheet in the units chosen."""
    out = io.StringIO()
    writer = csv.writer(out, lineterminator="\n")
    writer.writerow(["section", "value", "number", "unit", "tune again if it changes"])
    for section in sheet.sections:
        for row in section.rows:
            number, unit = shown(row.value, row, units)
            cells = (section.title, row.label, _bare(number), unit, row.retune)
            writer.writerow([neutral(one) for one in cells])
    return out.getvalue()


def _bare(number: str) -> str:
    """A number that a spreadsheet reads as one."""
    return number.replace("\u202f", "").replace("\u2212", "-")


def as_data(sheet: Sheet, about: dict[str, Any]) -> dict[str, Any]:
    """The sheet as data, every value kept in the unit its name ends in."""

    def rows(found: tuple[SheetRow, ...]) -> dict[str, float | str]:
        return {row.name: row.value for row in found}

    changed = [
        {"name": one.row.name, "before": one.before, "after": one.after, "tune_again": one.row.retune}
        for one in sheet.changed
    ]
    sections = [{"title": one.title, "values": rows(one.rows)} for one in sheet.sections]
    return {**about, "issued_revision": sheet.issued, "changed": changed, "sections": sections}
