"""Rules about what throttles the feed: hose, passage, cooler, sensor, branch or filter, each blamed where it sits.

Everything is told at one flow: what the target asks. What the pumps still bring through a throttle says less than that.
"""

from collections.abc import Iterator, Sequence
from dataclasses import dataclass

from ..judge import KEPT, TargetVerdict
from ..model import Edit, Passage, Restriction, in_branch, restrictions
from ..physics import M3_S_PER_L_H, Floats, floats
from ..solve import (
    FluidState,
    branch_loss_kpa,
    filter_loss_kpa,
    line_loss_kpa,
    passage_loss_kpa,
    rails_joined,
    split_flows_m3_s,
)
from .base import Context, Finding, Remedy, Value, highest, names
from .words import listed

SMALL_KPA, SMALL_SHARE = 10.0, 0.5  # a passage that loses so much, and so much of what the rest of the feed loses
WORTH = 0.2  # of the whole: what loses less is not worth opening
CLOGGED_KPA, CLOGGED_SUCTION_KPA = 10.0, 3.0  # lost to dirt alone


@dataclass(frozen=True)
class Throttle:
    """One thing in a line with what it loses at a flow, kPa, its path in the option, and what can be opened."""

    title: str
    path: str
    lost_kpa: float
    element: Restriction | None = None


def asked_m3_s(verdict: TargetVerdict) -> Floats:
    """What a target asks through the feed, m³/s, of shape (1,)."""
    return floats([verdict.demand.chosen_kg_s / verdict.fuel.density_kg_m3])


def in_feed(verdict: TargetVerdict) -> tuple[Throttle, ...]:
    """The hose of the feed, all that stands in it, and the worst branch behind it, at what the target asks."""
    option, fuel, flow = verdict.option, verdict.fuel, asked_m3_s(verdict)
    line = float(line_loss_kpa(option.feed, flow, fuel.density_kg_m3, fuel.viscosity_mpa_s)[0])
    found = [Throttle("the hose of the feed", "feed", line), *standing(verdict, "feed", flow)]
    if option.split is not None:
        fluid, more = FluidState(fuel.density_kg_m3, fuel.viscosity_mpa_s), in_branch(option)
        flows = split_flows_m3_s(option.split, flow, fluid, rails_joined(option), more)[:, 0]
        legs = [
            (float(branch_loss_kpa(option.split, one, floats([each]), fluid, more)[0]), number, one.id)
            for number, (one, each) in enumerate(zip(option.split.branches, flows, strict=True), start=1)
        ]
        lost, number, key = max(legs)
        found.append(Throttle(f"branch {number}", f"split/branches/{key}/line", lost))
    return tuple(found)


def standing(verdict: TargetVerdict, which: str, flow_m3_s: Floats) -> tuple[Throttle, ...]:
    """What stands in the feed or the return beside its hose, at a flow."""
    fuel, found = verdict.fuel, []
    for one in restrictions(verdict.option, "feed" if which == "feed" else "return"):
        lost = float(passage_loss_kpa(one.element, flow_m3_s, fuel.density_kg_m3, fuel.viscosity_mpa_s)[0])
        path = f"{one.kind.path}/{getattr(one.element, 'id', '')}".rstrip("/") if one.kind.several else one.kind.path
        found.append(Throttle(one.title, path, lost, one.element))
    return tuple(found)


def opened(context: Context, one: Throttle, bore_mm: float) -> tuple[Edit, ...]:
    """A throttle opened as far as its line is; nothing where it is as wide already. A cooler is fitted larger."""
    element, path = one.element, context.path(one.path)
    if element is None or element.bore_mm >= bore_mm:
        return ()
    bore = (f"{path}/bore_mm", bore_mm)
    rated = getattr(element, "rated_drop_kpa", None)
    if rated is None:
        return (bore,)
    # A cooler's loss is that of its sheet, on its ports: one with wider ports loses as much less as they are wider.
    return bore, (f"{path}/rated_drop_kpa", round(rated * (element.bore_mm / bore_mm) ** 4, 2))


def _lost(one: Throttle) -> float:
    return one.lost_kpa


