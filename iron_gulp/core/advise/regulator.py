"""Rules about the regulator and return: overrun at idle, back-pressure, reference, spring range."""

from collections.abc import Iterator
from itertools import islice

import numpy as np

from ..judge import UNSURE, TargetVerdict
from ..model import WATCHED, Edit, Line, PumpGroup, RegulatorPart, free_flow, restrictions
from ..physics import M3_S_PER_L_H
from ..solve import IDLE, PEAK, State, line_loss_kpa, passage_loss_kpa
from .base import Context, Finding, Remedy, highest, names
from .words import leaner

# Base pressures injectors are rated and controllers calibrated at.
WORTH_A_WORD_KPA = 1.0
USUAL_BASES_KPA = (300.0, 400.0)


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
    single = (
        *_open_return(context, worst),
        *_larger_return(context),
        *_larger_regulator(context),
        *_stage(context),
    )
    return single or tuple(_together(context))


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


def _open_return(context: Context, worst: TargetVerdict) -> Iterator[Remedy]:
    """The narrowest passage of the return, where it takes most of what the return loses: it comes before a hose."""
    hyd, fuel, back = worst.points.hydraulics, worst.fuel, context.option.return_passages
    if not back:
        return
    flow = hyd.bypass_m3_s[IDLE : IDLE + 1]
    lost = [float(passage_loss_kpa(one, flow, fuel.density_kg_m3, fuel.viscosity_mpa_s)[0]) for one in back]
    narrow = back[int(np.argmax(lost))]
    if max(lost) < 0.3 * float(hyd.return_kpa[IDLE]):
        return
    bore = context.option.return_line.part.bore_mm
    edits = ((context.path(f"return_passages/{narrow.id}/bore_mm"), bore),)
    verdicts = context.trial(edits)
    if verdicts and highest(verdicts, "regulator") <= 1:
        values: dict[str, float | str] = {"passage": narrow.name, "lost_kpa": max(lost), "bore_mm": bore}
        yield Remedy("Open {passage}, which takes {lost_kpa}, to {bore_mm}: the base holds", edits, values)


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


def _together(context: Context) -> Iterator[Remedy]:
    """Regulator and return line, and the pumps staged with them where that is not enough: the smallest that hold."""
    fitted = context.option.return_line.part
    lines = [fitted, *context.catalogue.lines_above(fitted)][:4]
    asked: list[tuple[str, tuple[Edit, ...], dict[str, float | str]]] = []
    for staged, staging in ((False, ()), *((True, edits) for edits in _stagings(context))):
        for part in _regulators(context):
            for line in lines:
                edits = (
                    *staging,
                    (context.path("regulator/part"), part.model_dump(mode="json")),
                    (context.path("return_line/part"), line.model_dump(mode="json")),
                )
                label = "Fit {part} and a return line in {line}" if line is not fitted else "Fit {part}"
                label += (
                    ", and idle on one pump, the rest above {boost_kpa} of boost; cut boost on low rail pressure"
                    if staged
                    else ""
                )
                values: dict[str, float | str] = {"part": part.name, "line": line.name}
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
            yield Remedy(
                "Stage: idle on one pump, the rest above {boost_kpa} of boost, and cut boost on low rail pressure",
                edits,
                values,
            )
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
    remedies = []
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


def port_side_on_it(context: Context) -> bool:
    """Whether port injectors work at this regulator's pressure: no carburettor, direct ones alone or one of its own."""
    option = context.option
    own = option.delivery is not None and option.delivery.port_base_kpa is not None
    return option.injectors is not None and option.mode != "direct only" and not own


def no_differential(context: Context) -> Iterator[Finding]:
    """The rail is asked for less pressure than the manifold holds."""
    if context.option.carburettor is not None:
        return
    dead = [
        v
        for v in context.verdicts
        if int(v.points.hydraulics.state[PEAK]) == State.NO_DIFFERENTIAL and float(v.points.metered_kg_s[PEAK]) > 0
    ]
    if dead:
        yield Finding(
            "no-differential",
            "stop",
            "regulator",
            "No pressure across the injectors",
            "The rail stands at {rail_kpa} while the manifold holds {boost_kpa}: no fuel flows. The regulator is set to "
            "{set_kpa}.",
            "Injectors flow only on the difference between rail and manifold.",
            {
                "set_kpa": float(dead[0].points.hydraulics.set_kpa[PEAK]),
                "rail_kpa": float(dead[0].points.hydraulics.rail_kpa[PEAK]),
                "boost_kpa": dead[0].target.boost_kpa,
            },
            names(dead),
            (Remedy("Reference it to the manifold", ((context.path("regulator/reference"), "manifold"),)),),
        )


