"""Idle pulses as rows."""

from collections.abc import Sequence
from dataclasses import dataclass

from iron_gulp.core.study import IdlePulse
from iron_gulp.units import BenchUnits, show


@dataclass(frozen=True)
class PulseRow:
    """A target's pulses, each with whether it is too short to repeat; `others` are cases of it and how they read."""

    name: str
    pulses: tuple[tuple[str, bool], ...]
    others: tuple[tuple[str, str], ...]


def pulse_rows(found: Sequence[IdlePulse], units: BenchUnits) -> list[PulseRow]:
    """A row a target."""

    def told(value: float, name: str) -> str:
        number, unit = show(value, name, units)
        return f"{number}\u00a0{unit}"

    rows = []
    for one in found:
        pulses = tuple(
            (told(each, "pulse_ms"), each < one.least_ms) for each in (one.cold_ms, one.entered_ms, one.hot_ms)
        )
        values = (
            ("least", one.least_ms, "least_ms"),
            ("fuel", one.least_mg, "fuel_mg"),
            ("unsure", one.unsure_mg, "fuel_mg"),
        )
        rows.append(PulseRow(one.name, pulses, tuple((case, told(value, name)) for case, value, name in values)))
    return rows
