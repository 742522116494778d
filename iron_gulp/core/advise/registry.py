"""All rules, and running them. To add a rule: write it in its topic's module and name it in that module's RULES."""

from collections.abc import Sequence
from contextlib import suppress
from dataclasses import replace
from functools import partial

from ..judge import TargetVerdict
from ..model import Build, Catalogue, Option
from . import (
    auxiliary,
    boosters,
    boosting,
    calibration,
    carburettor,
    classes,
    compressor,
    demand,
    direct_injection,
    evidence,
    filling,
    hanger,
    high_data,
    high_pumps,
    injector_fit,
    injectors,
    lifting,
    lines,
    never_joining,
    overrun,
    port_side,
    pumps,
    ratings,
    reference_line,
    reference_ports,
    regulator,
    sensors,
    settings,
    sharing,
    silent,
    staging,
    suction,
    tanks,
    throttles,
    told_tables,
    wire_drop,
    wiring,
)
from .base import Context, Finding, Remedy, Rule, Waits
from .demand import ALCOHOL_FROM_PCT

RULES: tuple[Rule, ...] = (
    *demand.RULES,
    *compressor.RULES,
    *auxiliary.RULES,
    *sensors.RULES,
    *boosting.RULES,
    *filling.RULES,
    *evidence.RULES,
    *told_tables.RULES,
    *classes.RULES,
    *suction.RULES,
    *lifting.RULES,
    *tanks.RULES,
    *hanger.RULES,
    *pumps.RULES,
    *wire_drop.RULES,
    *boosters.RULES,
    *wiring.RULES,
    *sharing.RULES,
    *never_joining.RULES,
    *staging.RULES,
    *silent.RULES,
    *throttles.RULES,
    *lines.RULES,
    *ratings.RULES,
    *port_side.RULES,
    *high_data.RULES,
    *high_pumps.RULES,
    *direct_injection.RULES,
    *injectors.RULES,
    *injector_fit.RULES,
    *calibration.RULES,
    *carburettor.RULES,
    *settings.RULES,
    *reference_ports.RULES,
    *overrun.RULES,
    *regulator.RULES,
    *reference_line.RULES,
)
# Rules that raise notes and nothing graver: not asked where only stops and checks count.
NOTING: frozenset[Rule] = frozenset(
    {
        demand.air_surplus,
        evidence.corrections_mixed,
        evidence.fuel_parts,
        told_tables.tables_part,
        demand.boost_adds_nothing,
        classes.grade_scale,
        compressor.never_used,
        tanks.heating,
        pumps.free_flow_rating,
        pumps.more_than_needed,
        silent.all_stages_out,
        silent.silent_pump,
        staging.out_of_order,
        staging.lift_off,
        staging.two_controllers,
        lines.feed_large,
        injectors.larger_than_needed,
        injector_fit.streams,
        carburettor.deadhead_drift,
        overrun.back_pressure,
    }
)
_ORDER = {"stop": 0, "warn": 1, "note": 2}


def find(
    build: Build, option: Option, verdicts: list[TargetVerdict], catalogue: Catalogue, together: bool = True
) -> list[Finding]:
    """All findings on one option, gravest first, in the order of the rules within a grade.

    Remedies are weighed when looked at: those that change nothing are dropped, those that cure come first, and what one
    leaves behind is said before it is tried. Those of one station are weighed in one set when the first is looked at, as
    a bench shows them, unless one wants them one finding at a time (`together` false).
    """
    return _with_remedies(Context(build, option, tuple(verdicts), _standing(build, catalogue)), together)


def find_troubles(build: Build, option: Option, verdicts: list[TargetVerdict], catalogue: Catalogue) -> list[Finding]:
    """Stops and checks alone, in the same order; remedies are weighed one finding at a time."""
    context = Context(build, option, tuple(verdicts), _standing(build, catalogue), notes=False)
    return _with_remedies(context, together=False)


def _standing(build: Build, catalogue: Catalogue) -> Catalogue:
    """The parts a remedy may propose: on alcohol only those that stand it."""
    strong = any(one.ethanol_pct > ALCOHOL_FROM_PCT or one.base_fuel == "methanol" for one in build.targets)
    return catalogue.fit() if strong else catalogue


