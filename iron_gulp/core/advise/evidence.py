"""Rules about what was measured: readings far from what is entered, and pulls that cannot be put together."""

from collections.abc import Iterator

from ..judge import TargetVerdict
from ..model import Edit, Reading, Station
from ..study import Use, entered_off, fuel_twice, in_use, rated_flow, uses
from .base import Context, Finding, Remedy, names

FAR = 2.0  # spreads of what is assumed, and of the reading itself, from which a reading contradicts the entry
FUEL_APART = 0.08  # controller's fuel against duty times flow
STATION: dict[str, Station] = {
    "base pressure": "regulator",
    "voltage": "pump",
    "fuel temperature": "fuel",
    "pump flow": "pump",
    "injector flow": "injectors",
}
CAUSE = {
    "base pressure": "Set the base pressure again, engine warm, reference off and plugged; if it will not come, look at "
    "gauge, return and spring",
    "voltage": "Measure again at the battery: alternator, belt and its feed before the pumps' wiring",
    "fuel temperature": "Find the heat: what runs at idle, where the return enters, the level it was read at",
    "pump flow": "Measure volts at the pump and its inlet before blaming it: a strainer or a wire starves a good pump",
    "injector flow": "Have the set cleaned and flowed again at the pressure it is used at",
}


def contradicted(context: Context) -> Iterator[Finding]:
    """A reading further from what is entered than both may be off."""
    for reading in in_use(context.build, context.option):
        if reading.of not in STATION:
            continue
        first = context.build.targets[0]
        found = [use for use in uses(context.build, context.option, first) if use.of == reading.of]
        own = [use for use in found if use.name != "pump_wear" and abs(use.offset) > 0 and _same(context, use, reading)]
        if not own or not _far(context, own[0]):
            continue
        yield _finding(context, reading)


def _same(context: Context, use: Use, reading: Reading) -> bool:
    """Whether a use is that of a reading: of several pumps or sets, the one it was taken on."""
    if reading.of in ("pump flow", "injector flow"):
        return abs(use.offset - entered_off(context.option, reading)) < 1e-12
    return True


def _far(context: Context, use: Use) -> bool:
    assumed, _ = getattr(context.build.tolerances, use.name).both
    if use.name == "pump_flow":  # wear entered as anything up to its spread takes flow away as well
        worn, _ = context.build.tolerances.pump_wear.both
        assumed = assumed + worn / 2.0 if use.offset < 0 else assumed
    return bool(abs(use.offset) > FAR * max(assumed, use.spread))


def _finding(context: Context, reading: Reading) -> Finding:
    edits = entered(context, reading)
    verdicts = context.trial(edits) if edits else None
    breaks = [one for one in verdicts or () if _over(one) and not _over(_now(context, one.target.id))]
    told, values = _told(context, reading)
    remedies = [Remedy(CAUSE[reading.of])]
    if edits:
        remedies.append(Remedy("Enter what was read, and judge with it", edits))
    return Finding(
        "reading-contradicts",
        "warn" if breaks else "note",
        STATION[reading.of],
        f"{reading.of.capitalize()} was read otherwise than entered",
        told + (" With it a limit breaks that holds as entered." if breaks else ""),
        "What was read outweighs what was assumed. The chances already go by it; loads go by what is entered.",
        values,
        names(breaks),
        tuple(remedies),
    )


def _over(verdict: TargetVerdict) -> bool:
    return any(load.load > 1.0 for load in verdict.loads)


def _now(context: Context, target_id: str) -> TargetVerdict:
    return next(one for one in context.verdicts if one.target.id == target_id)


