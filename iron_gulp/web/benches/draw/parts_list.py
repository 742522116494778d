"""The parts list by section, in bench units."""

from dataclasses import dataclass
from itertools import groupby

from iron_gulp.core.account import Item, parts_list
from iron_gulp.services.workshop import Bench
from iron_gulp.units import BenchUnits, show


@dataclass(frozen=True)
class ItemView:
    place: str
    part: str
    size: str
    quantity: str
    usual: bool


def parts_list_view(bench: Bench, units: BenchUnits) -> list[tuple[str, list[ItemView]]]:
    """Sections in flow order with their rows; a place is named once."""
    items = parts_list(bench.build, bench.option, bench.judged.verdicts)
    return [(section, _rows(list(rows), units)) for section, rows in groupby(items, key=lambda item: item.section)]


def _rows(items: list[Item], units: BenchUnits) -> list[ItemView]:
    rows, before = [], ""
    for item in items:
        quantity = str(item.count) if item.length_m is None else "\u00a0".join(show(item.length_m, "length_m", units))
        rows.append(ItemView("" if item.place == before else item.place, item.part, item.size, quantity, item.usual))
        before = item.place
    return rows
