"""A rule about stages that wait for what no target brings: they never run, and their proper switching point."""

from collections.abc import Iterator
from functools import partial

from ..model import Edit, PumpGroup
from ..physics import M3_S_PER_L_H
from ..solve import PEAK
from ..study import CONDITIONS, propose
from .base import Context, Finding, Remedy, names
from .staging import stages_told


def never_joins(context: Context) -> Iterator[Finding]:
    """A stage whose conditions are met on no target, nor anywhere on the way to one: it never runs."""
    told = stages_told(context)
    joining = {switch.group.id for switches in told.switches for switch in switches}
    for index, group in enumerate(context.option.pumps):
        runs = any(bool(verdict.points.hydraulics.running[index, PEAK]) for verdict in context.verdicts)
        if not group.staged or runs or group.id in joining:
            continue
        yield Finding(
            "stage-never",
            "stop",
            "pump",
            "A stage that never joins",
            f"Group {{number}} ({{part}}) waits for {_waits_for(group)}: no target comes there, nor anywhere on the way.",
            "A pump that never runs is money and weight, and whoever counts on it runs lean.",
            {"number": str(index + 1), "part": group.part.name, **_waited(group)},
            names(context.verdicts),
            partial(_proper_point, context, index),
        )


_WAITS = {
    "on_above_kpa": "boost above",
    "on_above_rpm": "engine speed above",
    "on_above_l_h": "a flow above",
    "on_above_duty_pct": "a duty above",
    "on_below_lambda": "a mixture richer than",
}
BOOSTED_KPA, JOINS_SHARE = 10.0, 0.75  # boost from which a stage joins by it; of what the others bring, where by flow


def _waits_for(group: PumpGroup) -> str:
    """The conditions of a stage in words, their values named."""
    told = [f"{words} {{{name}}}" for name, words in _WAITS.items() if name in _waited(group)]
    return (" and " if group.when == "all" else " or ").join(told)


def _waited(group: PumpGroup) -> dict[str, float]:
    """The conditions of a stage by name."""
    return {name: value for name in _WAITS if (value := getattr(group, name)) is not None}


def _proper_point(context: Context, index: int) -> Iterator[Remedy]:
    """The stage by boost where those before it still have headroom; by flow where there is no boost to go by."""
    group = context.option.pumps[index]
    path = context.path(f"pumps/{group.id}")
    others: tuple[Edit, ...] = tuple((f"{path}/{name}", None) for name in CONDITIONS if getattr(group, name) is not None)
    boosted = [verdict for verdict in context.verdicts if verdict.target.boost_kpa > BOOSTED_KPA]
    if boosted:
        points = [
            one.on_above_kpa
            for verdict in boosted
            for one in propose(context.build, context.option, verdict.target)
            if one.group.id == group.id
        ]
        if points:
            at = min(points)
            yield Remedy("Let it join above {join_kpa}", (*others, (f"{path}/on_above_kpa", at)), {"join_kpa": at})
            return
    brings = min(float(one.points.hydraulics.supply_at_set_m3_s[PEAK]) for one in context.verdicts) / M3_S_PER_L_H
    at = float(round(JOINS_SHARE * brings))
    yield Remedy("Let it join above {flow_l_h} of fuel", (*others, (f"{path}/on_above_l_h", at)), {"flow_l_h": at})


RULES = (never_joins,)