def _told(context: Context, reading: Reading) -> tuple[str, dict[str, float | str]]:
    day = f" on {reading.day}" if reading.day else ""
    if reading.of == "base pressure":
        values: dict[str, float | str] = {"read_kpa": reading.read_kpa, "base_kpa": context.option.regulator.base_kpa}
        return f"{{read_kpa}} was read{day}; {{base_kpa}} is entered.", values
    if reading.of == "voltage":
        return f"{{read_v}} was read{day}; {{supply_v}} is entered.", {
            "read_v": reading.read_v,
            "supply_v": context.build.targets[0].supply_v,
        }
    if reading.of == "fuel temperature":
        return f"{{read_c}} was read{day}; {{fuel_temp_c}} is entered.", {
            "read_c": reading.read_c,
            "fuel_temp_c": context.build.targets[0].fuel_temp_c,
        }
    if reading.of == "injector flow":
        rated = rated_flow(context.option, reading.member)
        return f"{{read_cc_min}} was measured{day}; {{rated_cc_min}} is entered.", {
            "read_cc_min": reading.flow_cc_min,
            "rated_cc_min": rated,
        }
    worn = (
        " less the wear entered" if abs(entered_off(context.option, reading) - reading.share_pct / 100 + 1) > 1e-9 else ""
    )
    return f"{reading.part} brought {{share_pct}} of its published flow{day}; all of it{worn} is entered.", {
        "share_pct": reading.share_pct
    }


def entered(context: Context, reading: Reading) -> tuple[Edit, ...]:
    """Edits that enter what was read; none where it cannot be entered as it is."""
    targets = context.build.targets
    if reading.of == "base pressure":
        return ((context.path("regulator/base_kpa"), reading.read_kpa),)
    if reading.of == "voltage":
        return tuple((f"targets/{one.id}/supply_v", reading.read_v) for one in targets)
    if reading.of == "fuel temperature":
        return tuple((f"targets/{one.id}/fuel_temp_c", reading.read_c) for one in targets)
    if reading.of == "injector flow":
        place = {"": "injectors", "second": "injectors/second", "direct": "high_side/injectors"}[reading.member]
        return ((context.path(f"{place}/part/rated_flow_cc_min"), reading.flow_cc_min),)
    worn = round(100.0 - reading.share_pct, 1)
    if not 0 <= worn <= 90:
        return ()
    if reading.member == "lift":
        return ((context.path("lift/derate_pct"), worn),)
    if reading.member.startswith("high "):
        return ()
    return ((context.path(f"pumps/{reading.member}/derate_pct"), worn),)


def corrections_mixed(context: Context) -> Iterator[Finding]:
    """Pulls of which some are corrected for weather and others not, or of which nobody said."""
    counted = [one for one in context.build.pulls if one.counts == "counts"]
    kinds = {one.figures for one in counted}
    unsaid = [one for one in counted if one.figures == "not said"]
    unknown = [one for one in counted if one.figures == "corrected" and one.correction_ratio is None]
    if len(counted) < 2 or len(kinds) < 2 or not (unsaid or unknown):
        return
    yield Finding(
        "pulls-mixed",
        "note",
        "demand",
        "Corrected and measured power stand beside each other",
        f"Of {len(counted)} pulls that count, {len(unsaid)} do not say whether their figures are corrected, and "
        f"{len(unknown)} are corrected by an amount nobody entered.",
        "A correction of a few per cent for weather is as large as the gain it is compared with. Fuel follows the power "
        "as measured.",
        {},
        (),
        (Remedy("Ask for the sheet: say for each pull whether it is corrected, and by how much"),),
    )


def fuel_parts(context: Context) -> Iterator[Finding]:
    """Fuel as the controller computes it is not duty times flow."""
    found = fuel_twice(context.build)
    if found is None or abs(found.off) <= FUEL_APART:
        return
    yield Finding(
        "pull-fuel-parts",
        "note",
        "demand",
        "Controller and injectors tell different fuel",
        "On the last pull the controller computes {fuel_kg_h}; duty and flow of the injectors make {duty_kg_h}.",
        "Its injector flow, dead time or fuel density is not that of what is fitted, so its own figure proves nothing.",
        {"fuel_kg_h": float(found.pull.fuel_kg_h or 0.0), "duty_kg_h": found.by_duty_kg_h},
        (),
        (Remedy("Compare what the controller was told with the values sheet: flow, pressure, dead time"),),
    )


RULES = (contradicted, corrections_mixed, fuel_parts)
