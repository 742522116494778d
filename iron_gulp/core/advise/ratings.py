"""Rules about what parts are rated for: hoses by pressure and place, filter elements, the kind of a regulator."""

from collections.abc import Iterator
from functools import partial

from ..judge import TargetVerdict
from ..model import WITH_FILTER, Line, LinePart
from ..physics import M3_S_PER_L_H
from ..solve import IDLE, PEAK, filter_loss_kpa
from .base import Context, Finding, Remedy, Severity

# What surrounds a line where it runs, °C: class figures, hot soak included.
PLACE_C = {"in the tank": 60.0, "under the body": 70.0, "in the engine bay": 110.0}
BURSTS, COOKS_K = 1.25, 25.0  # over its rating by so much a hose is no longer a question of margin
NEAR_COLLAPSE = 0.5


def _lines(context: Context, verdict: TargetVerdict) -> Iterator[tuple[str, str, Line, float]]:
    """Lines fitted: title, place in the option, line, and the highest gauge pressure in it on a target, kPa."""
    option, hyd = context.option, verdict.points.hydraulics
    behind_pumps = float((hyd.inlet_kpa + hyd.pump_rise_kpa).max())
    yield "The feed", "feed", option.feed, behind_pumps
    for number, branch in enumerate(option.split.branches if option.split else (), start=1):
        yield f"Branch {number}", f"split/branches/{branch.id}/line", branch.line, float(hyd.rail_kpa.max())
    if option.regulator.arrangement not in ("carburettor, deadhead", "returnless, speed-controlled"):
        yield "The return", "return_line", option.return_line, float(hyd.return_kpa.max()) + option.tank.pressure_kpa
    if option.suction.line is not None:
        yield "The suction line", "suction/line", option.suction.line, max(float(hyd.inlet_kpa.max()), 0.0)
    if option.lift is not None and verdict.lift is not None:
        yield "The lift line", "lift/line", option.lift.line, verdict.lift.rise_kpa


def hoses(context: Context) -> Iterator[Finding]:
    """A hose beyond the pressure it is rated for, or in a place hotter than it bears; one finding for each hose."""
    seen: dict[str, tuple[str, Line, float]] = {}
    for verdict in context.verdicts:
        for title, path, line, kpa in _lines(context, verdict):
            seen[path] = (title, line, max(kpa, seen[path][2] if path in seen else 0.0))
    for path, (title, line, kpa) in seen.items():
        part, hot_c = line.part, PLACE_C[line.runs]
        by_pressure = part.max_pressure_kpa is not None and kpa > part.max_pressure_kpa
        by_heat = part.max_temp_c is not None and hot_c > part.max_temp_c
        if not (by_pressure or by_heat):
            continue
        far = (by_pressure and kpa > BURSTS * (part.max_pressure_kpa or 0.0)) or (
            by_heat and hot_c > (part.max_temp_c or 0.0) + COOKS_K
        )
        texts = {
            by_pressure: "{line} sees {line_kpa}; {part} is rated to {rated_kpa}.",
            by_heat: "{line} runs {place}, about {place_c} with the engine hot; {part} is rated to {rated_c}.",
        }
        severity: Severity = "stop" if far else "warn"
        yield Finding(
            "hose-rating",
            severity,
            "feed",
            "Hose beyond its pressure rating" if by_pressure else "Hose in a place too hot for it",
            texts[True],
            "A hose that hardens or swells fails at its ends first, and sprays. Pressure and heat ratings fall together: "
            "the maker's sheet counts.",
            {
                "line": title,
                "place": line.runs,
                "place_c": hot_c,
                "part": part.name,
                "line_kpa": kpa,
                "rated_kpa": part.max_pressure_kpa or 0.0,
                "rated_c": part.max_temp_c or 0.0,
            },
            (),
            partial(_hose, context, path, part, kpa, hot_c),
        )


