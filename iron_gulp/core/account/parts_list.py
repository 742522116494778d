"""The list of parts of an option: every part of the model with its count or length, and what always goes with it.

What the model does not know (seals, clamps, hose ends, fuse holders) is counted from what it does: the usual number, to
be checked on the car.
"""

from collections.abc import Iterator
from dataclasses import dataclass
from typing import Literal

from ..judge import DutyVerdict, circuits
from ..model import Build, Filter, Line, Option, Passage, Wiring
from ..solve import injector_count

Section = Literal["Tank and supply", "Pumps", "Feed", "Engine", "Return", "Electrics"]
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


def parts_list(build: Build, option: Option, verdicts: tuple[DutyVerdict, ...]) -> list[Item]:
    """Every part of an option in flow order, electrics last."""
    return [
        *_tank(option),
        *_pumps(option),
        *_feed(option),
        *_engine(build, option),
        *_return(option),
        *_electrics(option, verdicts),
    ]


def _line(section: Section, place: str, line: Line) -> Iterator[Item]:
    part = line.part
    size = part.size or f"{part.bore_mm:g} mm bore"
    yield Item(section, place, part.name, size, length_m=line.length_m * SPARE_LENGTH)
    hard = part.construction in ("hard tube", "nylon tube")
    ends = "Tube nut and sleeve" if hard else "Hose end, straight"
    yield Item(section, place, ends, size, count=2, usual=True)
    if part.construction == "rubber hose":
        yield Item(section, place, "Fuel-line clamp", size, count=2, usual=True)
    for one in line.fittings:
        if one.kind in NOT_PARTS:
            continue
        bore = "" if one.bore_mm is None else f", {one.bore_mm:g} mm bore"
        name = one.kind.partition(",")[0] if one.kind.startswith(("tee", "Y", "check valve")) else one.kind
        yield Item(section, place, name[0].upper() + name[1:], size + bore, count=one.count)


def _filter(section: Section, place: str, fitted: Filter | None) -> Iterator[Item]:
    if fitted is not None:
        yield Item(section, place, fitted.part.name, f"{fitted.part.grade_um:g} µm", count=1)


def _passages(section: Section, passages: tuple[Passage, ...]) -> Iterator[Item]:
    for one in passages:
        yield Item(section, one.name, "Passage or adaptor", f"{one.bore_mm:g} mm bore", count=1)


def _tank(option: Option) -> Iterator[Item]:
    section: Section = "Tank and supply"
    yield Item(section, "Tank", "Vent line with roll-over valve", count=1, usual=True)
    if option.pickup is not None:
        yield Item(section, "Tank", option.pickup.kind.capitalize(), f"{option.pickup.bore_mm:g} mm bore", count=1)
    if option.lift is not None:
        yield Item(section, "Lift stage", option.lift.part.name, count=option.lift.count)
        yield from _line(section, "Lift line", option.lift.line)
        yield Item(section, "Lift stage", "Surge tank", f"{option.lift.surge_l:g} L", count=1)
        yield Item(section, "Lift stage", "Overflow line, surge tank to tank", count=1, usual=True)
    if option.suction.line is not None:
        yield from _line(section, "Suction line", option.suction.line)
    yield from _filter(section, "Suction", option.suction.filter)


def _pumps(option: Option) -> Iterator[Item]:
    several = sum(group.count for group in option.pumps) > 1
    for number, group in enumerate(option.pumps, start=1):
        yield Item("Pumps", f"Group {number}", group.part.name, count=group.count)
        if several or group.check_valve_kpa > 0:
            yield Item("Pumps", f"Group {number}", "Check valve, one a pump", count=group.count, usual=True)


def _feed(option: Option) -> Iterator[Item]:
    yield from _filter("Feed", "Filter", option.filter)
    yield from _passages("Feed", option.feed_passages)
    yield from _line("Feed", "Feed", option.feed)
    if option.split is not None:
        size = option.feed.part.size
        yield Item("Feed", "Split", option.split.fitting.split(",")[0].capitalize(), size, len(option.split.branches) - 1)
        for number, branch in enumerate(option.split.branches, start=1):
            yield from _line("Feed", f"Branch {number}", branch.line)


def _engine(build: Build, option: Option) -> Iterator[Item]:
    if option.carburettor is not None:
        yield Item("Engine", "Carburettor", option.carburettor.name, count=1)
        yield Item(
            "Engine",
            "Carburettor",
            "Float needle and seat",
            f"{option.carburettor.needle_mm:g} mm",
            count=option.carburettor.needles,
        )
        return
    assert option.injectors is not None
    count = injector_count(build, option.injectors)
    yield Item("Engine", "Rail", "Fuel rail", f"{option.rail.bore_mm:g} mm bore", count=option.rail.count)
    yield Item("Engine", "Injectors", option.injectors.part.name, count=count)
    yield Item("Engine", "Injectors", "Seal, upper and lower, new", count=2 * count, usual=True)
    if any(duty.ethanol_pct != build.duties[0].ethanol_pct for duty in build.duties):
        yield Item("Engine", "Fuel content", "Ethanol sensor", count=1, usual=True)


def _return(option: Option) -> Iterator[Item]:
    regulator = option.regulator
    yield Item("Return", "Regulator", regulator.part.name, count=1)
    if regulator.reference != "atmosphere":
        yield Item("Return", "Regulator", "Reference hose, fuel-proof, its own", "4 mm", length_m=1.0, usual=True)
        yield Item("Return", "Regulator", "Clamp for the reference hose", count=2, usual=True)
    if regulator.arrangement in ("returnless, speed-controlled", "carburettor, deadhead"):
        return
    yield from _line("Return", "Return", option.return_line)
    yield from _passages("Return", option.return_passages)


def _electrics(option: Option, verdicts: tuple[DutyVerdict, ...]) -> Iterator[Item]:
    for one in circuits(option, verdicts):
        wiring: Wiring = one.wiring
        fuse = one.fuse_proposed_a if wiring.fuse_a is None else wiring.fuse_a
        yield Item("Electrics", one.name, "Fuse with holder", f"{fuse:g} A", count=one.pumps)
        yield Item("Electrics", one.name, wiring.switch.capitalize(), f"{wiring.switch_a:g} A", count=one.pumps)
        yield Item(
            "Electrics", one.name, "Wire", f"{wiring.area_mm2:g} mm²", length_m=wiring.loop_m * one.pumps * SPARE_LENGTH
        )
    yield Item("Electrics", "All pumps", "Crash cut-off in the relays' control circuit", count=1, usual=True)
