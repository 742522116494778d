"""The list of parts of an option: every part of the model with its count or length, and what always goes with it.

What the model does not know (seals, clamps, hose ends, fuse holders) is counted from what it does: the usual number, to
be checked on the car.
"""

from collections.abc import Iterator
from dataclasses import dataclass, replace
from functools import singledispatch
from typing import Any

from ..judge import Circuit, TargetVerdict, circuits
from ..model import (
    Build,
    Carburettor,
    DirectInjectorSet,
    Filter,
    Fitted,
    HighPump,
    InjectorSet,
    LiftStage,
    Line,
    Option,
    Passage,
    Pickup,
    PumpGroup,
    Rail,
    Regulator,
    SecondSet,
    Section,
    Sensor,
    Split,
    Tank,
    fitted,
    named_alike,
)
from ..solve import injector_count, wire_words

NOT_PARTS = frozenset({"entry from a tank, sharp", "entry from a tank, rounded", "exit into a tank"})  # losses only
SPARE_LENGTH = 1.1  # hose and wire are cut with a tenth to spare


@dataclass(frozen=True)
class Item:
    """One row: how many, or how long in metres (cutting allowance included); `size` in words; `usual` when counted by
    custom and not by the model."""

    section: Section
    place: str
    part: str
    size: str = ""
    count: int | None = None
    length_m: float | None = None
    usual: bool = False


def parts_list(build: Build, option: Option, verdicts: tuple[TargetVerdict, ...]) -> list[Item]:
    """Every part of an option in flow order, electrics last."""
    return [
        *(
            replace(row, section=one.kind.section)
            for one in fitted(option)
            if not (one.kind.section == "Return" and one.kind.key != "regulator" and _nothing_returns(option))
            for row in rows_of(one.element, one, option, build)
        ),
        *_electrics(build, option, verdicts),
    ]


def _flexible(build: Build, option: Option) -> bool:
    """Whether an ethanol sensor goes with the targets' blends and none is listed by itself."""
    blends = {target.ethanol_pct for target in build.targets}
    return len(blends) > 1 and option.ethanol_sensor is None


def _nothing_returns(option: Option) -> bool:
    return option.regulator.arrangement in ("returnless, speed-controlled", "carburettor, deadhead")


def _row(place: str, part: str, size: str = "", **more: Any) -> Item:
    return Item("Tank and supply", place, part, size, **more)


@singledispatch
def rows_of(element: Any, one: Fitted, option: Option, build: Build) -> Iterator[Item]:
    """The rows of a component as fitted, by what it is. A component with a part of the shelf is that part, once."""
    part = getattr(element, "part", None)
    yield _row(one.title, one.title if part is None else part.name, count=1)


@rows_of.register
def _tank(element: Tank, one: Fitted, option: Option, build: Build) -> Iterator[Item]:
    yield _row("Tank", "Vent line with roll-over valve", count=1, usual=True)


@rows_of.register
def _pickup(element: Pickup, one: Fitted, option: Option, build: Build) -> Iterator[Item]:
    yield _row("Tank", element.kind.capitalize(), f"{element.bore_mm:g} mm bore", count=1)


@rows_of.register
def _line(element: Line, one: Fitted, option: Option, build: Build) -> Iterator[Item]:
    yield from _hose(one.title, element)


def _hose(place: str, line: Line) -> Iterator[Item]:
    part = line.part
    size = part.size or f"{part.bore_mm:g} mm bore"
    yield _row(place, part.name, size, length_m=line.length_m * SPARE_LENGTH)
    hard = part.construction in ("hard tube", "nylon tube")
    yield _row(place, "Tube nut and sleeve" if hard else "Hose end, straight", size, count=2, usual=True)
    if part.construction in ("rubber hose", "suction hose", "submersible hose"):
        yield _row(place, "Fuel-line clamp", size, count=2, usual=True)
    for one in line.fittings:
        if one.kind in NOT_PARTS:
            continue
        bore = "" if one.bore_mm is None else f", {one.bore_mm:g} mm bore"
        name = one.kind.partition(",")[0] if one.kind.startswith(("tee", "Y", "check valve")) else one.kind
        yield _row(place, name[0].upper() + name[1:], size + bore, count=one.count)


@rows_of.register
def _filter(element: Filter, one: Fitted, option: Option, build: Build) -> Iterator[Item]:
    yield _row(one.title, element.part.name, f"{element.part.grade_um:g} µm", count=1)


@rows_of.register
def _passage(element: Passage, one: Fitted, option: Option, build: Build) -> Iterator[Item]:
    yield _row(element.name, "Passage or adaptor", f"{element.bore_mm:g} mm bore", count=1)


@rows_of.register
def _lift(element: LiftStage, one: Fitted, option: Option, build: Build) -> Iterator[Item]:
    yield _row(one.title, element.part.name, count=element.count)
    yield from _hose("Lift line", element.line)
    yield _row(one.title, "Surge tank", f"{element.surge_l:g} L", count=1)
    yield _row(one.title, "Overflow line, surge tank to tank", count=1, usual=True)


@rows_of.register
def _pumps(element: PumpGroup, one: Fitted, option: Option, build: Build) -> Iterator[Item]:
    yield _row(one.title, element.part.name, count=element.count)
    if sum(group.count for group in option.pumps) > 1 or element.valve_kpa > 0:
        yield _row(one.title, "Check valve, one a pump", count=element.count, usual=True)
    if element.booster_v is not None:
        yield _row(one.title, "Voltage booster", f"{element.booster_v:g} V, {element.booster_a:g} A", count=1)


