"""Size it for me: from a few answers in plain words to a whole build, and from a build to the cheapest sensible system.

What can be assumed is not asked; every assumption is told with the field that changes it.
"""

from collections.abc import Iterator, Sequence
from dataclasses import dataclass, field

from ..judge import TargetVerdict, circuits, judge_many
from ..model import (
    RESERVED,
    Build,
    Catalogue,
    InjectorPart,
    LinePart,
    Option,
    Part,
    PumpPart,
    flow_at,
    rated_at_300_kpa,
    same_work,
)
from ..physics import M3_S_PER_L_H
from ..solve import IDLE, PEAK
from .design import COUNTED, USUAL_BASES_KPA, Design
from .wishes import DIRECT_STAYS, ONE_SET, TURBINES, USUAL, Chosen


@dataclass(frozen=True)
class Reason:
    """Why a part is as it is, or what was assumed: words with `{name}` for each value, whose name ends in its unit. A
    `caution` is no assumption: it cannot be changed; of an assumption `path` is the field that does."""

    text: str
    values: dict[str, float | str] = field(default_factory=dict)
    caution: bool = False
    path: str = ""


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
    kept = frozenset(chosen.kept)
    found = [
        *_metering(design, without, kept),
        *_pumps(build, design, without, kept),
        *_lifting(design),
        *_sitting(design),
        *_lines(design, without, kept),
        *_sensing(build, design.option),
        *_given_up(chosen, design),
    ]
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
Kept = frozenset[str]
STAYS = " It stays, as asked."


def _next(design: Design, without: Without, what: str) -> tuple[str, dict[str, float | str]]:
    """What the next smaller part would do, in words: the load that it raises most, where that is past what is wanted."""
    if what not in without:
        return " No smaller one is on the shelf.", {}
    part, verdicts = without[what]
    raised = [
        (_ratio(one.load, before.load(one.component).load), one, verdict)
        for verdict, before in zip(verdicts, design.verdicts, strict=True)
        for one in verdict.loads
        if one.component in COUNTED
    ]
    past = [one for one in raised if one[0] > 1.0 + 1e-6 and one[1].load > _bound(one[1].component, design)]
    values: dict[str, float | str] = {"next": part.name}
    if not past:
        return " {next} would do by its loads; it is held back by a rule of the shop or costs no less.", values
    _, load, verdict = max(past, key=lambda one: (one[1].load, one[0]))
    values |= {"next_target": verdict.target.name, "next_what": load.title.lower()}
    if load.load > ENDLESS_LOAD:
        return " {next} would leave nothing of {next_what} on {next_target}.", values
    return " {next} would bring {next_what} to {next_pct} on {next_target}.", values | {"next_pct": load.load * 100.0}


ENDLESS_LOAD = 50.0


def _ratio(load: float, before: float) -> float:
    return load / before if before > 0 else ENDLESS_LOAD if load > 0 else 1.0


def _bound(component: str, design: Design) -> float:
    """What a load may be: the headroom wanted left where it is asked, else its limit."""
    return 1.0 / (1.0 + design.wanted) if component in RESERVED else 1.0


def _metering(design: Design, without: Without, kept: Kept) -> Iterator[Reason]:
    option = design.option
    if option.injectors is not None:
        top = max(design.verdicts, key=lambda one: one.load("injectors").load)
        idle = max(design.verdicts, key=lambda one: one.load("injector idle").load)
        words, values = (STAYS, {}) if "injectors" in kept else _next(design, without, "injectors")
        told: dict[str, float | str] = {
            "part": option.injectors.part.name,
            "base_kpa": option.regulator.base_kpa,
            "duty_pct": float(top.points.duty[PEAK]) * 100.0,
            "target": top.target.name,
        }
        idles = "the direct side idles alone."
        if float(idle.points.metered_kg_s[IDLE]) > 0:
            idles = "an idle pulse of {pulse_ms} where {least_ms} repeats."
            told["pulse_ms"] = float(idle.points.effective_ms[IDLE])
            told["least_ms"] = option.injectors.part.smallest_pulse_ms
        on_base = "{part}, on a base pressure of {base_kpa}: {duty_pct} duty on {target}, "
        yield Reason(on_base + idles + words, told | values)
        second = option.injectors.second
        if second is not None:
            yield Reason(
                "{part} as a second set, joining at {joins_pct} duty of the first: those idle, both carry the top.",
                {"part": second.part.name, "joins_pct": second.joins_pct},
            )
    high = option.high_side
    if high is not None:
        why = ": the smallest of the shelf that hold the rail and the window."
        if option.injectors is not None:
            why = ": they bring what they hold, port injectors the rest."
        words = STAYS if {"high-pressure pumps", "direct injectors"} <= kept else ""
        yield Reason(
            "{pumps} × {pump} and {injector}" + why + words,
            {"pumps": str(len(high.pumps)), "pump": high.pumps[0].part.name, "injector": high.injectors.part.name},
        )


