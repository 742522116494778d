"""Values of the controller sheet: each is the same row of the sheet read again from the build changed."""

from collections.abc import Sequence

from ...judge import judge_many
from ...model import Build, Option
from ..values_sheet import SheetRow, values_sheet
from .base import PATHS, PHYSICS, Asked, Number, Path, Place

AS_ENTERED = "as entered"
_SOURCES = {"constant": "constants of the fuel and of the sensor's convention", "entered": "entered in the build"}
_MORE: tuple[Path, ...] = (
    ("engine/displacement_l", "Displacement", "displacement_l"),
    ("{option}/injectors/part/rated_pressure_kpa", "Rated at", "rated_pressure_kpa"),
    ("{option}/injectors/part/min_pulse_ms", "Smallest pulse", "min_pulse_ms"),
    ("{option}/injectors/part/dead_time_ms_per_100_kpa", "Dead time with pressure", "dead_ms"),
    ("{option}/injectors/second/part/rated_flow_cc_min", "Size of the second set", "rated_flow_cc_min"),
    ("{option}/injectors/second/part/min_pulse_ms", "Smallest pulse of the second set", "min_pulse_ms"),
    ("{option}/injectors/second/joins_pct", "Duty at which it joins", "joins_pct"),
)
_ASKED = (
    ("lambda", "Mixture", "lambda"),
    ("ethanol_pct", "Ethanol", "ethanol_pct"),
    ("boost_kpa", "Boost", "boost_kpa"),
)
_PLUNGER = (
    ("part/bore_mm", "Plunger", "bore_mm"),
    ("part/lift_mm", "Lift", "lift_mm"),
    ("part/displacement_cc", "Displacement", "displacement_cc"),
    ("cam_ratio", "Turns a turn of the engine", "cam_ratio"),
    ("drive_factor", "Driven faster", "drive_factor"),
)


def row(asked: Asked, place: Place) -> Number:
    """A row of the sheet by its name. Raises KeyError where it is no number, or not there.

    What was entered is moved by its own field alone, by as much: it has no rows.
    """
    build, option, _ = asked
    found = _read([asked], place.case)[0]
    if found is None or isinstance(found.value, str):
        raise KeyError(f"there is no value {place.case}")
    return Number(
        f"{found.label}, controller values",
        found.name,
        found.formula or AS_ENTERED,
        lambda many: [_number(one) for one in _read(many, place.case)],
        _SOURCES.get(found.known, PHYSICS),
        f"If it changes, tune again: {found.retune}." if found.retune else "",
        () if found.known == "entered" else None,
        (*PATHS, *_MORE, *_own(build, option)),
        found.known == "entered",
    )


def _own(build: Build, option: Option) -> list[Path]:
    """Fields that are there as often as this build has them: points of tables, pumps, targets."""
    found: list[Path] = []
    sets = [] if option.injectors is None else [("injectors", option.injectors.part)]
    if option.injectors is not None and option.injectors.second is not None:
        sets.append(("injectors/second", option.injectors.second.part))
    for which, part in sets:
        for at, volts in enumerate(part.dead_time_v):
            found.append((f"{{option}}/{which}/part/dead_time_ms/{at}", f"Dead time at {volts:g} V", "dead_ms"))
    for at in range(0 if option.high_side is None else len(option.high_side.pumps)):
        whose = f"{{option}}/high_side/pumps/{at}"
        found += [(f"{whose}/{field}", f"{label}, pump {at + 1}", name) for field, label, name in _PLUNGER]
    for target in build.targets:
        found += [(f"targets/{target.id}/{field}", f"{label} of {target.name}", name) for field, label, name in _ASKED]
    return found


def _read(many: Sequence[Asked], name: str) -> list[SheetRow | None]:
    """The row of every sheet; all their targets are judged in one go."""
    verdicts = iter(
        judge_many([(build, option, one) for build, option, _ in many for one in build.targets], ceilings=False)
    )
    found: list[SheetRow | None] = []
    for build, option, _ in many:
        own = [next(verdicts) for _ in build.targets]
        rows = (one for section in values_sheet(build, option, own) for one in section.rows)
        found.append(next((one for one in rows if one.name == name), None))
    return found


def _number(found: SheetRow | None) -> float:
    return float("nan") if found is None or isinstance(found.value, str) else float(found.value)
