"""A controller's table as a grid of cells, with what runs there."""

from dataclasses import dataclass

from iron_gulp.core.study import TableCells
from iron_gulp.units import BenchUnits, show

NAMES = {
    "mixture": "cell_lambda",
    "volumetric efficiency": "cell_pct",
    "boost": "cell_kpa",
    "rail pressure": "cell_kpa",
    "pump duty": "cell_pct",
}


@dataclass(frozen=True)
class Cell:
    """A value, the pumps that run there, and whether that is too little."""

    value: str
    pumps: int
    short: bool


@dataclass(frozen=True)
class Grid:
    """Rows from the highest pressure down; `words` says where the running stages bring too little."""

    unit: str
    speeds: list[str]
    rows: list[tuple[str, list[Cell]]]
    words: str


def grid_of(found: TableCells, units: BenchUnits) -> Grid:
    """The grid in bench units."""
    table, name = found.table, NAMES[found.table.what]
    rows = []
    for number in reversed(range(len(table.load_kpa))):
        load = " ".join(show(table.load_kpa[number], "load_kpa", units)) if len(table.load_kpa) > 1 else "at every load"
        cells = [
            Cell(
                show(float(value), name, units)[0],
                int(found.running[number, at]),
                bool(found.short[number, at]),
            )
            for at, value in enumerate(table.rows[number])
        ]
        rows.append((load, cells))
    short = int(found.short.sum())
    places = [f"{table.rpm[at]:g} rpm" for at in sorted({at for _, at in zip(*found.short.nonzero(), strict=True)})]
    where = ", ".join(places[:6]) + (" and more" if len(places) > 6 else "")
    words = (
        f"In {short} of {found.short.size} cells demand exceeds the running stages: {where}."
        if short
        else ("The stages that run carry every cell.")
    )
    return Grid(show(0.0, name, units)[1], [f"{one:g}" for one in table.rpm], rows, words)