def _hose(context: Context, path: str, part: LinePart, kpa: float, hot_c: float) -> Iterator[Remedy]:
    """The nearest bore, none much smaller, that is rated for the place."""
    fit = [
        one
        for one in context.catalogue.lines
        if one.bore_mm >= 0.93 * part.bore_mm
        and one.alcohol_ok >= part.alcohol_ok
        and (one.max_pressure_kpa is None or one.max_pressure_kpa >= kpa)
        and (one.max_temp_c is None or one.max_temp_c >= hot_c)
        and one.construction not in ("hard tube", "suction hose", "submersible hose")
    ]
    for one in sorted(fit, key=lambda one: one.bore_mm)[:1]:
        yield Remedy("Fit {part}", ((context.path(f"{path}/part"), one.model_dump(mode="json")),), {"part": one.name})


def collapse(context: Context) -> Iterator[Finding]:
    """The drop across a filter nears what its element bears."""
    option = context.option
    places = (("filter", option.filter, "supply_m3_s"), ("suction/filter", option.suction.filter, "supply_m3_s"))
    for path, fitted, flow_of in places:
        if fitted is None or fitted.part.collapse_kpa is None:
            continue
        flows = [getattr(verdict.points.hydraulics, flow_of) for verdict in context.verdicts]
        drop = max(float(filter_loss_kpa(fitted, flow)[[PEAK, IDLE]].max()) for flow in flows)
        if drop <= NEAR_COLLAPSE * fitted.part.collapse_kpa:
            continue
        passing = max(float(flow.max()) for flow in flows) / M3_S_PER_L_H
        larger = context.catalogue.filters_for(passing, fitted.part.grade_um)
        yield Finding(
            "filter-collapse",
            "stop" if drop > fitted.part.collapse_kpa else "warn",
            "feed" if path == "filter" else "fuel",
            "The filter's element may collapse",
            "{part} loses {drop_kpa} with {flow_l_h} passing; its element bears {collapse_kpa}.",
            "An element that gives way sends its dirt and its fibres into the injectors all at once.",
            {
                "part": fitted.part.name,
                "drop_kpa": drop,
                "flow_l_h": passing,
                "collapse_kpa": fitted.part.collapse_kpa,
            },
            (),
            (
                *(
                    [Remedy("Fit a new element", ((context.path(f"{path}/clogging"), 1.0),))]
                    if fitted.clogging > 1
                    else []
                ),
                *(
                    Remedy(
                        "Fit {part}",
                        (
                            (context.path(f"{path}/part"), one.model_dump(mode="json")),
                            (context.path(f"{path}/clogging"), 1.0),
                        ),
                        {"part": one.name},
                    )
                    for one in larger
                    if path == "filter" and one.rated_flow_l_h > fitted.part.rated_flow_l_h
                ),
            ),
        )


def regulator_kind(context: Context) -> Iterator[Finding]:
    """A regulator plumbed as another kind than it is made."""
    regulator = context.option.regulator
    plumbed_dead, made_dead = regulator.arrangement == "carburettor, deadhead", regulator.part.works == "deadhead"
    if plumbed_dead == made_dead:
        return
    bowl = context.option.carburettor is not None
    meant = "carburettor, deadhead" if made_dead else "carburettor, bypass" if bowl else "bypass after the rail"
    same = [
        part
        for part in context.catalogue.regulators
        if (part.works == "deadhead") == plumbed_dead
        and part.works != WITH_FILTER
        and part.min_base_kpa <= regulator.base_kpa <= part.max_base_kpa
        and part.alcohol_ok >= regulator.part.alcohol_ok
    ]
    fit = [
        Remedy("Fit {part}", ((context.path("regulator/part"), part.model_dump(mode="json")),), {"part": part.name})
        for part in sorted(same, key=lambda part: part.capacity_l_h)
    ]
    plumb = [Remedy("Plumb it as it is made", ((context.path("regulator/arrangement"), meant),))]
    yield Finding(
        "regulator-kind",
        "stop",
        "regulator",
        "A regulator plumbed as another kind than it is made",
        "{part} works deadhead: it has no return port, and here it is to let the surplus back to the tank."
        if made_dead
        else "{part} works by bypass: with its return closed nothing lowers the pressure the pump makes.",
        "A bypass regulator without its return lets the pump's whole pressure through; a deadhead one in a bypass system "
        "leaves the pump running against itself.",
        {"part": regulator.part.name},
        (),
        (*(plumb if bowl or not made_dead else ()), *fit),
    )


RULES = (hoses, collapse, regulator_kind)
