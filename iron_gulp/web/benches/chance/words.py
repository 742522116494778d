"""What matters most in words, with what to measure first; corners as rows."""

from collections.abc import Sequence
from dataclasses import dataclass

from iron_gulp.core.judge import TargetVerdict
from iron_gulp.core.model import TITLES, Tolerances
from iron_gulp.core.study import MEASURES, Brackets, Corner, Matters

MEASURE = {
    "consumption": "log fuel flow at a known power on this engine, and enter it as a measured run",
    "driveline": "let one dyno give wheel and crank power of the same pull",
    "injector_set": "have the set flowed on a bench at its own pressure",
    "injector_each": "have every injector flowed and matched",
    "dead_time": "take dead times from a bench at the voltage and pressure of this car",
    "pump_flow": "time the pump into a can at pressure and voltage: the flow-bottle test",
    "pump_wear": "time the pump into a can at pressure and voltage: the flow-bottle test",
    "voltage": "measure volts at the pump, under load, with everything on",
    "blend_measured": "prove the ethanol sensor against a known mix",
    "blend_assumed": "fit an ethanol sensor, or test each fill with water in a tube",
    "fuel_temperature": "log fuel temperature at the pickup after a hot run",
    "bores": "measure the smallest true bore of the lines, fittings included",
    "fittings": "read pressure before and after the feed at full flow",
    "base_pressure": "set base pressure anew, engine warm, reference off and plugged",
}
SHOWN, LITTLE = 8, 0.01
__all__ = ["TITLES", "BracketRow", "CornerRow", "MattersRow", "bracket_rows", "corner_rows", "matters_rows"]


@dataclass(frozen=True)
class MattersRow:
    name: str
    title: str
    share: str
    width: float


def matters_rows(found: Sequence[Matters]) -> tuple[list[MattersRow], str]:
    """The inputs that matter, and what to measure first."""
    titles = {name: str(field.title) for name, field in Tolerances.model_fields.items()}
    counted = [one for one in found if one.together >= LITTLE][:SHOWN]
    top = max((one.together for one in counted), default=1.0)
    rows = [
        MattersRow(
            one.name, titles[one.name], f"{min(one.together, 1.0) * 100:.0f}\u00a0%", round(one.together / top * 100, 1)
        )
        for one in counted
    ]
    return rows, MEASURE[counted[0].name] if counted else ""


@dataclass(frozen=True)
class BracketRow:
    """A target at its best and at its worst."""

    name: str
    best: str
    worst: str
    says: str
    target: str


def bracket_rows(found: Brackets) -> tuple[list[BracketRow], str]:
    """Every target, and what to measure first; nothing where all is settled."""
    rows = []
    for one in found.targets:
        says = "holds whatever it is" if one.holds else "does not hold whatever it is"
        rows.append(
            BracketRow(
                one.best.target.name,
                _told(one.best),
                _told(one.worst),
                says if one.settled else "not settled",
                one.best.target.id,
            )
        )
    first = "" if found.first is None else f"{found.first.what}: {MEASURES[found.first.what]}"
    return rows, first


def _told(verdict: TargetVerdict) -> str:
    first = verdict.first_out
    load = f"{first.load * 100:.0f}\u00a0%" if first.load < 100 else "none left"
    return f"{first.title.lower()} {load}"


@dataclass(frozen=True)
class CornerRow:
    name: str
    what: str
    cells: tuple[tuple[str, str, bool, str], ...]


def corner_rows(found: Sequence[Corner]) -> list[CornerRow]:
    """Each corner: what is most loaded on each target, and whether it holds."""
    rows = []
    for corner in found:
        cells = []
        for verdict, holds in zip(corner.verdicts, corner.holds, strict=True):
            first = verdict.first_out
            load = f"{first.load * 100:.0f}\u00a0%" if first.load < 100 else "none left"
            cells.append((first.title.lower(), load, holds, verdict.target.id))
        rows.append(CornerRow(corner.name, corner.what, tuple(cells)))
    return rows
