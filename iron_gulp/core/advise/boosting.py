"""Rules about the boost that the controller was told to permit on each blend."""

from collections.abc import Iterator

from ..judge import judge_many
from ..model import RISING, TITLES, Target
from ..study import permitted
from .base import Context, Finding, Remedy


def boost_told(context: Context) -> Iterator[Finding]:
    """The controller permits a boost on some blend at which the fuel runs out."""
    told = context.option.boost_told
    if not told:
        return
    target = max((verdict.target for verdict in context.verdicts), key=lambda one: one.power_kw)
    bar = context.build.car.barometer_kpa
    asked = [_at(target, bar, one.ethanol_pct, one.boost_kpa) for one in told if one.boost_kpa > -bar]
    verdicts = judge_many([(context.build, context.option, one) for one in asked], ceilings=False)
    over = []
    for verdict in verdicts:
        worst = max((one for one in verdict.loads if one.component in RISING), key=lambda one: one.load)
        if not worst.load <= 1.0:
            over.append((verdict.target, worst))
    if not over:
        return
    at, load = max(over, key=lambda one: one[1].load)
    yield Finding(
        "boost-told",
        "stop",
        "demand",
        "The controller permits boost for which there is no fuel",
        "On E{blend} it permits {boost_kpa}, some {power_kw} from {target_name}: {component} {load_pct}.",
        "The table goes by the blend read; where it permits more than the fuel system carries, the engine leans out "
        "under boost on exactly that blend.",
        {
            "blend": f"{at.ethanol_pct:g}",
            "boost_kpa": at.boost_kpa,
            "power_kw": at.power_kw,
            "target_name": target.name,
            "component": TITLES[load.component].lower(),
            "load_pct": load.load * 100,
        },
        (),
        lambda: _lowered(context, target, [one.ethanol_pct for one, _ in over]),
    )


def _at(target: Target, bar: float, ethanol_pct: float, boost_kpa: float) -> Target:
    """A target's engine at another boost, its power with the absolute pressure, on a blend."""
    power = target.power_kw * (boost_kpa + bar) / (target.boost_kpa + bar)
    changed = {"ethanol_pct": ethanol_pct, "boost_kpa": boost_kpa, "power_kw": power, "vapour_kpa_abs": None}
    return target.model_copy(update=changed)


def _lowered(context: Context, target: Target, blends: list[float]) -> Iterator[Remedy]:
    """The rows that permit too much, brought to what is permitted with the shop's margin."""
    margin = context.build.rules.headroom_pct / 100.0
    rows = permitted(context.build, context.option, target, margin, sorted(set(blends)))
    # What no target says is bounded by the fuel system alone.
    most = {one.ethanol_pct: one.own_boost_kpa if one.untold else one.boost_kpa for one in rows}
    edits = []
    for one in context.option.boost_told:
        limit = most.get(one.ethanol_pct)
        if limit is not None and one.boost_kpa > limit:
            edits.append((context.path(f"boost_told/{one.id}/boost_kpa"), round(max(limit, -95.0), 1)))
    if edits:
        yield Remedy("Permit what the fuel system carries on each of these blends, with the margin", tuple(edits))
    yield Remedy("Or enlarge what ends it first, and issue the table again")


RULES = (boost_told,)