@rows_of.register
def _split(element: Split, one: Fitted, option: Option, build: Build) -> Iterator[Item]:
    yield _row(
        one.title, element.fitting.split(",")[0].capitalize(), option.feed.part.size, count=len(element.branches) - 1
    )
    for number, branch in enumerate(element.branches, start=1):
        yield from _hose(f"Branch {number}", branch.line)


@rows_of.register
def _rail(element: Rail, one: Fitted, option: Option, build: Build) -> Iterator[Item]:
    if option.injectors is not None:
        yield _row("Rail", "Fuel rail", f"{element.bore_mm:g} mm bore", count=element.count)


@rows_of.register
def _injectors(element: InjectorSet, one: Fitted, option: Option, build: Build) -> Iterator[Item]:
    count = injector_count(build, element)
    yield _row(one.title, element.part.name, count=count)
    yield _row(one.title, "Seal, upper and lower, new", count=2 * count, usual=True)
    if _flexible(build, option):
        yield _row("Fuel content", "Ethanol sensor", count=1, usual=True)


@rows_of.register
def _second(element: SecondSet, one: Fitted, option: Option, build: Build) -> Iterator[Item]:
    count = build.engine.cylinders if element.count is None else element.count
    yield _row(one.title, element.part.name, count=count)
    yield _row(one.title, "Seal, upper and lower, new", count=2 * count, usual=True)
    yield _row(one.title, "Bung or spacer for a second injector", count=count, usual=True)


@rows_of.register
def _sensor(element: Sensor, one: Fitted, option: Option, build: Build) -> Iterator[Item]:
    yield _row(one.title, element.name, f"{_range(element)}, {element.supply}", count=1)


def _range(element: Sensor) -> str:
    """How far a sensor reads, as its name in a list says it."""
    low, high, unit = element.reach
    return f"λ {low:g} to {high:g}" if unit == "lambda" else f"up to {high:g} {_UNITS[unit]}"


_UNITS = {"kpa": "kPa", "c": "°C", "kg_s": "kg/s"}


@rows_of.register
def _high_pump(element: HighPump, one: Fitted, option: Option, build: Build) -> Iterator[Item]:
    sold = "" if element.part.exchange == "new" else element.part.exchange
    yield _row(one.title, element.part.name, sold, count=1)
    yield _row(one.title, "High-pressure pipe to the rail, new", count=1, usual=True)
    yield _row(one.title, "Seal and bolts, new", count=1, usual=True)
    if element.damper == "fitted":
        yield _row(one.title, "Pulsation damper, where it is not in the pump", count=1, usual=True)


@rows_of.register
def _direct_injectors(element: DirectInjectorSet, one: Fitted, option: Option, build: Build) -> Iterator[Item]:
    count = element.count or build.engine.cylinders
    yield _row(one.title, element.part.name, count=count)
    yield _row(one.title, "Combustion seal and clip, new, with the sizing tool", count=count, usual=True)
    yield _row("Direct rail", "Rail pressure sensor", count=option.high_side.banks if option.high_side else 1, usual=True)
    if option.injectors is None and _flexible(build, option):
        yield _row("Fuel content", "Ethanol sensor", count=1, usual=True)


@rows_of.register
def _carburettor(element: Carburettor, one: Fitted, option: Option, build: Build) -> Iterator[Item]:
    yield _row(one.title, element.name, count=1)
    yield _row(one.title, "Float needle and seat", f"{element.needle_mm:g} mm", count=element.needles)


@rows_of.register
def _regulator(element: Regulator, one: Fitted, option: Option, build: Build) -> Iterator[Item]:
    if element.arrangement == "returnless, speed-controlled":
        # Pressure is held by the pumps' speed: nothing bypasses.
        yield _row(one.title, "Rail pressure sensor", count=1)
        yield _row(one.title, "Pump speed controller, closed on the rail pressure", count=1)
        return
    yield _row(one.title, element.part.name, count=1)
    if element.reference != "atmosphere":
        yield _row(one.title, "Reference hose, fuel-proof, its own", "4 mm", length_m=1.0, usual=True)
        yield _row(one.title, "Clamp for the reference hose", count=2, usual=True)


def _electrics(build: Build, option: Option, verdicts: tuple[TargetVerdict, ...]) -> Iterator[Item]:
    bought: set[tuple[str, str]] = set()

    def once(field: str, one: Circuit) -> int:
        """How many of a thing a circuit adds: one a pump; one of a name, with the first circuit that hangs on it."""
        name = named_alike(field)(one.wiring)
        if not name:
            return one.pumps
        first = (field, name) not in bought
        bought.add((field, name))
        return int(first)

    for one in circuits(option, verdicts, build.rules):
        wiring = one.wiring
        fuse = one.fuse_proposed_a if one.fuse_a is None else one.fuse_a
        if count := once("fuse", one):
            yield Item("Electrics", one.name, "Fuse with holder", f"{fuse:g} A", count=count)
        if count := once("relay", one):
            yield Item("Electrics", one.name, wiring.switch.capitalize(), f"{wiring.switch_a:g} A", count=count)
        yield Item(
            "Electrics",
            one.name,
            "Wire",
            wire_words(wiring.area_mm2, build.rules.wires),
            length_m=wiring.loop_m * one.pumps * SPARE_LENGTH,
        )
    yield Item("Electrics", "All pumps", "Crash cut-off in the relays' control circuit", count=1, usual=True)
