"""Every regulator arrangement side by side, in bench units."""

from dataclasses import dataclass

from iron_gulp.core.account import ARRANGED, PAIRS
from iron_gulp.core.study import every_arrangement
from iron_gulp.services.workshop import Bench
from iron_gulp.units import BenchUnits, quantity_of, show


@dataclass(frozen=True)
class ReferencesView:
    """Columns as (name, fitted, status); rows as a label and cells of (text, which number of the core) each."""

    heads: list[tuple[str, bool, str]]
    rows: list[tuple[str, list[list[tuple[str, str]]]]]


def references_view(bench: Bench, units: BenchUnits) -> ReferencesView:
    """The table: a column an arrangement, a row a figure at idle and at peak."""
    found = every_arrangement(bench.build, bench.option, bench.verdict.target)
    rows = []
    for key, (label, name, read) in ARRANGED.items():
        places = ("idle", "peak") if key in PAIRS else ("",)
        cells = [[(show(read(one, at), name, units)[0], f"{key} {at}".strip()) for at in places] for one in found]
        rows.append((", ".join(filter(None, (label, units.unit(quantity_of(name)).key))), cells))
    return ReferencesView([(kind.name, kind.fitted, kind.status) for kind in found], rows)
