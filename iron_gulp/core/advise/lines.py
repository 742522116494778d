"""Rules about the feed: drop, one size up or down, the split to several rails, the rail itself."""

from collections.abc import Callable, Iterator, Sequence
from functools import partial

import numpy as np

from ..judge import TargetVerdict
from ..model import RESERVED, Line, Rail, Restriction, Split, in_branch
from ..solve import PEAK, FluidState, branch_loss_kpa, line_loss_kpa, rail_drop_kpa, rails_joined, through_feed_m3_s
from .base import Context, Finding, Remedy

BANK_TOLERANCE = 0.01  # of the fuel, between one injector and another


def _drop_with(line: Line, verdict: TargetVerdict) -> float:
    flow = through_feed_m3_s(verdict.option, verdict.points.hydraulics)[PEAK : PEAK + 1]
    fuel = verdict.fuel
    return float(line_loss_kpa(line, flow, fuel.density_kg_m3, fuel.viscosity_mpa_s)[0])


GENEROUS = 0.2  # of the drop allowed: a line one size down that stays below it is larger than anybody needs


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
    carburettor = context.option.carburettor
    # Floats live on a few kilopascals: what a rail would not notice is much to them.
    spare = GENEROUS * context.build.rules.feed_drop_kpa if carburettor is None else 0.1 * carburettor.lowest_kpa
    if max(drops) > spare or line.length_m <= 0:
        return
    edits = ((context.path("feed/part"), smaller.model_dump(mode="json")),)
    most = context.spare
    kept = context.trial(edits)
    # The pressure it spares may be the headroom wanted: then somebody misses it.
    if kept is None or (_reserved(list(context.verdicts)) <= most < _reserved(kept)):
        return
    yield Finding(
        "feed-large",
        "note",
        "feed",
        "A smaller feed line would do",
        "One size down ({part}) adds only {added_kpa} on the hardest target.",
        "Folklore oversizes lines: cost, bulk and bend radius for pressure nobody misses.",
        {"part": smaller.name, "added_kpa": added},
        (worst.target.name,),
        (
            Remedy(
                "Fit {part}",
                edits,
                {"part": smaller.name},
            ),
        ),
    )


def _reserved(verdicts: Sequence[TargetVerdict]) -> float:
    """The highest load of what headroom is asked of."""
    return max((one.load for v in verdicts for one in v.loads if one.component in RESERVED), default=0.0)


def uneven_banks(context: Context) -> Iterator[Finding]:
    """Branches to dead-ended rails that lose unequal pressure: one bank runs leaner."""
    split = context.option.split
    if split is None or rails_joined(context.option):
        return
    standing = in_branch(context.option)
    worst, spread = max(((v, _spread_kpa(split, v, standing)) for v in context.verdicts), key=lambda found: found[1])
    across = float(worst.points.hydraulics.differential_kpa[PEAK])
    share = 1.0 - float(np.sqrt(max(1.0 - spread / across, 0.0))) if across > 0 else 0.0
    if share < BANK_TOLERANCE:
        return
    lengths = [branch.line.length_m for branch in split.branches]
    yield Finding(
        "banks-uneven",
        "warn",
        "feed",
        "One bank runs leaner than the other",
        "On {target_name} the branches to the rails differ by {spread_kpa}: {share_pct} less fuel on the far bank.",
        "Both banks share one mixture target. An equal split needs equal legs.",
        {"target_name": worst.target.name, "spread_kpa": spread, "share_pct": share * 100.0},
        (worst.target.name,),
        (
            Remedy(
                "Make the branches equal: {length_m} each, one bore",
                tuple(
                    edit
                    for branch in split.branches
                    for edit in (
                        (context.path(f"split/branches/{branch.id}/line/length_m"), max(lengths)),
                        (
                            context.path(f"split/branches/{branch.id}/line/part"),
                            max(split.branches, key=lambda b: b.line.part.bore_mm).line.part.model_dump(mode="json"),
                        ),
                    )
                ),
                {"length_m": max(lengths)},
            ),
        ),
    )


def _spread_kpa(split: Split, verdict: TargetVerdict, in_first: Restriction | None) -> float:
    fluid = FluidState(verdict.fuel.density_kg_m3, verdict.fuel.viscosity_mpa_s)
    each = verdict.points.hydraulics.delivered_m3_s[PEAK : PEAK + 1] / len(split.branches)
    drops = [float(branch_loss_kpa(split, branch, each, fluid, in_first)[0]) for branch in split.branches]
    return max(drops) - min(drops)


def narrow_rail(context: Context) -> Iterator[Finding]:
    """A rail that loses enough along its length to tell its injectors apart."""
    rail, option = context.option.rail, context.option
    if option.carburettor is not None:
        return

    def drop_kpa(verdict: TargetVerdict, of: Rail) -> float:
        hyd, fuel = verdict.points.hydraulics, verdict.fuel
        through = float(hyd.delivered_m3_s[PEAK] if not rails_joined(option) else hyd.supply_m3_s[PEAK])
        leaving = float(hyd.bypass_m3_s[PEAK]) if rails_joined(option) else 0.0
        return float(rail_drop_kpa(of, through, fuel.density_kg_m3, fuel.viscosity_mpa_s, leaving))

    drops = [drop_kpa(verdict, rail) for verdict in context.verdicts]
    lost, worst = max(drops), context.verdicts[drops.index(max(drops))]
    across = float(worst.points.hydraulics.differential_kpa[PEAK])
    if across <= 0 or lost < 2.0 * BANK_TOLERANCE * across:
        return
    yield Finding(
        "rail-narrow",
        "warn",
        "injectors",
        "The rail is too narrow for its flow",
        "On {target_name} {lost_kpa} is lost between its ends, of {across_kpa} across the injectors.",
        "The last cylinder of a narrow rail runs leaner than the first.",
        {"target_name": worst.target.name, "lost_kpa": lost, "across_kpa": across},
        (worst.target.name,),
        lambda: _proper_rail(context, partial(drop_kpa, worst), 2.0 * BANK_TOLERANCE * across),
    )


RAIL_BORES_MM = (10.0, 12.0, 14.0, 16.0, 19.0, 22.0)


def _proper_rail(context: Context, lost_kpa: Callable[[Rail], float], most_kpa: float) -> Iterator[Remedy]:
    """The narrowest rail that does; then the one there is, fed in its centre."""
    rail, path = context.option.rail, context.path("rail/bore_mm")
    for bore in RAIL_BORES_MM:
        lost = lost_kpa(rail.model_copy(update={"bore_mm": bore}))
        if bore > rail.bore_mm and lost < most_kpa:
            yield Remedy("Fit a rail of {bore_mm} bore: {lost_kpa}", ((path, bore),), {"bore_mm": bore, "lost_kpa": lost})
            break
    if rail.entry != "in the centre":
        lost = lost_kpa(rail.model_copy(update={"entry": "in the centre"}))
        edits = ((context.path("rail/entry"), "in the centre"),)
        yield Remedy("Feed it in the centre: {lost_kpa}", edits, {"lost_kpa": lost})


RULES = (feed_large, uneven_banks, narrow_rail)