def _small(one: Throttle, each: Sequence[Throttle]) -> bool:
    """Whether one of several undoes the rest: a passage, by what it loses and by its share of what they lose."""
    rest = sum(other.lost_kpa for other in each) - one.lost_kpa
    return one.element is not None and one.lost_kpa >= max(SMALL_KPA, SMALL_SHARE * rest)


def throttled(context: Context) -> Iterator[Finding]:
    """What loses most of the feed where more is lost than the shop allows, and a passage that undoes a wide feed."""
    over = context.over("feed")
    verdicts = over or sorted(context.verdicts, key=lambda one: -float(asked_m3_s(one)[0]))
    worst = verdicts[0]
    each = in_feed(worst)
    whole = sum(one.lost_kpa for one in each)
    small = each if over else [one for one in each if _small(one, each)]
    if not small:
        return
    most = max(small, key=_lost)
    rest = whole - most.lost_kpa
    passage = most.element is not None
    values: dict[str, float | str] = {
        "target_name": worst.target.name,
        "what": most.title,
        "lost_kpa": most.lost_kpa,
        "flow_l_h": float(asked_m3_s(worst)[0]) / M3_S_PER_L_H,
        "whole_kpa": whole,
        "allowed_kpa": context.build.rules.feed_drop_kpa,
    }
    if passage and most.element is not None:
        values |= {"bore_mm": most.element.bore_mm, "rest_kpa": rest}
    yield Finding(
        "small-passage" if passage else "feed-small",
        "warn",
        "feed",
        "A small passage throttles the feed" if passage else "Feed line throttles the pumps",
        (
            "{what} ({bore_mm}) loses {lost_kpa} of the {flow_l_h} that {target_name} asks"
            if passage
            else "At the {flow_l_h} that {target_name} asks the feed loses {whole_kpa}"
        )
        + ("; all the rest of the feed {rest_kpa}." if passage else "; {allowed_kpa} is allowed.")
        + ("" if passage or len(each) == 1 else " Most of it in {what}: {lost_kpa}."),
        "A hanger tube, quick-connect, cooler or right-angle block can undo every wide line bought downstream."
        if passage
        else "The pumps must make this pressure as well as the rail's, and they bring less the harder they push.",
        values,
        names(over) if over else (worst.target.name,),
        lambda: _open_up(context, each, most, over=bool(over)),
    )


def opening_words(several: Sequence[Throttle]) -> str:
    """What is done to each: a passage is opened, a cooler or a sensor comes with wider ports."""
    each = [
        f"{'open' if isinstance(one.element, Passage) else 'fit a wider'} {{what_{at}}}" for at, one in enumerate(several)
    ]
    words = listed(each)
    to = "to" if isinstance(several[-1].element, Passage) else "of"
    return f"{words[0].upper()}{words[1:]} {to} {{bore_mm}}"


def opening_values(several: Sequence[Throttle], bore_mm: float) -> dict[str, Value]:
    """The values that stand in those words."""
    values: dict[str, Value] = {"bore_mm": bore_mm}
    for number, one in enumerate(several):
        named = one.title if isinstance(one.element, Passage) else one.title.lower()
        values |= {f"what_{number}": named, f"lost_{number}_kpa": one.lost_kpa}
    return values


def _open_up(context: Context, each: Sequence[Throttle], most: Throttle, *, over: bool) -> Iterator[Remedy]:
    """The least that keeps the rule: what loses most opened first, then the next, then a wider hose."""
    bore, whole = context.option.feed.part.bore_mm, sum(one.lost_kpa for one in each)
    narrow = [
        one
        for one in sorted(each, key=lambda one: -one.lost_kpa)
        if opened(context, one, bore) and (one is most or one.lost_kpa >= WORTH * whole)
    ]
    steps = [_all_opened(context, narrow[:number], bore) for number in range(1, len(narrow) + 1)]
    if most.element is not None:
        judged = context.trials(steps) if over else [None] * len(steps)
        for number, (edits, verdicts) in enumerate(zip(steps, judged, strict=True), start=1):
            left = [one for one in each if one not in narrow[:number]]
            kept = verdicts is not None and highest(verdicts, "feed") <= KEPT
            if kept if over else not any(_small(one, left) for one in left):
                words = opening_words(narrow[:number]) + ", the bore of the feed"
                yield Remedy(words, edits, opening_values(narrow[:number], bore))
                return
    if most.path.startswith("split/"):
        yield from _wider_branches(context, steps[-1] if steps else ())
        return
    yield from _wider_hose(context, narrow)