def _with_remedies(context: Context, together: bool) -> list[Finding]:
    found = _found(context)
    weighing = _Weighing(context, found)
    look = weighing.of if together else weighing.alone
    return [replace(one, offer=partial(look, number)) for number, one in enumerate(found)]


# What one fault brings about: the root comes first, whatever its grade.
CONSEQUENCES: dict[str, tuple[str, ...]] = {
    "air-limited": ("injectors-small", "pumps-short"),
    "compressor-limit": ("air-limited", "injectors-small", "pumps-short", "hp-short", "window-closed"),
    "no-differential": ("fixed-reference", "injectors-small"),
    "fixed-reference": ("injectors-small",),
    "spring-range": ("injectors-small", "pumps-short", "wiring-drop", "injector-opening", "injector-idle"),
    "feed-small": ("pumps-short", "injectors-small", "wiring-drop"),
    "small-passage": ("pumps-short", "injectors-small", "wiring-drop"),
    "filter-clogged": (
        "filter-collapse",
        "small-passage",
        "feed-small",
        "pumps-short",
        "injectors-small",
        "pre-filter-fine",
        "external-pump-pulls",
        "suction-margin",
        "wiring-drop",
    ),
    "wire-thin": ("fuse-large", "wiring-drop", "pumps-short"),
    "segment-weak": ("fuse-segment",),
    "fuse-large": ("wiring-drop", "pumps-short"),
    "factory-feed": ("wiring-drop", "pumps-short"),
    "ground-painted": ("wiring-drop", "pumps-short"),
    "wiring-drop": ("pumps-short",),
    "stage-never": ("pumps-short", "stage-late", "stage-step", "stage-silent"),
    "switch-shared": ("stage-silent",),
    "pumps-short": ("stage-silent", "float-dry", "needles-small", "hp-starved", "hp-short"),
    "hp-starved": ("hp-short", "window-closed"),
    "hp-worn": ("hp-short", "window-closed"),
    "hp-short": ("window-closed",),
    "rising-steep": (
        "pumps-short",
        "regulator-overrun",
        "wiring-drop",
        "fuse-small",
        "wire-thin",
        "segment-weak",
        "injector-opening",
        "end-pressure",
        "injector-idle",
        "hose-rating",
        "suction-margin",
        "lift-behind",
        "relief-open",
    ),
    "slowest-high": ("fuse-small", "injector-opening", "end-pressure", "wiring-drop", "injector-idle", "hose-rating"),
    "port-idle": ("hp-short", "hp-starved", "window-closed"),
    "port-above-node": ("injectors-small", "injector-opening"),
    "relief-near": ("rail-sensor",),
    "window-wide": ("direct-idle",),
    "regulator-kind": ("regulator-overrun",),
    "regulator-overrun": ("injector-idle",),
    "pump-stalled": ("pumps-short", "stage-late", "stage-step", "stage-silent", "fuse-segment"),
    "filter-collapse": ("filter-flow", "pumps-short"),
    "pre-filter-fine": ("filter-flow", "external-pump-pulls", "suction-margin"),
    "external-pump-pulls": ("suction-margin",),
    "suction-tight": ("suction-margin",),
}


def _found(context: Context) -> list[Finding]:
    asked = [rule for rule in RULES if context.notes or rule not in NOTING]
    found = [finding for rule in asked for finding in rule(context)]
    if not context.notes:
        found = [finding for finding in found if finding.severity != "note"]
    grades: dict[str, int] = {}
    for finding in found:
        grades[finding.code] = min(_ORDER[finding.severity], grades.get(finding.code, len(_ORDER)))
    places = {code: (grade, 0) for code, grade in grades.items()}
    # From the last consequence back to its root, which takes the graver place of the two, before it.
    for _ in range(len(CONSEQUENCES)):
        for root, brought in CONSEQUENCES.items():
            if root in places:
                ahead = [(grade, depth - 1) for code in brought if code in places for grade, depth in (places[code],)]
                places[root] = min([places[root], *ahead])
    roots = _roots(list(places))
    return [replace(one, root=roots.get(one.code, "")) for one in sorted(found, key=lambda one: places[one.code])]


