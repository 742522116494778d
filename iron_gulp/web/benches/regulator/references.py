"""Every regulator arrangement side by side, in bench units."""

from collections.abc import Callable
from dataclasses import dataclass

from iron_gulp.core.physics import M3_S_PER_L_H
from iron_gulp.core.study import Arranged, every_arrangement
from iron_gulp.services.workshop import Bench
from iron_gulp.units import BenchUnits, quantity_of, show


@dataclass(frozen=True)
class ReferencesView:
    heads: list[tuple[str, bool, str]]  # name, fitted, status
    rows: list[list[str]]


def references_view(bench: Bench, units: BenchUnits) -> ReferencesView:
    """The table: a column an arrangement, a row a figure at idle and at peak."""
    found = every_arrangement(bench.build, bench.verdict)

    def one(value: float, name: str) -> str:
        return show(value, name, units)[0]

    def both(pair: tuple[float, float], name: str) -> str:
        return f"{one(pair[0], name)} … {one(pair[1], name)}"

    # Label, the name that gives its unit, and the cell.
    rows: tuple[tuple[str, str, Callable[[Arranged, str], str]], ...] = (
        ("Rail", "rail_kpa", lambda kind, name: both(kind.rail_kpa, name)),
        ("Across the injectors", "differential_kpa", lambda kind, name: both(kind.across_kpa, name)),
        ("Injector held open", "open_g_s", lambda kind, name: both(kind.open_g_s, name)),
        ("Duty at peak", "duty_pct", lambda kind, name: one(kind.duty_pct, name)),
        ("Pulse at idle", "pulse_ms", lambda kind, name: one(kind.idle_pulse_ms, name)),
        ("Turndown, pulse at peak over idle", "turndown", lambda kind, name: one(kind.turndown, name)),
        ("Pump flow left at peak", "left_l_h", lambda kind, name: one(kind.left_m3_s / M3_S_PER_L_H, name)),
        ("Share of pump supply", "load_pct", lambda kind, name: one(kind.pump_load * 100, name)),
        ("Lean factor at peak", "lambda_factor", lambda kind, name: one(kind.lambda_factor, name)),
        ("Pump current", "current_a", lambda kind, name: both(kind.current_a, name)),
        ("Heat into the fuel", "heat_w", lambda kind, name: both(kind.heat_w, name)),
    )
    body = [
        [", ".join(filter(None, (label, units.unit(quantity_of(name)).key))), *(cell(kind, name) for kind in found)]
        for label, name, cell in rows
    ]
    return ReferencesView([(kind.name, kind.fitted, kind.status) for kind in found], body)
