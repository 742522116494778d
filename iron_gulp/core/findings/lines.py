"""Rules about the feed line: drop, and one size up or down."""

from collections.abc import Iterator

import numpy as np

from ..curves import line_loss_kpa
from ..duty import PEAK
from ..elements import Line
from ..verdict import DutyVerdict
from .base import Context, Finding, Remedy, highest, names


def _drop_with(line: Line, verdict: DutyVerdict) -> float:
    flow = verdict.points.hydraulics.supply_m3_s[PEAK : PEAK + 1]
    fuel = verdict.fuel
    return float(line_loss_kpa(line, flow, fuel.density_kg_m3, fuel.viscosity_mpa_s)[0])


def feed_small(context: Context) -> Iterator[Finding]:
    """The engine's own flow drops more in the feed than the rules allow."""
    over = context.over("feed")
    if not over:
        return
    worst, line = over[0], context.option.feed
    yield Finding(
        "feed-small",
        "warn",
        "feed",
        "Feed line throttles the pumps",
        "On {duty_name} the feed loses {drop_kpa} with {flow_l_h} passing; {allowed_kpa} is allowed.",
        "The pumps must make this pressure as well as the rail's, and they bring less the harder they push.",
        {
            "duty_name": worst.duty.name,
            "drop_kpa": _drop_with(line, worst),
            "flow_l_h": float(worst.points.hydraulics.supply_m3_s[PEAK]) * 3.6e6,
            "allowed_kpa": context.build.rules.feed_drop_kpa,
        },
        names(over),
        lambda: _larger(context, worst),
    )


def _larger(context: Context, worst: DutyVerdict) -> Iterator[Remedy]:
    line = context.option.feed
    part = line.part
    while (larger := context.catalogue.line_next(part, larger=True)) is not None:
        part = larger
        edits = ((context.path("feed/part"), part.model_dump(mode="json")),)
        verdicts = context.trial(edits)
        if verdicts and highest(verdicts, "feed") <= 1:
            drop = _drop_with(line.model_copy(update={"part": part}), worst)
            yield Remedy("Fit {part}: {drop_kpa} at this flow", edits, {"part": part.name, "drop_kpa": drop})
            return


def feed_large(context: Context) -> Iterator[Finding]:
    """One size down would cost next to nothing."""
    line = context.option.feed
    smaller = context.catalogue.line_next(line.part, larger=False)
    if smaller is None or context.over("feed"):
        return
    down = line.model_copy(update={"part": smaller})
    drops = [_drop_with(down, verdict) for verdict in context.verdicts]
    worst = context.verdicts[int(np.argmax(drops))]
    added = max(drops) - _drop_with(line, worst)
    if max(drops) > 0.5 * context.build.rules.feed_drop_kpa or line.length_m <= 0:
        return
    yield Finding(
        "feed-large",
        "note",
        "feed",
        "A smaller feed line would do",
        "One size down ({part}) adds only {added_kpa} on the hardest duty.",
        "Folklore oversizes lines: cost, bulk and bend radius for pressure nobody misses.",
        {"part": smaller.name, "added_kpa": added},
        (worst.duty.name,),
        (
            Remedy(
                "Fit {part}",
                ((context.path("feed/part"), smaller.model_dump(mode="json")),),
                {"part": smaller.name},
            ),
        ),
    )


RULES = (feed_small, feed_large)