def _pumps(build: Build, design: Design, without: Without, kept: Kept) -> Iterator[Reason]:
    worst = max(design.verdicts, key=lambda one: one.load("pumps").load)
    proposed = {one.path: one.area_proposed_mm2 for one in circuits(design.option, design.verdicts, build.rules)}
    for number, group in enumerate(design.option.pumps, start=1):
        words, values = (STAYS, {}) if "pumps" in kept else _next(design, without, f"pumps {number}")
        told: dict[str, float | str] = {"count": str(group.count), "part": group.part.name, **values}
        if group.staged:
            told |= {"joins_kpa": group.on_above_kpa or 0.0}
            yield Reason(
                "{count} × {part} joining at {joins_kpa} of boost: until then the others idle on the small return."
                + words,
                told,
            )
        else:
            told |= {"load_pct": worst.load("pumps").load * 100.0, "target": worst.target.name}
            alone = "All pumps together: " if len(design.option.pumps) > 1 else ""
            yield Reason("{count} × {part}, always on. " + alone + "{load_pct} of supply on {target}." + words, told)
        wiring = group.wiring
        if wiring.fuse_a is None or group.part.kind == "mechanical":
            continue
        cable: dict[str, float | str] = {"area_mm2": wiring.area_mm2, "fuse_a": wiring.fuse_a}
        least = proposed.get(f"pumps/{group.id}/wiring", wiring.area_mm2)
        thicker = ""
        if least < wiring.area_mm2:
            thicker, cable["least_mm2"] = " {least_mm2} would keep the rule; the volts it spares are headroom.", least
        own = "A circuit of its own" if group.count == 1 else "A circuit for each"
        yield Reason(own + ": {area_mm2} of wire, a fuse of {fuse_a}, for the most it can draw." + thicker, cable)


def _lifting(design: Design) -> Iterator[Reason]:
    lift = design.option.lift
    if lift is None:
        return
    worst = max(design.verdicts, key=lambda one: one.load("lift").load)
    assert worst.surge is not None
    yield Reason(
        "{count} × {part} into a surge tank of {surge_l}: on {target} the main pumps draw {drawn_l_h}, {lifted_l_h} are "
        "lifted, and with the pickup dry a full tank lasts {lasts_s}.",
        {
            "count": str(lift.count),
            "part": lift.part.name,
            "surge_l": lift.surge_l,
            "target": worst.target.name,
            "drawn_l_h": worst.surge.drawn_m3_s / M3_S_PER_L_H,
            "lifted_l_h": worst.surge.lifted_m3_s / M3_S_PER_L_H,
            "lasts_s": lift.surge_l * 1e-3 / max(worst.surge.drawn_m3_s, 1e-12),
        },
    )


def _sitting(design: Design) -> Iterator[Reason]:
    """Where pumps and regulator sit, where that is not in the tank and at the rail."""
    suction = design.option.suction
    if suction.place == "external":
        sits: dict[str, float | str] = {"head_m": abs(suction.head_m)}
        words = f"The pump sits outside, {{head_m}} {'below' if suction.head_m >= 0 else 'above'} the fuel level"
        if suction.line is not None:
            words, sits["hose"] = words + ", fed by {hose}", suction.line.part.name
        if suction.filter is not None:
            words, sits["strainer"] = words + ", with {strainer} before it", suction.filter.part.name
        yield Reason(words + ".", sits)
    if design.option.regulator.arrangement == "bypass near the tank":
        worst = max(design.verdicts, key=lambda one: float(one.points.hydraulics.feed_kpa[PEAK]))
        lost: dict[str, float | str] = {
            "feed_kpa": float(worst.points.hydraulics.feed_kpa[PEAK]),
            "target": worst.target.name,
            "return_m": design.option.return_line.length_m,
        }
        yield Reason(
            "The regulator sits near the tank with a return of {return_m}: what the feed loses behind it, {feed_kpa} on "
            "{target}, repeats, and so the calibration holds it.",
            lost,
        )


def _sensing(build: Build, option: Option) -> Iterator[Reason]:
    """Sensors that took the place of those which ended below what this system brings them."""
    before = {sensor.id: sensor for one in build.options if one.id == option.id for sensor in one.sensors}
    for sensor in option.sensors:
        was = before.get(sensor.id)
        if was is not None and was.reach != sensor.reach:
            told: dict[str, float | str] = {"part": sensor.name, "what": sensor.measures}
            yield Reason("{part} reads the {what}: the one before ends below what it comes to.", told)


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
    if DIRECT_STAYS in chosen.given_up:
        yield Reason("Port injectors alone do not help the direct side far enough: its pumps or injectors grow too.", {})
    if chosen.dearer is not None:
        spared: dict[str, float | str] = {"spared_pct": (1.0 - design.bill.total / chosen.dearer) * 100.0}
        yield Reason("With a pump that has its own controller the whole costs {spared_pct} less than without.", spared)
    elif TURBINES in chosen.given_up:
        yield Reason("No pumps without a controller of their own bring it.", {})


def _lines(design: Design, without: Without, kept: Kept) -> Iterator[Reason]:
    option = design.option

    def told(what: str, kind: str) -> tuple[str, dict[str, float | str]]:
        return (STAYS, {}) if kind in kept else _next(design, without, what)

    words, values = told("feed", "lines")
    yield Reason("Feed of {part}." + words, {"part": option.feed.part.name, **values})
    if option.regulator.arrangement.startswith("returnless"):
        yield Reason("Nothing returns: the pumps' speed holds the pressure, by a controller set for them.", {})
    elif not option.regulator.arrangement.endswith("deadhead"):
        words, values = told("regulator", "regulator")
        idle = max(design.verdicts, key=lambda one: one.load("regulator").load)
        back: dict[str, float | str] = {"part": option.regulator.part.name, "target": idle.target.name, **values}
        back["load_pct"] = idle.load("regulator").load * 100.0
        yield Reason("{part}: {load_pct} of what it bears idling on {target}." + words, back)
        words, values = told("return_line", "lines")
        yield Reason("Return of {part}." + words, {"part": option.return_line.part.name, **values})
    if option.filter is not None:
        most = max(float(one.points.hydraulics.supply_m3_s.max()) for one in design.verdicts) / M3_S_PER_L_H
        rated: dict[str, float | str] = {"part": option.filter.part.name, "most_l_h": most}
        yield Reason("{part}: {most_l_h} pass it at most." + (STAYS if "filter" in kept else ""), rated)
