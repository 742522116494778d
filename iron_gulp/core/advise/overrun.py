"""Rules about what returns at idle: a base pressure that cannot be held, and back-pressure in the return."""

from collections.abc import Iterator, Sequence
from itertools import islice

from ..judge import UNSURE, TargetVerdict
from ..model import WATCHED, Edit, Line, PumpGroup, RegulatorPart, free_flow, restrictions
from ..physics import M3_S_PER_L_H
from ..solve import IDLE, line_loss_kpa, passage_loss_kpa
from .base import Context, Finding, Remedy, Value, highest, names
from .throttles import Throttle, opened, opening_values, opening_words, standing

WORTH_A_WORD_KPA = 1.0
Opening = tuple[tuple[Throttle, ...], tuple[Edit, ...]]


def overrun(context: Context) -> Iterator[Finding]:
    """Base pressure cannot be held at idle."""
    returnless = context.option.regulator.arrangement.startswith("returnless")  # its slowest speed is judged elsewhere
    over = [] if returnless else context.over("regulator")
    if not over:
        return
    worst = over[0]
    hyd, (where, most) = worst.points.hydraulics, _costliest(context, worst)
    yield Finding(
        "regulator-overrun",
        "warn",
        "regulator",
        "Base pressure cannot be held at idle",
        "With {bypass_l_h} to dump at idle the wide-open regulator and return line hold the rail at {rail_kpa}; "
        "it is set to {set_kpa}." + _lost_there(float(hyd.return_kpa[IDLE]), most),
        "The regulator is open as far as it goes and can no longer regulate: idle runs at a pressure nobody "
        "chose, and turning the adjuster does nothing.",
        {
            "bypass_l_h": float(hyd.bypass_m3_s[IDLE]) / M3_S_PER_L_H,
            "rail_kpa": float(hyd.rail_kpa[IDLE]),
            "set_kpa": float(hyd.set_kpa[IDLE]),
            "return_kpa": float(hyd.return_kpa[IDLE]),
            "where": where,
            "most_kpa": most,
        },
        names(over),
        lambda: _remedies(context, worst),
    )


def _lost_there(return_kpa: float, most_kpa: float) -> str:
    """Where the return's share of it is lost, where it is worth a word."""
    if return_kpa < WORTH_A_WORD_KPA:
        return ""
    if most_kpa > 0.95 * return_kpa:
        return " The return loses {return_kpa} of it, nearly all in {where}."
    return " The return loses {return_kpa} of it, most in {where}: {most_kpa}."


def _remedies(context: Context, worst: TargetVerdict) -> tuple[Remedy, ...]:
    """One part that holds the base; several together only where no single one does."""
    opening = tuple(_open_return(context, worst))
    if opening:  # what throttles the return is opened; a regulator or a hose does not make up for it
        return (*opening, *_larger_return(context), *_stage(context))
    single = (*_larger_return(context), *_larger_regulator(context), *_stage(context))
    steps = _opened_return(context, worst)
    return single if single and not steps else (*_together(context, steps[-1] if steps else None), *single)


def _costliest(context: Context, worst: TargetVerdict) -> tuple[str, float]:
    """The place in the return that loses most at idle, and how much, kPa: a passage, the hose, its bends and ends."""
    hyd, fuel, line = worst.points.hydraulics, worst.fuel, context.option.return_line
    flow = hyd.bypass_m3_s[IDLE : IDLE + 1]

    def lost(run: Line) -> float:
        return float(line_loss_kpa(run, flow, fuel.density_kg_m3, fuel.viscosity_mpa_s)[0])

    bare = lost(line.model_copy(update={"k_sum": 0.0, "fittings": ()}))
    ends = tuple(one for one in line.fittings if one.kind.startswith("exit"))
    tank_end = lost(line.model_copy(update={"k_sum": 0.0, "fittings": ends})) - bare
    found = {
        "the hose itself": bare,
        "its end in the tank": tank_end,
        "its bends and fittings": lost(line) - bare - tank_end,
    }
    for one in restrictions(context.option, "return"):
        found[one.title] = float(passage_loss_kpa(one.element, flow, fuel.density_kg_m3, fuel.viscosity_mpa_s)[0])
    return max(found.items(), key=lambda each: each[1])


