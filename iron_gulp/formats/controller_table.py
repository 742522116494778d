"""A controller's table as pasted or as CSV: engine speeds along the first line, manifold pressures down the first column.

What is wrong is told at its row and column; nothing of a faulty table is taken.
"""

import re
from collections.abc import Callable, Sequence
from dataclasses import dataclass
from itertools import pairwise

from iron_gulp.core.model import TABLE_RANGES
from iron_gulp.units import BenchUnits, Unreadable, read_number, read_quantity

LARGEST_BYTES = 2_000_000
LARGEST = 200_000  # characters
MOST = 64  # of an axis
LEAST_RPM = 30.0  # slower is written in thousands
RICHEST_AFR = 2.5  # λ ends below, air-fuel ratios begin above
NEVER_GAUGE_KPA = 15.0  # an axis that begins above this and passes the barometer is absolute
MOST_TOLD, MOST_IN_ALL = 12, 100  # problems of one kind, and of all
ABSOLUTE = "absolute"
Place = Callable[[int], tuple[int, int]]
_UNITS = {"boost": "boost_kpa", "rail pressure": "rail_kpa"}


@dataclass(frozen=True)
class CellProblem:
    """What is wrong at a row and column, counted from 1 with the axes; 0 for the whole."""

    row: int
    column: int
    message: str

    @property
    def place(self) -> str:
        """The place in words; empty for the whole."""
        if not self.row:
            return ""
        return f"row {self.row}, column {self.column}" if self.column else f"row {self.row}"


class TableError(ValueError):
    """A faulty table with every problem."""

    def __init__(self, problems: Sequence[CellProblem]):
        left = len(problems) - MOST_IN_ALL
        if left > 0:
            problems = [*problems[:MOST_IN_ALL], CellProblem(0, 0, f"and {left} more problems")]
        super().__init__("; ".join(f"{one.place}: {one.message}" if one.place else one.message for one in problems))
        self.problems = tuple(problems)


@dataclass(frozen=True)
class Read:
    """Axes and cells, row by row; `said` tells what was understood where it could be two things."""

    rpm: tuple[float, ...]
    load_kpa: tuple[float, ...]
    cells: tuple[float, ...]
    said: str


def read_table(
    text: str, what: str, unit: str, axis: str, stoich_afr: float, barometer_kpa: float, units: BenchUnits
) -> Read:
    """Read a table of a kind. `unit` is that of the pressure axis, `axis` whether it is gauge or absolute.

    Mixtures may be λ or air-fuel ratio of a fuel of `stoich_afr`, efficiencies per cent or a share: told by their range,
    one way in the whole table. Boost and rail pressure are in bench units. Raises TableError.
    """
    lines = _lines(text)
    problems: list[CellProblem] = []
    head, *body = lines
    if not body:
        raise TableError([CellProblem(0, 0, "a table has a line of engine speeds and at least one line of cells")])
    if len(head) < 2:
        raise TableError([CellProblem(1, 0, "the first line holds engine speeds, from its second column on")])
    rpm = _axis(head[1:], problems, lambda at: (1, at + 2))
    loads = _axis([row[0] for row in body], problems, lambda at: (at + 2, 1)) if len(body) > 1 else [0.0]
    _rising(rpm, problems, "engine speeds", lambda at: (1, at + 2))
    if rpm and not problems and rpm[-1] < LEAST_RPM:
        problems.append(CellProblem(1, 2, f"engine speeds end at {rpm[-1]:g}: write them in rpm, not in thousands"))
    _rising(loads, problems, "manifold pressures", lambda at: (at + 2, 1))
    cells: list[float] = []
    for number, row in enumerate(body, start=2):
        if len(row) != len(head):
            short = f"{len(row) - 1} cells where the first line has {len(head) - 1} engine speeds"
            problems.append(CellProblem(number, 0, short))
            continue
        cells += _row(row[1:], number, problems)
    if problems:
        raise TableError(problems)
    load_kpa = _loads(loads, unit, axis, barometer_kpa, units) if len(body) > 1 else (0.0,)
    made, said = _values(cells, len(rpm), what, stoich_afr, units)
    return Read(tuple(rpm), load_kpa, tuple(made), said)


