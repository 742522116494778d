"""Every regulator arrangement side by side, in bench units."""

from collections.abc import Callable
from dataclasses import dataclass

from iron_gulp.core.account import ARRANGED, PAIRS
from iron_gulp.core.physics import M3_S_PER_L_H
from iron_gulp.core.study import Arranged, Needed, every_arrangement, needed_bases
from iron_gulp.services.workshop import Bench
from iron_gulp.units import BenchUnits, quantity_of, show

OF_INJECTORS = ("across", "open", "duty", "pulse", "turndown")  # rows that need port injectors


@dataclass(frozen=True)
class ReferencesView:
    """Columns as (name, fitted, status); rows as a label and cells of (text, which number of the core) each."""

    heads: list[tuple[str, bool, str]]
    rows: list[tuple[str, list[list[tuple[str, str]]]]]
    needed: list[tuple[str, list[str]]]


def references_view(bench: Bench, units: BenchUnits) -> ReferencesView:
    """The table: a column an arrangement, a row a figure at idle and at peak."""
    found = every_arrangement(bench.build, bench.option, bench.verdict.target)
    rows = []
    sprays = bench.option.injectors is not None
    for key, (label, name, read) in ARRANGED.items():
        if key in OF_INJECTORS and not sprays:
            continue
        places = ("idle", "peak") if key in PAIRS else ("",)
        cells = [[(show(read(one, at), name, units)[0], f"{key} {at}".strip()) for at in places] for one in found]
        rows.append((", ".join(filter(None, (label, units.unit(quantity_of(name)).key))), cells))
    heads: list[tuple[str, bool, str]] = [(kind.name, kind.fitted, kind.status) for kind in found]
    return ReferencesView(heads, rows, _at_needed(needed_bases(bench.build, bench.option, bench.verdict.target), units))


def _at_needed(needed: list[Needed], units: BenchUnits) -> list[tuple[str, list[str]]]:
    """The rows of every arrangement at the base it needs: label with its unit, and a text each; "–" where none does."""
    rows: list[tuple[str, str, Callable[[Needed, Arranged], float]]] = [
        ("Base pressure it needs", "base_kpa", lambda one, _: one.base_kpa or 0.0),
        ("Duty at peak", "duty_pct", lambda _, there: there.duty_pct),
        ("Pump flow left at peak", "left_l_h", lambda _, there: there.left_m3_s / M3_S_PER_L_H),
        ("Pump current at peak", "current_a", lambda _, there: there.current_a[1]),
        ("Heat into the fuel at peak", "heat_w", lambda _, there: there.heat_w[1]),
        ("Turndown, pulse at peak over idle", "turndown", lambda _, there: there.turndown),
        ("Current spared against today", "current_a", lambda one, _: one.spared_a),
        ("Heat spared against today", "heat_w", lambda one, _: one.spared_w),
        ("Pump supply spared against today", "load_pct", lambda one, _: one.spared_load * 100.0),
    ]
    told = []
    for label, name, read in rows:
        unit = units.unit(quantity_of(name)).key
        cells = ["–" if one.there is None else show(read(one, one.there), name, units)[0] for one in needed]
        if name == "base_kpa":
            cells = [f"≤ {text}" if one.or_less else text for one, text in zip(needed, cells, strict=True)]
        told.append((", ".join(filter(None, (label, unit))), cells))
    return told if needed else []