def _all_opened(context: Context, several: Sequence[Throttle], bore_mm: float) -> tuple[Edit, ...]:
    return tuple(edit for one in several for edit in opened(context, one, bore_mm))


def _wider_hose(context: Context, narrow: Sequence[Throttle]) -> Iterator[Remedy]:
    """The next hose that keeps the rule, what stands narrow in it opened with it, to the bore it then has."""
    parts = context.catalogue.lines_above(context.option.feed.part)
    tried: list[tuple[Edit, ...]] = [
        (
            (context.path("feed/part"), part.model_dump(mode="json")),
            *_all_opened(context, narrow, part.bore_mm),
        )
        for part in parts
    ]
    for part, edits, verdicts in zip(parts, tried, context.trials(tried), strict=True):
        if verdicts and highest(verdicts, "feed") <= KEPT:
            lost = max(sum(one.lost_kpa for one in in_feed(verdict)) for verdict in verdicts)
            words = opening_words(narrow) if narrow else ""
            also = f", and {words[0].lower()}{words[1:]}" if narrow else ""
            told: dict[str, Value] = {"part": part.name, "drop_kpa": lost}
            yield Remedy(
                f"Fit {{part}}{also}: the feed loses {{drop_kpa}}", edits, told | opening_values(narrow, part.bore_mm)
            )
            return


def _wider_branches(context: Context, opening: tuple[Edit, ...]) -> Iterator[Remedy]:
    """All branches in the next hose that keeps the rule."""
    split = context.option.split
    assert split is not None
    widest = max((one.line.part for one in split.branches), key=lambda part: part.bore_mm)
    parts = context.catalogue.lines_above(widest)
    tried = [
        (
            *(
                (context.path(f"split/branches/{one.id}/line/part"), part.model_dump(mode="json"))
                for one in split.branches
            ),
            *opening,
        )
        for part in parts
    ]
    for part, edits, verdicts in zip(parts, tried, context.trials(tried), strict=True):
        if verdicts and highest(verdicts, "feed") <= KEPT:
            yield Remedy("Run every branch in {part}", edits, {"part": part.name})
            return


def clogged(context: Context) -> Iterator[Finding]:
    """A filter or strainer that loses to dirt what it would not lose clean."""
    option = context.option
    for path, fitted, most_kpa in (
        ("filter", option.filter, CLOGGED_KPA),
        ("suction/filter", option.suction.filter, CLOGGED_SUCTION_KPA),
    ):
        if fitted is None or fitted.clogging <= 1.0:
            continue
        # All that the pumps move goes through a filter; where they are short, what is asked would.
        flows = [
            max(float(asked_m3_s(one)[0]), float(one.points.hydraulics.supply_m3_s.max())) for one in context.verdicts
        ]
        worst = context.verdicts[flows.index(max(flows))]
        flow, clean = floats([max(flows)]), fitted.model_copy(update={"clogging": 1.0})
        lost, meant = (float(filter_loss_kpa(one, flow)[0]) for one in (fitted, clean))
        if lost - meant <= most_kpa:
            continue
        yield Finding(
            "filter-clogged",
            "warn",
            "feed" if path == "filter" else "fuel",
            "The filter is clogged" if path == "filter" else "The strainer before the pump is clogged",
            "{part} loses {lost_kpa} of {flow_l_h} on {target_name}; clean it would lose {clean_kpa}.",
            "Dirt grows unseen until the day of full load. What the pump loses before it comes off the head above "
            "boiling, what it loses behind it comes off its flow.",
            {
                "part": fitted.part.name,
                "lost_kpa": lost,
                "clean_kpa": meant,
                "flow_l_h": float(flow[0]) / M3_S_PER_L_H,
                "target_name": worst.target.name,
            },
            (worst.target.name,),
            (
                Remedy(
                    "Change its element, and find where the dirt comes from", ((context.path(f"{path}/clogging"), 1.0),)
                ),
            ),
        )


RULES = (clogged, throttled)
