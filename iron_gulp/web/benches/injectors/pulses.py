"""Idle pulses as rows."""

from collections.abc import Sequence
from dataclasses import dataclass

from iron_gulp.core.study import IdlePulse
from iron_gulp.units import BenchUnits, show


@dataclass(frozen=True)
class PulseRow:
    """A target's pulses, each with whether it is too short to repeat."""

    name: str
    pulses: tuple[tuple[str, bool], ...]
    least: str
    fuel: str
    unsure: str


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
        fuel, unsure = told(one.least_mg, "least_mg"), told(one.unsure_mg, "unsure_mg")
        rows.append(PulseRow(one.name, pulses, told(one.least_ms, "least_ms"), fuel, unsure))
    return rows