def _opened_return(context: Context, worst: TargetVerdict) -> list[Opening]:
    """What stands in the return (passage, cooler, sensor, collector) opened to its line's bore, that which loses most
    first and then the next: each step with what it opens; none where they take little of it."""
    hyd, bore = worst.points.hydraulics, context.option.return_line.part.bore_mm
    each = standing(worst, "return", hyd.bypass_m3_s[IDLE : IDLE + 1])
    narrow = [one for one in sorted(each, key=lambda one: -one.lost_kpa) if opened(context, one, bore)]
    if not narrow or sum(one.lost_kpa for one in narrow) < NARROW_SHARE * float(hyd.return_kpa[IDLE]):
        return []
    return [
        (tuple(narrow[:n]), tuple(edit for one in narrow[:n] for edit in opened(context, one, bore)))
        for n in range(1, len(narrow) + 1)
    ]


NARROW_SHARE = 0.3  # of what the return loses: what stands in it comes before a hose or a regulator


def _open_return(context: Context, worst: TargetVerdict) -> Iterator[Remedy]:
    """What stands in the return opened, as few of it as hold the base."""
    steps, bore = _opened_return(context, worst), context.option.return_line.part.bore_mm
    for (several, edits), verdicts in zip(steps, context.trials([edits for _, edits in steps]), strict=True):
        if verdicts and highest(verdicts, "regulator") <= 1:
            yield Remedy(_opening(several) + ": the base holds", edits, opening_values(several, bore))
            return


def _opening(several: Sequence[Throttle]) -> str:
    takes = "; it takes {lost_0_kpa} now" if len(several) == 1 else ""
    return opening_words(several) + takes


def _larger_return(context: Context) -> Iterator[Remedy]:
    parts = context.catalogue.lines_above(context.option.return_line.part)
    tried = [((context.path("return_line/part"), part.model_dump(mode="json")),) for part in parts]
    for part, edits, verdicts in zip(parts, tried, context.trials(tried), strict=True):
        if verdicts and highest(verdicts, "regulator") <= 1:
            yield Remedy("Return line in {part}: the base holds", edits, {"part": part.name})
            return


def _larger_regulator(context: Context) -> Iterator[Remedy]:
    parts = _regulators(context)
    tried = [((context.path("regulator/part"), part.model_dump(mode="json")),) for part in parts]
    for part, edits, verdicts in zip(parts, tried, context.trials(tried), strict=True):
        if verdicts and highest(verdicts, "regulator") <= 1:
            yield Remedy("Fit {part}: the base holds", edits, {"part": part.name})
            return


def _regulators(context: Context) -> list[RegulatorPart]:
    """The next larger regulators whose spring fits the base pressure."""
    base = context.option.regulator.base_kpa
    larger = context.catalogue.regulators_above(context.option.regulator.part)
    return list(islice((part for part in larger if part.min_base_kpa <= base <= part.max_base_kpa), 4))


def _together(context: Context, open_too: Opening | None) -> Iterator[Remedy]:
    """Regulator and return line, and the pumps staged with them where that is not enough: the smallest that hold.

    What throttles the return is opened with them.
    """
    fitted, (several, opening) = context.option.return_line.part, open_too or ((), ())
    bore = fitted.bore_mm
    lines = [fitted, *context.catalogue.lines_above(fitted)][:4]
    asked: list[tuple[str, tuple[Edit, ...], dict[str, Value]]] = []
    for staged, staging in ((False, ()), *((True, edits) for edits in _stagings(context))):
        for part in _regulators(context):
            for line in lines:
                edits = (
                    *staging,
                    *opening,
                    (context.path("regulator/part"), part.model_dump(mode="json")),
                    (context.path("return_line/part"), line.model_dump(mode="json")),
                )
                label = "Fit {part} and a return line in {line}" if line is not fitted else "Fit {part}"
                label += f", and {STAGED}" if staged else ""
                values: dict[str, Value] = {"part": part.name, "line": line.name}
                if several:
                    label, values = f"{_opening(several)}. {label}", values | opening_values(several, bore)
                asked.append((label, edits, values | ({"boost_kpa": _switch_kpa(context)} if staged else {})))
    for (label, edits, values), verdicts in zip(asked, context.trials([one[1] for one in asked]), strict=True):
        if verdicts and highest(verdicts, "regulator") <= 1:
            yield Remedy(label, edits, values)
            return


STAGED = "idle on one pump, the rest above {boost_kpa} of boost, with a boost cut on low rail pressure"