def spring_range(context: Context) -> Iterator[Finding]:
    """Base pressure outside the spring's range, or the end pressure above what the regulator stands."""
    regulator = context.option.regulator
    part = regulator.part
    if not part.min_base_kpa <= regulator.base_kpa <= part.max_base_kpa:
        nearest = min(max(regulator.base_kpa, part.min_base_kpa), part.max_base_kpa)
        usual = [base for base in USUAL_BASES_KPA if part.min_base_kpa <= base <= part.max_base_kpa]
        yield Finding(
            "spring-range",
            "stop",
            "regulator",
            "Base pressure outside the spring's range",
            "{base_kpa} is asked of a regulator that adjusts from {min_kpa} to {max_kpa}.",
            "The adjuster runs out of thread or the spring goes solid before the pressure is reached.",
            {"base_kpa": regulator.base_kpa, "min_kpa": part.min_base_kpa, "max_kpa": part.max_base_kpa},
            (),
            tuple(
                Remedy("Set {base_kpa}", ((context.path("regulator/base_kpa"), base),), {"base_kpa": base})
                for base in dict.fromkeys((nearest, *usual))
            ),
        )
    worst = max(context.verdicts, key=lambda v: float(v.points.hydraulics.rail_kpa.max()))
    top = float(worst.points.hydraulics.rail_kpa.max())
    if top > part.max_pressure_kpa:
        yield Finding(
            "end-pressure",
            "stop",
            "regulator",
            "Rail pressure above what the regulator stands",
            "The rail reaches {top_kpa} on {target_name}; the regulator is good for {limit_kpa}.",
            "Base plus boost counts, not base alone.",
            {"top_kpa": top, "target_name": worst.target.name, "limit_kpa": part.max_pressure_kpa},
            (worst.target.name,),
            (Remedy("Choose a regulator with a higher end pressure, or a lower base"),),
        )


def return_entry(context: Context) -> Iterator[Finding]:
    """The return enters the tank where it should not."""
    entry = context.option.return_entry
    nothing_returns = context.option.regulator.arrangement in ("returnless, speed-controlled", "carburettor, deadhead")
    if entry == "below the fuel level" or nothing_returns:
        return
    vent = entry == "into the vent line"
    yield Finding(
        "return-entry",
        "stop" if vent else "warn",
        "regulator",
        "The return blocks the tank's breathing" if vent else "The return aerates the fuel",
        "The return is teed into the vent." if vent else "The return falls onto the fuel from above its level.",
        "A tank that cannot breathe draws a vacuum on the pump, and fuel leaves through the vent."
        if vent
        else "Aerated fuel reaches the pickup as foam: pumps cavitate and the rail pulses.",
        {},
        (),
        (
            Remedy(
                "Bring it in below the fuel level, away from the pickup",
                ((context.path("return_entry"), "below the fuel level"),),
            ),
        ),
    )


def reference_line(context: Context) -> Iterator[Finding]:
    """A reference line that can come off or is disturbed by another device."""
    regulator = context.option.regulator
    boosted = [verdict for verdict in context.verdicts if verdict.target.boost_kpa > 10]
    if regulator.reference_line == "its own, clamped" or regulator.reference == "atmosphere" or not boosted:
        return
    worst = max(boosted, key=lambda verdict: verdict.target.boost_kpa)
    left = max(regulator.base_kpa - worst.target.boost_kpa, 0.0)
    yield Finding(
        "reference-line",
        "stop",
        "regulator",
        "The reference line can be lost",
        "It is {how}. If it comes off at {boost_kpa} the rail falls to {base_kpa}, the injectors see {left_kpa}, and the "
        "mixture goes {lean}.",
        "Under boost that is the end of the engine. The regulator wants a line of its own from the manifold, of hard "
        "hose, clamped at both ends.",
        {
            "how": regulator.reference_line,
            "boost_kpa": worst.target.boost_kpa,
            "base_kpa": regulator.base_kpa,
            "left_kpa": left,
            "lean": leaner(float(np.sqrt(regulator.base_kpa / left)) if left > 0 else float("inf")),
        },
        names(boosted),
        (
            Remedy(
                "Give it a clamped line of its own",
                ((context.path("regulator/reference_line"), "its own, clamped"),),
            ),
        ),
    )


def above_the_throttle(context: Context) -> Iterator[Finding]:
    """A manifold reference on injectors that spray into the air above the throttle."""
    fitted, regulator = context.option.injectors, context.option.regulator
    if fitted is None or fitted.sprays != "above the throttle" or regulator.reference == "atmosphere":
        return
    if not port_side_on_it(context):
        return
    vacuum = context.build.engine.idle_manifold_kpa
    yield Finding(
        "reference-above-throttle",
        "warn",
        "regulator",
        "Manifold reference above the throttle",
        "The injectors spray into the air before the throttle, the regulator follows the manifold behind it: at idle "
        "they have {idle_kpa} across them, with the throttle open {open_kpa}.",
        "Above the throttle nothing pulls at the nozzle: fixed pressure meters evenly there, a reference line brings "
        "back the error it is meant to take away.",
        {"idle_kpa": regulator.base_kpa + regulator.reference_ratio * vacuum, "open_kpa": regulator.base_kpa},
        (),
        (Remedy("Leave it open to the air", ((context.path("regulator/reference"), "atmosphere"),)),),
    )


RULES = (
    above_the_throttle,
    no_differential,
    overrun,
    back_pressure,
    spring_range,
    return_entry,
    reference_line,
)