def _roots(codes: Sequence[str]) -> dict[str, str]:
    """Of every code that another of them brings about: the first that does, in the order of `CONSEQUENCES`."""
    brought: dict[str, str] = {}
    for root, follow in CONSEQUENCES.items():
        if root in codes:
            for code in follow:
                if code in codes:
                    brought.setdefault(code, root)
    return {code: _first(brought, code) for code in brought}


def _first(brought: dict[str, str], code: str) -> str:
    """The root behind a root."""
    while code in brought:
        code = brought[code]
    return code


def _troubles(found: list[Finding]) -> dict[str, str]:
    """Stops and checks by code, each with its title."""
    return {one.code: one.title for one in found if one.severity != "note"}


class _Weighing:
    """The remedies of a station's findings weighed in one set, when the first of them is looked at."""

    def __init__(self, context: Context, found: list[Finding]):
        self._context, self._found = context, found
        self._each: dict[int, list[Remedy]] = {}

    def of(self, number: int) -> list[Remedy]:
        """A finding's remedies, those that cure first, with what each would leave behind; advice at the end."""
        if number not in self._each:
            station = self._found[number].station
            beside = [at for at, one in enumerate(self._found) if one.station == station]
            self._each.update(zip(beside, self._weighed(beside), strict=True))
        return self._each[number]

    def alone(self, number: int) -> list[Remedy]:
        """The same for one finding, the others not looked at."""
        return self._weighed([number])[0]

    def _tried(self, numbers: Sequence[int]) -> None:
        """Ask all offers; what they try, and remedies made without trying, is judged in as few sets as can be."""
        waiting = list(numbers)
        while waiting:
            with self._context.gathering():
                waiting = [number for number in waiting if not self._asked(number)]

    def _asked(self, number: int) -> bool:
        """Whether an offer has all it wants to know; its remedies are tried then."""
        with suppress(Waits):
            made = self._found[number].remedies
            with suppress(Waits):
                self._context.trials([one.edits for one in made if one.edits])
            return True
        return False

    def _weighed(self, numbers: Sequence[int]) -> list[list[Remedy]]:
        self._tried(numbers)
        context, before = self._context, _troubles(self._found)
        pressed = [
            (number, remedy)
            for number in numbers
            for remedy in self._found[number].remedies
            if remedy.edits and context.changed(remedy.edits) not in (None, context.build)
        ]
        # What two findings offer alike is looked at once.
        there: dict[str, Context] = {}
        for (_, remedy), verdicts in zip(pressed, context.trials([one.edits for _, one in pressed]), strict=True):
            changed = context.changed(remedy.edits)
            if verdicts is not None and changed is not None:
                option = changed.option(context.option.id)
                there[repr(remedy.edits)] = Context(changed, option, tuple(verdicts), context.catalogue, notes=False)
        staging.ask_together(context, list(there.values()))
        after = {edits: _troubles(_found(one)) for edits, one in there.items()}
        left: dict[int, list[tuple[Remedy, dict[str, str]]]] = {number: [] for number in numbers}
        for number, remedy in pressed:
            if (edits := repr(remedy.edits)) in after:
                left[number].append((remedy, after[edits]))
        kept: dict[int, list[tuple[bool, int, Remedy]]] = {number: [] for number in numbers}
        for number, weighed in left.items():
            fewest = min((set(stays) for _, stays in weighed), key=len, default=set(before))
            cleared = set(before) - fewest
            for remedy, stays in weighed:
                # What is new, and what another remedy of this finding would have cleared.
                remain = [title for code, title in stays.items() if code not in before or code in cleared]
                label = remedy.label if not remain else f"{remedy.label}. Leaves to do: {'; '.join(remain)}"
                kept[number].append((self._found[number].code in stays, len(stays), replace(remedy, label=label)))
        return [
            [remedy for _, _, remedy in sorted(each, key=lambda one: one[:2])]
            + [remedy for remedy in self._found[number].remedies if not remedy.edits]
            for number, each in kept.items()
        ]