def _stage(context: Context) -> Iterator[Remedy]:
    """Let part of the pumps wait for boost, when the build has boost to switch on."""
    tried = _stagings(context)
    for edits, verdicts in zip(tried, context.trials(tried), strict=True):
        if verdicts and highest(verdicts, "regulator") <= 1:
            values = {"boost_kpa": _switch_kpa(context)}
            yield Remedy(f"Stage: {STAGED}", edits, values)
            return


def _switch_kpa(context: Context) -> float:
    """Boost at which pumps that wait for it join: half of the least any target runs, 50 kPa at most."""
    return float(round(min(_least_boost_kpa(context) / 2, 50.0)))


def _least_boost_kpa(context: Context) -> float:
    return min(verdict.target.boost_kpa for verdict in context.verdicts)


def _stagings(context: Context) -> list[tuple[Edit, ...]]:
    """Ways to idle on one pump, the smallest first; none without boost to switch on, or with one pump alone."""
    always = [group for group in context.option.pumps if not group.staged]
    if _least_boost_kpa(context) < 20 or sum(group.count for group in always) < 2:
        return []
    smallest_first = sorted(always, key=lambda one: free_flow(one.part))
    return [_idling_on(context, group, _switch_kpa(context)) for group in smallest_first]


def _idling_on(context: Context, stays: PumpGroup, switch_kpa: float) -> tuple[Edit, ...]:
    """One pump of a group runs always, every other that did so waits for boost."""
    groups, watched = context.option.pumps, (context.path("calibration/rail_watch"), WATCHED)
    if stays.count == 1:
        waiting = [group for group in groups if group is not stays and not group.staged]
        joining: list[Edit] = [(context.path(f"pumps/{group.id}/on_above_kpa"), switch_kpa) for group in waiting]
        # What waits for boost hangs on no output or relay of what does not.
        apart: list[Edit] = [
            (context.path(f"pumps/{group.id}/wiring/{name}"), "")
            for group in waiting
            for name in ("output", "relay")
            if getattr(group.wiring, name)
        ]
        return (*joining, *apart, watched)
    used = {group.id for group in groups}
    fresh = next(f"g{number}" for number in range(1, len(groups) + 2) if f"g{number}" not in used)
    plain = [group.model_dump(mode="json") for group in groups]
    for data, group in zip(plain, groups, strict=True):
        if not group.staged and group is not stays:
            data["on_above_kpa"] = switch_kpa
    own = plain[groups.index(stays)]
    rest = {**own, "id": fresh, "count": stays.count - 1, "on_above_kpa": switch_kpa}
    rest["wiring"] = stays.wiring.alone().model_dump(mode="json")
    own["count"] = 1
    return ((context.path("pumps"), [*plain, rest]), watched)


def back_pressure(context: Context) -> Iterator[Finding]:
    """The return line pushes back more than the rules allow."""
    allowed = context.build.rules.return_drop_kpa
    over = [
        v
        for v in context.above("return", UNSURE)
        if v.load("regulator").load <= 1 and float(v.points.hydraulics.return_kpa[IDLE]) > allowed
    ]
    if not over:
        return
    worst = over[0]
    part = context.option.return_line.part
    larger = context.catalogue.line_next(part, larger=True)
    remedies = [
        Remedy(_opening(several), edits, opening_values(several, part.bore_mm))
        for several, edits in _opened_return(context, worst)[-1:]
    ]
    if larger is not None:
        remedies.append(
            Remedy(
                "Fit {part}",
                ((context.path("return_line/part"), larger.model_dump(mode="json")),),
                {"part": larger.name},
            )
        )
    yield Finding(
        "return-pressure",
        "note",
        "regulator",
        "Back-pressure in the return",
        "At idle {bypass_l_h} goes back and the return line loses {return_kpa}; {allowed_kpa} is allowed.",
        "It adds to what the regulator must overcome, and a restriction at the tank end looks just like a fault of the "
        "regulator.",
        {
            "bypass_l_h": float(worst.points.hydraulics.bypass_m3_s[IDLE]) / M3_S_PER_L_H,
            "return_kpa": float(worst.points.hydraulics.return_kpa[IDLE]),
            "allowed_kpa": allowed,
        },
        names(over),
        tuple(remedies),
    )


RULES = (overrun, back_pressure)