def _lines(text: str) -> list[list[str]]:
    if len(text) > LARGEST:
        raise TableError([CellProblem(0, 0, "the table is longer than any controller's")])
    rows = [line.strip("\r") for line in text.split("\n") if line.strip()]
    if not rows:
        raise TableError([CellProblem(0, 0, "paste a table: engine speeds along the top, pressures down the side")])
    mark = "\t" if "\t" in rows[0] else ";" if ";" in rows[0] else "," if "," in rows[0] else None
    if len(rows) > MOST + 1:
        raise TableError([CellProblem(0, 0, f"at most {MOST} engine speeds and {MOST} rows")])
    parted = [_cells(row, mark) for row in rows]
    if mark is None and len(parted) > 1 and len(parted[0]) + 1 == len(parted[1]):
        parted[0] = ["", *parted[0]]  # a first line without its empty corner
    if max(len(row) for row in parted) > MOST + 1:
        raise TableError([CellProblem(0, 0, f"at most {MOST} engine speeds and {MOST} rows")])
    return parted


def _cells(row: str, mark: str | None) -> list[str]:
    found = row.split(mark) if mark else re.split(r"\s+", row.strip())
    return [cell.strip().strip('"') for cell in found]


def _axis(texts: Sequence[str], problems: list[CellProblem], place: Place) -> list[float]:
    """Numbers of an axis; what is none is a problem at its place."""
    found = []
    for at, text in enumerate(texts):
        try:
            found.append(read_number(text))
        except Unreadable as error:
            problems.append(CellProblem(*place(at), str(error)))
    return found


def _rising(axis: Sequence[float], problems: list[CellProblem], name: str, place: Place) -> None:
    for at, (before, value) in enumerate(pairwise(axis), start=1):
        if value <= before:
            told = f"{name} must rise: {value:g} follows {before:g}"
            problems.append(CellProblem(*place(at), told))
            return


def _row(texts: Sequence[str], number: int, problems: list[CellProblem]) -> list[float]:
    return _axis(texts, problems, lambda at: (number, at + 2))


def _loads(loads: Sequence[float], unit: str, axis: str, barometer_kpa: float, units: BenchUnits) -> tuple[float, ...]:
    """Manifold pressures as gauge, kPa. Raises TableError where they cannot be what they are said to be."""
    kpa = [read_quantity(f"{one!r} {unit}", "load_kpa", units) for one in loads]
    if axis == ABSOLUTE:
        for at, one in enumerate(kpa):
            if one < 0:
                raise TableError(
                    [CellProblem(at + 2, 1, f"{loads[at]:g} {unit} absolute is less than nothing: is it gauge?")]
                )
        return tuple(round(one - barometer_kpa, 6) for one in kpa)
    for at, one in enumerate(kpa):
        if one < -barometer_kpa:
            raise TableError([CellProblem(at + 2, 1, f"{loads[at]:g} {unit} gauge is below a vacuum")])
    if kpa[0] >= NEVER_GAUGE_KPA and kpa[-1] > barometer_kpa:
        told = f"the axis begins at {loads[0]:g} {unit}: no engine idles under boost; say absolute"
        raise TableError([CellProblem(2, 1, told)])
    return tuple(kpa)


def _values(
    cells: Sequence[float], wide: int, what: str, stoich_afr: float, units: BenchUnits
) -> tuple[list[float], str]:
    """Cells in the unit kept, and what was understood. Raises TableError at the cells that do not fit."""
    said, kept = "", list(cells)
    if what == "mixture":
        kept, said = _one_way(kept, wide, RICHEST_AFR, 1.0 / stoich_afr, ("λ", "air-fuel ratio"))
    elif what == "volumetric efficiency":
        kept, said = _one_way(kept, wide, 3.0, None, ("a share", "per cent"))
    elif what in _UNITS:
        kept = [read_quantity(repr(one), _UNITS[what], units) for one in kept]
    low, high = TABLE_RANGES[what]
    wrong = [at for at, one in enumerate(kept) if not low <= one <= high]
    if wrong:
        places = [
            CellProblem(at // wide + 2, at % wide + 2, f"{cells[at]:g} cannot be {what}") for at in wrong[:MOST_TOLD]
        ]
        raise TableError(places)
    return kept, said


def _one_way(
    cells: list[float], wide: int, border: float, factor: float | None, names: tuple[str, str]
) -> tuple[list[float], str]:
    """Cells that may be written in one of two ways, told by their range. Raises TableError where both are mixed."""
    large = [one > border for one in cells]
    most = sum(large) * 2 > len(cells)
    odd = [at for at, one in enumerate(large) if one != most]
    if odd:
        told = f"{names[0]} and {names[1]} are mixed: nearly all is {names[most]}, this is not"
        raise TableError([CellProblem(at // wide + 2, at % wide + 2, told) for at in odd[:MOST_TOLD]])
    if factor is not None:
        return [one * factor for one in cells] if most else cells, f"read as {names[most]}"
    return cells if most else [one * 100.0 for one in cells], f"read as {names[most]}"
