"""Rules about voltage boosters: what they can give, what a pump's table does not tell, what they add nothing to."""

from collections.abc import Iterator

from ..model import PumpGroup
from ..solve import PEAK
from .base import Context, Finding, Remedy

PAST_V = 1.0  # above a pump's highest table from which its flow is an extrapolation worth saying
SIZES_A = (20.0, 30.0, 40.0, 60.0, 80.0, 120.0)


def booster_weak(context: Context) -> Iterator[Finding]:
    """A booster whose pumps draw more than it gives."""
    for index, group in _boosted(context):
        worst = max(context.verdicts, key=lambda v: float(v.points.hydraulics.amps[index, PEAK]))
        drawn = float(worst.points.hydraulics.amps[index, PEAK]) * group.count
        if drawn <= group.booster_a:
            continue
        larger = next((one for one in SIZES_A if one >= drawn), None)
        edits = ((context.path(f"pumps/{group.id}/booster_a"), larger),)
        yield Finding(
            "booster-weak",
            "stop",
            "pump",
            "A booster gives less than its pumps draw",
            "On {target_name} the {pumps_name} draws {drawn_a}; its booster gives {booster_a} at most.",
            "Past its limit a booster drops its voltage or shuts down: the pumps fall back to the system's volts in the "
            "middle of a pull.",
            {
                "target_name": worst.target.name,
                "pumps_name": group.part.name,
                "drawn_a": drawn,
                "booster_a": group.booster_a,
            },
            (worst.target.name,),
            () if larger is None else (Remedy("Fit a booster that gives {fit_a}", edits, {"fit_a": larger}),),
        )


def booster_past_table(context: Context) -> Iterator[Finding]:
    """A pump fed beyond the voltage its table ends at."""
    for index, group in _boosted(context):
        top = max(table.voltage_v for table in group.part.curves)
        worst = max(context.verdicts, key=lambda v: float(v.points.hydraulics.volts[index, PEAK]))
        volts = float(worst.points.hydraulics.volts[index, PEAK])
        if volts <= top + PAST_V:
            continue
        yield Finding(
            "booster-past-table",
            "note",
            "pump",
            "More volts than the pump's table knows",
            "On {target_name} the {pumps_name} sees {pump_v}; its table ends at {top_v}.",
            "Flow and current beyond it are carried on by the affinity laws: a motor near its limits gives less, and "
            "wears faster. Ask for a table at this voltage, or time the pump into a can at it.",
            {"target_name": worst.target.name, "pumps_name": group.part.name, "pump_v": volts, "top_v": top},
            (worst.target.name,),
            (Remedy("Have the pump measured at this voltage, and enter the table"),),
        )


def booster_silent(context: Context) -> Iterator[Finding]:
    """A booster that never works on any target."""
    for _, group in _boosted(context):
        targets = [one.target for one in context.verdicts]
        if any(group.source_v(one.supply_v, one.boost_kpa) > one.supply_v for one in targets):
            continue
        held = group.booster_v or 0.0
        from_kpa = group.booster_from_kpa
        yield Finding(
            "booster-silent",
            "note",
            "pump",
            "A booster that never works",
            "It holds {booster_v}"
            + (" from {from_boost_kpa}" if from_kpa is not None else "")
            + "; no target has less than that at such a boost.",
            "It costs money, current and a part that can fail, and moves nothing.",
            {"booster_v": held} | ({} if from_kpa is None else {"from_boost_kpa": from_kpa}),
            tuple(one.name for one in targets),
            (Remedy("Take it out", ((context.path(f"pumps/{group.id}/booster_v"), None),)),),
        )


def _boosted(context: Context) -> Iterator[tuple[int, PumpGroup]]:
    """Groups with a booster, and their places."""
    for index, group in enumerate(context.option.pumps):
        if group.booster_v is not None and group.part.kind != "mechanical":
            yield index, group


RULES = (booster_weak, booster_past_table, booster_silent)
