"""Size it for me: from a few answers in plain words to a whole build, and from a build to the cheapest sensible system.

What can be assumed is not asked; every assumption is told with the field that changes it.
"""

from collections.abc import Iterator, Sequence
from dataclasses import dataclass, field
from typing import ClassVar, Literal

from pydantic import Field

from ..judge import TargetVerdict, judge_many
from ..model import (
    Build,
    Catalogue,
    InjectorPart,
    LinePart,
    Model,
    Option,
    Part,
    PumpPart,
    flow_at,
    rated_at_300_kpa,
    same_work,
)
from ..solve import IDLE, PEAK
from .design import COUNTED, USUAL_BASES_KPA, Design, highest, worst_load
from .wishes import ONE_SET, TURBINES, USUAL, Chosen

Feeding = Literal["port injection", "direct injection", "carburettor"]
Fuel = Literal["pump fuel", "light blend, E30", "half blend, E50", "strong blend, E85", "pure ethanol, E98", "methanol"]
ETHANOL_PCT: dict[str, float] = {
    "pump fuel": 10.0,
    "light blend, E30": 30.0,
    "half blend, E50": 50.0,
    "strong blend, E85": 85.0,
    "pure ethanol, E98": 98.0,
    "methanol": 0.0,
}


class Answers(Model):
    """What a new user is asked: the engine and the power; everything else has a default that shows."""

    not_asked: ClassVar[tuple[str, ...]] = ()
    when_empty: ClassVar[dict[str, str]] = {
        "boost_kpa": "what the power takes",
        "rpm": "by the engine's size",
        "pump_fuel_kw": "not asked for",
        "later_kw": "none",
    }

    name: str = Field("New build", min_length=1, max_length=80, title="Call it")
    displacement_l: float = Field(2.0, ge=0.1, le=20, title="Engine")
    cylinders: int = Field(4, ge=1, le=16, title="Cylinders")
    induction: Literal["naturally aspirated", "turbocharged", "supercharged"] = Field("turbocharged", title="Breathes")
    feeding: Feeding = Field("port injection", title="Fed by")
    power_kw: float = Field(ge=5, le=3000, title="Power wanted")
    power_at: Literal["wheels", "crank"] = Field("wheels", title="at the")
    fuel: Fuel = Field("pump fuel", title="On")
    pump_fuel_kw: float | None = Field(None, ge=5, le=3000, title="It must also run on pump fuel, with")
    later_kw: float | None = Field(None, ge=5, le=3000, title="Power wanted later")
    boost_kpa: float | None = Field(None, ge=0, le=500, title="Boost")
    rpm: float | None = Field(None, ge=1500, le=16000, title="Peak power at")
    drivetrain: Literal["FWD", "RWD", "AWD"] = Field("RWD", title="Driven wheels")
    use: Literal["street", "track", "drag", "hill climb", "rally", "salt flat"] = Field("street", title="Used for")
    returns: Literal["either", "with a return", "returnless"] = Field("either", title="Fuel return")
    supply_v: float = Field(13.8, ge=10, le=30, title="Volts under load")
    barometer_kpa: float = Field(101.325, ge=50, le=108, title="Barometer (or altitude)")


@dataclass(frozen=True)
class Reason:
    """Why a part is as it is, or what was assumed: words with `{name}` for each value, whose name ends in its unit."""

    text: str
    values: dict[str, float | str] = field(default_factory=dict)


