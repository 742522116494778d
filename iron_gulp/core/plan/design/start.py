"""Where a search starts: what no choice of parts moves put right, a lift pump that lifts enough, nothing bought yet."""

from collections.abc import Sequence

from ...advise import put_right
from ...judge import TargetVerdict, judge_many
from ...model import Build, Catalogue, EditError, Option, Part, apply, flow_at, free_flow, same_work
from ...study import dries, surge_lap

ALCOHOL_PCT = 15.0  # from here on every part must be fit for it
LIFT_KPA, NOT_BOUGHT = 50.0, "–"
SLOTS = ("injectors", "pumps", "feed", "return_line", "regulator", "filter", "high_side")


def bare(option: Option) -> Option:
    """An option of which nothing is bought yet: what everything costs is counted against it."""

    def none(part: Part) -> Part:
        return part.model_copy(update={"name": NOT_BOUGHT, "shelf_id": None})

    changed: dict[str, object] = {
        "pumps": tuple(group.model_copy(update={"part": none(group.part)}) for group in option.pumps),
        "regulator": option.regulator.model_copy(update={"part": none(option.regulator.part)}),
        "feed": option.feed.model_copy(update={"length_m": 0.0}),
        "return_line": option.return_line.model_copy(update={"length_m": 0.0}),
        "filter": None,
    }
    if option.lift is not None:
        changed["lift"] = option.lift.model_copy(update={"part": none(option.lift.part)})
    if option.injectors is not None:
        changed["injectors"] = option.injectors.model_copy(update={"part": none(option.injectors.part), "second": None})
    return option.model_copy(update=changed)


def prepared(build: Build, base: Option, catalogue: Catalogue) -> tuple[Option, frozenset[str]]:
    """The option with what no choice of parts moves put right, and the checks that stay whatever is chosen."""
    only = build.model_copy(update={"options": (base,)})
    plan = put_right(only, base.id, catalogue)
    prefix = f"options/{base.id}/"
    start = only
    for step in plan.steps:
        edits = step.remedy.edits
        kept = [one for one in edits if not any(one[0].removeprefix(prefix).startswith(slot) for slot in SLOTS)]
        try:
            start = apply(start, kept) if kept else start
        except EditError:
            continue  # it changes what a step adds that is left to the choice of parts
    stay = frozenset(one.code for one in plan.left if one.severity == "warn" and one.station in ("demand", "fuel"))
    return start.options[0], stay


SURGE_L = (1.0, 1.6, 2.5, 4.0, 6.3, 10.0)  # preferred numbers
MOST_LIFTS = 2


def lifted(build: Build, option: Option, catalogue: Catalogue, bought: bool = True) -> Option:
    """The option with the lift pumps and the surge tank that last by the time at load (physics §6), the least of them.

    Lift pumps that carry full load come before a tank that covers it. What is lifted goes by the fuel alone. Pumps that
    are not `bought` yet may be smaller ones too.
    """
    if option.lift is None:
        return option
    fitted = option.lift
    larger = [one for one in catalogue.pumps_above(fitted.part, LIFT_KPA) if same_work(one, fitted.part)]
    sizes = [fitted.surge_l, *(one for one in SURGE_L if one > fitted.surge_l)]
    of_size = flow_at(fitted.part, LIFT_KPA)
    fit = any(one.ethanol_pct > ALCOHOL_PCT or one.base_fuel == "methanol" for one in build.targets)
    less = [one for one in catalogue.pumps if one.kind == fitted.part.kind and 0 < flow_at(one, LIFT_KPA) < of_size]
    smaller = [] if bought else [one for one in less if same_work(one, fitted.part) and one.alcohol_ok >= fit]
    parts = (*smaller, fitted.part, *larger)
    pumps = [(part, count) for count in range(fitted.count, MOST_LIFTS + 1) for part in parts]
    sized = [{"part": part, "count": count, "surge_l": size} for part, count in pumps for size in sizes]
    lifts = [fitted.model_copy(update=one) for one in sized]
    lifts.sort(key=lambda one: (one.count, free_flow(one.part), one.surge_l))
    tried = [option.model_copy(update={"lift": one}) for one in lifts]
    judged = judge_many([(build, one, target) for one in tried for target in build.targets], ceilings=False)
    count = len(build.targets)
    for number, one in enumerate(tried):
        here = judged[number * count : (number + 1) * count]
        covers = fitted.school == "tank covers the pull"
        carries = all(v.surge is not None and (covers or v.surge.drawn_m3_s <= v.surge.lifted_m3_s) for v in here)
        if carries and max(verdict.load("lift").load for verdict in here) <= 1.0 and not _dries(here):
            return one
    return tried[-1]


def _dries(verdicts: Sequence[TargetVerdict]) -> bool:
    return any((lap := surge_lap(one)) is not None and dries(one, lap) for one in verdicts)