def smaller(option: Option, catalogue: Catalogue, alcohol: bool) -> Iterator[tuple[str, Part, Option]]:
    """(what, part, option) for each part one size smaller, all else as it is."""

    def below(parts: Sequence[Part], size: "float", of: object) -> Part | None:
        fit = [one for one in parts if (one.alcohol_ok or not alcohol) and _size(one) < size * 0.999]
        return max(fit, key=_size, default=None)

    injectors = option.injectors
    if injectors is not None:
        part = below(catalogue.injectors, _size(injectors.part), injectors)
        if part is not None:
            yield "injectors", part, option.model_copy(update={"injectors": injectors.model_copy(update={"part": part})})
    for number, group in enumerate(option.pumps):
        alike = [one for one in catalogue.pumps if one.kind == group.part.kind and same_work(one, group.part)]
        # Pumps for floats are listed at 30 kPa and move nothing at a rail's base: no size down from one that does.
        alike = [one for one in alike if flow_at(one, option.regulator.base_kpa) > 0]
        pump = below(alike, _size(group.part), group)
        if pump is not None and isinstance(pump, PumpPart):
            pumps = list(option.pumps)
            pumps[number] = group.model_copy(update={"part": pump})
            yield f"pumps {number + 1}", pump, option.model_copy(update={"pumps": tuple(pumps)})
    nothing_returns = option.regulator.arrangement.startswith("returnless")
    lines = [("feed", option.feed), *([] if nothing_returns else [("return_line", option.return_line)])]
    for what, line in lines:
        same = [one for one in catalogue.lines if one.construction == line.part.construction]
        thinner = below(same, line.part.bore_mm, line)
        if thinner is not None and isinstance(thinner, LinePart):
            yield what, thinner, option.model_copy(update={what: line.model_copy(update={"part": thinner})})
    regulator = option.regulator
    fit = [
        one
        for one in catalogue.regulators
        if one.works == regulator.part.works and one.min_base_kpa <= regulator.base_kpa <= one.max_base_kpa
    ]
    less = below(fit, regulator.part.capacity_l_h, regulator)
    if less is not None and not nothing_returns:
        yield "regulator", less, option.model_copy(update={"regulator": regulator.model_copy(update={"part": less})})


def _size(part: Part) -> float:
    if isinstance(part, PumpPart):
        return flow_at(part, 400.0) or flow_at(part, 30.0)
    for name in ("bore_mm", "capacity_l_h"):
        if hasattr(part, name):
            return float(getattr(part, name))
    return rated_at_300_kpa(part) if isinstance(part, InjectorPart) else 0.0


def reasons(build: Build, chosen: Chosen, catalogue: Catalogue) -> list[Reason]:
    """A plain account of every choice of a sized system, with what the next smaller part would do, and what was given
    up. Raises ValueError where nothing was chosen."""
    design = chosen.design
    if design is None:
        raise ValueError("nothing was chosen")
    option, alcohol = design.option, any(one.ethanol_pct > 15 or one.base_fuel == "methanol" for one in build.targets)
    less = list(smaller(option, catalogue, alcohol))
    judged = judge_many([(build, one, target) for _, _, one in less for target in build.targets], ceilings=False)
    count = len(build.targets)
    without = {what: (part, judged[at * count : (at + 1) * count]) for at, (what, part, _) in enumerate(less)}
    found = [*_metering(design, without), *_pumps(design, without), *_lines(design, without), *_given_up(chosen, design)]
    worst = max(design.verdicts, key=lambda one: one.first_out.load)
    load = worst.first_out
    found.append(
        Reason(
            "What would run out first is {what} on {target}, at {load_pct} of what it bears. Pumps, wiring and high side "
            "keep {left_pct} in hand at least.",
            {
                "what": load.title.lower(),
                "target": worst.target.name,
                "load_pct": load.load * 100.0,
                "left_pct": design.headroom * 100.0,
            },
        )
    )
    return found


Without = dict[str, tuple[Part, list[TargetVerdict]]]


def _next(without: Without, what: str) -> tuple[str, dict[str, float | str]]:
    """What the next smaller part would do, in words."""
    if what not in without:
        return " No smaller one is on the shelf.", {}
    part, verdicts = without[what]
    worst = max(verdicts, key=lambda one: (highest(one, among=COUNTED), worst_load(one, among=COUNTED).load))
    load = worst_load(worst, among=COUNTED)
    values: dict[str, float | str] = {
        "next": part.name,
        "next_target": worst.target.name,
        "next_what": load.title.lower(),
    }
    if load.load > 50:
        return " {next} would leave nothing of {next_what} on {next_target}.", values
    return " {next} would bring {next_what} to {next_pct} on {next_target}.", values | {"next_pct": load.load * 100.0}


def _metering(design: Design, without: Without) -> Iterator[Reason]:
    option = design.option
    if option.injectors is not None:
        top = max(design.verdicts, key=lambda one: one.load("injectors").load)
        idle = max(design.verdicts, key=lambda one: one.load("injector idle").load)
        words, values = _next(without, "injectors")
        yield Reason(
            "{part} at {base_kpa}: {duty_pct} duty on {target}, an idle pulse of {pulse_ms} where {least_ms} repeats."
            + words,
            {
                "part": option.injectors.part.name,
                "base_kpa": option.regulator.base_kpa,
                "duty_pct": float(top.points.duty[PEAK]) * 100.0,
                "target": top.target.name,
                "pulse_ms": float(idle.points.effective_ms[IDLE]),
                "least_ms": option.injectors.part.smallest_pulse_ms,
                **values,
            },
        )
    high = option.high_side
    if high is not None:
        yield Reason(
            "{pumps} × {pump} and {injector}: the smallest of the shelf that hold the rail and the window.",
            {"pumps": str(len(high.pumps)), "pump": high.pumps[0].part.name, "injector": high.injectors.part.name},
        )


def _pumps(design: Design, without: Without) -> Iterator[Reason]:
    worst = max(design.verdicts, key=lambda one: one.load("pumps").load)
    for number, group in enumerate(design.option.pumps, start=1):
        words, values = _next(without, f"pumps {number}")
        told: dict[str, float | str] = {"count": str(group.count), "part": group.part.name, **values}
        if group.staged:
            told |= {"joins_kpa": group.on_above_kpa or 0.0}
            yield Reason(
                "{count} × {part} joining at {joins_kpa} of boost: until then the others idle on the small return."
                + words,
                told,
            )
            continue
        told |= {"load_pct": worst.load("pumps").load * 100.0, "target": worst.target.name}
        alone = "All pumps together: " if len(design.option.pumps) > 1 else ""
        yield Reason("{count} × {part}, always on. " + alone + "{load_pct} of supply on {target}." + words, told)
        wiring = group.wiring
        if wiring.fuse_a is not None and group.part.kind != "mechanical":
            yield Reason(
                "Each has its own circuit: {area_mm2} of wire, a fuse of {fuse_a}, for the most it can draw.",
                {"area_mm2": wiring.area_mm2, "fuse_a": wiring.fuse_a},
            )


def _given_up(chosen: Chosen, design: Design) -> Iterator[Reason]:
    """What a specialist would have liked to keep, and why it went."""
    targets: dict[str, float | str] = {"count": str(len(design.verdicts))}
    if ONE_SET in chosen.given_up:
        yield Reason("No single set of the shelf both carries and idles on all {count} targets: two sets do.", targets)
    if USUAL in chosen.given_up:
        base: dict[str, float | str] = {"base_kpa": design.option.regulator.base_kpa}
        low, high = USUAL_BASES_KPA
        base |= {"low_kpa": low, "high_kpa": high}
        yield Reason("At {low_kpa} or {high_kpa} nothing of the shelf carries every target: at {base_kpa} it does.", base)
    if chosen.dearer is not None:
        spared: dict[str, float | str] = {"spared_pct": (1.0 - design.bill.total / chosen.dearer) * 100.0}
        yield Reason("With a pump that has its own controller the whole costs {spared_pct} less than without.", spared)
    elif TURBINES in chosen.given_up:
        yield Reason("No pumps without a controller of their own bring it.", {})


def _lines(design: Design, without: Without) -> Iterator[Reason]:
    option = design.option
    words, values = _next(without, "feed")
    yield Reason("Feed of {part}." + words, {"part": option.feed.part.name, **values})
    if option.regulator.arrangement.startswith("returnless"):
        yield Reason("Nothing returns: the pumps' speed holds the pressure, by a controller set for them.", {})
    elif not option.regulator.arrangement.endswith("deadhead"):
        words, values = _next(without, "regulator")
        yield Reason("{part}." + words, {"part": option.regulator.part.name, **values})
        words, values = _next(without, "return_line")
        yield Reason("Return of {part}." + words, {"part": option.return_line.part.name, **values})
    if option.filter is not None:
        yield Reason("{part}: it passes what these pumps bring.", {"part": option.filter.part.name})
