"""The upgrade road: what to buy now and what later, so that little is bought twice, and what is safe meanwhile.

A road ends in one system that carries every target. Each step on the way is made of parts that are fitted already and
parts of that system, judged whole on the targets it is for: what it buys is used to the end. Of such steps the one that
spends least now is taken, so that nothing is thrown away and money is spent as late as it can be.
"""

from collections import Counter
from collections.abc import Iterable, Iterator, Sequence
from dataclasses import dataclass
from itertools import product
from typing import Any

from ..advise import find_troubles
from ..judge import TargetVerdict, judge_many
from ..model import (
    BOUNDS,
    LIMITS,
    POWER_LIMITS,
    Build,
    Catalogue,
    HighSide,
    InjectorSet,
    Option,
    PumpGroup,
    Rates,
    Target,
)
from ..solve import demand
from ..study import Permitted, envelope, permitted, runs_on
from .costs import Bill, bill
from .design import headroom_of
from .design.choices import BASES_KPA, DIRECT_BASES_KPA, Back, Metering, Stages, System, option_of
from .design.circuits import pressed_kpa, wired
from .design.start import bare

PENNY = 0.5  # costs no further apart are the same
Held = Counter[tuple[str, str]]


@dataclass(frozen=True)
class Cap:
    """What is safe on a target that a step does not carry yet: boost and power on its own fuel with the shop's headroom
    left, the blends on which its own power stays within every limit, and what is past its limit at any power (titles)."""

    target: Target
    permitted: Permitted
    blends: tuple[tuple[float, float], ...]
    past: tuple[str, ...]


@dataclass(frozen=True)
class Step:
    """One step: the targets that come with it, the option then fitted with all targets judged, what it costs.

    `bought`, `kept` and `thrown` are (what, part) with counts: bought with this step, bought or fitted before and still
    in use, and no longer of use. `stops` are titles of what must be put right before it runs at all.
    """

    targets: tuple[Target, ...]
    option: Option
    verdicts: tuple[TargetVerdict, ...]
    bill: Bill
    bought: Held
    kept: Held
    thrown: Held
    caps: tuple[Cap, ...]
    stops: tuple[str, ...]


@dataclass(frozen=True)
class UpgradeRoad:
    """What stands today (None where nothing was said to be fitted), and the steps in their order."""

    today: Step | None
    steps: tuple[Step, ...]

    @property
    def total(self) -> float:
        """What the whole road costs."""
        return sum(one.bill.total for one in self.steps)

    @property
    def thrown(self) -> Held:
        """What the road itself bought and then threw away."""
        had: Held = Counter()
        lost: Held = Counter()
        for step in self.steps:
            lost += step.thrown & had
            had += step.bought
        return lost


@dataclass(frozen=True)
class Lane:
    """A part over the road: in use from column `first` up to, not with, column `last`, counted from today (0) or, where
    nothing is said to be fitted, from the first step. `had` is what was fitted before; `thrown` what has no use after."""

    what: str
    part: str
    count: int
    first: int
    last: int
    had: bool
    thrown: bool


def lanes(build: Build, road: UpgradeRoad) -> tuple[Lane, ...]:
    """Every part of a road in the order of the path, what comes later after what goes."""
    columns = [held(build, one.option) for one in (*(() if road.today is None else (road.today,)), *road.steps)]
    keys = list(dict.fromkeys(key for column in columns for key in column))
    order = {what: at for at, what in enumerate(dict.fromkeys(what for what, _ in keys))}
    found = []
    for what, part in keys:
        open_: list[tuple[int, int]] = []  # (first column, count) of what is in use, newest last
        for at, column in enumerate([*columns, Counter()]):
            count, used = column[what, part], sum(one for _, one in open_)
            if count > used:
                open_.append((at, count - used))
            while count < used:
                first, many = open_.pop()
                gone = min(many, used - count)
                if many > gone:
                    open_.append((first, many - gone))
                used -= gone
                had = first == 0 and road.today is not None
                found.append(Lane(what, part, gone, first, at, had, at < len(columns)))
    return tuple(sorted(found, key=lambda one: (order[one.what], one.first, one.last)))


def stages_of_targets(build: Build) -> list[tuple[Target, ...]]:
    """Targets in the order in which they come: those wanted now together, then the later ones one by one.

    Where none is marked as wanted later, one after the other in the order of the fuel they ask for.
    """
    now = tuple(one for one in build.targets if one.when == "now")
    later = [one for one in build.targets if one.when == "later"]
    if now and later:
        return [now, *((one,) for one in later)]
    return [(one,) for one in sorted(build.targets, key=lambda one: demand(build, one).chosen_kg_s)]


def held(build: Build, option: Option) -> Held:
    """Parts of an option by what they are for, with how many; parts not bought yet do not count."""
    found: Held = Counter()

    def hold(what: str, name: str, count: int = 1) -> None:
        if name != "–":
            found[what, name] += count

    for group in option.pumps:
        hold("pumps", group.part.name, group.count)
    if option.lift is not None:
        hold("lift pump", option.lift.part.name, option.lift.count)
    if option.filter is not None:
        hold("filter", option.filter.part.name)
    if option.feed.length_m > 0:
        hold("feed", option.feed.part.name)
    cylinders = build.engine.cylinders
    if option.injectors is not None:
        hold("injectors", option.injectors.part.name, option.injectors.count or cylinders)
        second = option.injectors.second
        if second is not None:
            hold("second set", second.part.name, second.count or cylinders)
    if option.high_side is not None:
        for pump in option.high_side.pumps:
            hold("high-pressure pumps", pump.part.name)
        direct = option.high_side.injectors
        hold("direct injectors", direct.part.name, direct.count or cylinders)
    hold("regulator", option.regulator.part.name)
    if option.return_line.length_m > 0 and not option.regulator.arrangement.startswith("returnless"):
        hold("return", option.return_line.part.name)
    return found


def upgrade(
    build: Build, before: Option | None, end: Option, catalogue: Catalogue, rates: Rates, wanted: float
) -> UpgradeRoad:
    """The road from what is fitted (None: nothing yet) to a system that carries every target.

    Each step leaves the headroom `wanted` (a share) on its targets, or as much as the end does where that is less.
    """
    stages, chain = stages_of_targets(build), []
    targets: tuple[Target, ...] = ()
    now = before or bare(end)
    mixed = _mixtures(build, before, end)
    for stage in stages:
        targets = (*targets, *stage)
        last = len(targets) == len(build.targets)
        now = end if last else _cheapest(build, targets, now, mixed, end, (catalogue, rates, wanted)) or end
        chain.append((stage, now))
    return road_of(build, before, chain, catalogue, rates)


def road_of(
    build: Build,
    before: Option | None,
    chain: Sequence[tuple[tuple[Target, ...], Option]],
    catalogue: Catalogue,
    rates: Rates,
) -> UpgradeRoad:
    """A chain of options as a road: what each buys, keeps, throws away and costs, and what is safe meanwhile."""
    today = None if before is None else _step(build, (), before, before, (catalogue, rates), set())
    had, steps = before, []
    carried: set[str] = set()
    for stage, option in chain:
        carried |= {one.id for one in stage}
        steps.append(_step(build, stage, had or bare(option), option, (catalogue, rates), carried))
        had = option
    return UpgradeRoad(today, tuple(steps))


Shop = tuple[Catalogue, Rates, float]


def _step(
    build: Build, stage: tuple[Target, ...], had: Option, option: Option, shop: tuple[Catalogue, Rates], carried: set[str]
) -> Step:
    catalogue, rates = shop
    verdicts = tuple(judge_many([(build, option, one) for one in build.targets], ceilings=False))
    # What is fitted today is judged on everything that is wanted now; a step on what it is for.
    meant = carried or {one.id for one in stages_of_targets(build)[0]}
    those = [one for one in verdicts if one.target.id in meant]
    only = build.model_copy(update={"targets": tuple(one.target for one in those), "options": (option,)})
    stops = tuple(one.title for one in find_troubles(only, option, those, catalogue) if one.severity == "stop")
    margin = build.rules.headroom_pct / 100.0
    was, now = held(build, had), held(build, option)
    caps = (_cap(build, option, one, margin) for one in verdicts if one.target.id not in carried)
    safe = tuple(one for one in caps if one is not None)
    paid = bill(build, had, option, rates)
    titles = tuple(dict.fromkeys(stops))
    return Step(stage, option, verdicts, paid, now - was, now & was, was - now, safe, titles)


def _cap(build: Build, option: Option, verdict: TargetVerdict, margin: float) -> Cap | None:
    """What is safe on a target; None where all it asks is."""
    target = verdict.target
    (allowed,) = permitted(build, option, target, margin, (target.ethanol_pct,), beyond=True)
    still = (
        load for load in verdict.loads if load.component in (*LIMITS, *BOUNDS) and load.component not in POWER_LIMITS
    )
    past = tuple(load.title for load in still if not load.load <= 1.0)
    if not past and (allowed.power_kw is None or allowed.power_kw >= target.power_kw):
        return None
    return Cap(target, allowed, runs_on(envelope(build, option, target)), past)


def _cheapest(
    build: Build, targets: tuple[Target, ...], had: Option, mixed: Sequence[Option], end: Option, shop: Shop
) -> Option | None:
    """Of mixtures that carry some targets and waste nothing on the way to the end, the one that costs least from what is
    had; of equal ones that nearest the base pressure had, then that with most headroom. None where none does."""
    catalogue, rates, wanted = shop
    whole = bill(build, had, end, rates).total
    paid = [
        (cost, one)
        for one in mixed
        for cost in [bill(build, had, one, rates).total]
        if cost + bill(build, one, end, rates).total <= whole + PENNY
    ]
    count = len(targets)
    judged = judge_many([(build, one, target) for _, one in [*paid, (0.0, end)] for target in targets], ceilings=False)
    heads = [headroom_of(judged[n * count : (n + 1) * count]) for n in range(len(paid) + 1)]
    enough = min(wanted, heads[-1]) - 1e-9
    base = had.regulator.base_kpa
    order = sorted(
        range(len(paid)), key=lambda n: (round(paid[n][0]), abs(paid[n][1].regulator.base_kpa - base), -heads[n])
    )
    only = build.model_copy(update={"targets": targets})
    stay = {one.code for one in find_troubles(only, end, judged[-count:], catalogue)}
    for n in order:
        if heads[n] < enough:
            continue
        option = paid[n][1]
        troubles = find_troubles(only, option, judged[n * count : (n + 1) * count], catalogue)
        if not any(one.severity == "stop" or one.code not in stay for one in troubles):
            return option
    return None


def _mixtures(build: Build, before: Option | None, end: Option) -> list[Option]:
    """Systems made of what is fitted and of the end's own parts."""
    had = before
    injectors = _either(end.injectors, None if had is None else had.injectors, _first_set(end.injectors))
    highs = _highs(end.high_side, None if had is None else had.high_side)
    most = max(end.regulator.base_kpa, 0.0 if had is None else had.regulator.base_kpa)
    pressed = pressed_kpa(build, end.regulator, most)
    pumps = [*_fewer(end.pumps), *([] if had is None else [_rewired(had.pumps, build, pressed)])]
    filters = _either(end.filter, None if had is None else had.filter)
    feeds = _either(end.feed, None if had is None else had.feed)
    backs = _either(end.return_line, None if had is None else had.return_line)
    regulators = _either(end.regulator, None if had is None else had.regulator)
    offered = DIRECT_BASES_KPA if end.high_side is not None else BASES_KPA if end.carburettor is None else ()
    bases = sorted({end.regulator.base_kpa, *(() if had is None else (had.regulator.base_kpa,)), *offered})
    lifts = _either(end.lift, None if had is None else had.lift)
    found = []
    for base, regulator in product(bases, regulators):
        if not regulator.part.min_base_kpa <= base <= regulator.part.max_base_kpa:
            continue
        for injector, high, pump, sieve, feed, back, lift in product(
            injectors, highs, pumps, filters, feeds, backs, lifts
        ):
            system = System(Metering(base, injector, high), Stages(pump, sieve), feed, Back(regulator, back))
            found.append(option_of(end.model_copy(update={"lift": lift}), system))
    return found


def _either(*parts: Any) -> list[Any]:
    """The end's, and others that are fitted and are not it."""
    first, *others = parts
    return [first, *(one for one in others if one is not None and one != first)]


def _first_set(injectors: InjectorSet | None) -> InjectorSet | None:
    return None if injectors is None or injectors.second is None else injectors.model_copy(update={"second": None})


def _highs(end: HighSide | None, had: HighSide | None) -> list[HighSide | None]:
    """High sides with pumps or injectors of either."""
    if end is None or had is None:
        return [end]
    mixed = [end.model_copy(update={"pumps": had.pumps}), end.model_copy(update={"injectors": had.injectors})]
    return [end, *(one for one in (*mixed, had) if one != end)]


def _fewer(pumps: tuple[PumpGroup, ...]) -> Iterator[tuple[PumpGroup, ...]]:
    """The end's pumps, and fewer of them: the last to join come last."""
    counts = sum(group.count for group in pumps)
    for many in range(counts, 0, -1):
        left, kept = many, []
        for group in pumps:
            count = min(group.count, left)
            if count:
                kept.append(group.model_copy(update={"count": count}))
            left -= count
        yield tuple(kept)


def _rewired(pumps: Iterable[PumpGroup], build: Build, rise_kpa: float) -> tuple[PumpGroup, ...]:
    """What is fitted, its circuits put right: wire is no part that is bought."""
    return tuple(one.model_copy(update={"wiring": wired(one.wiring, one.part, build, rise_kpa)}) for one in pumps)


__all__ = ["Cap", "Held", "Lane", "Step", "UpgradeRoad", "held", "lanes", "road_of", "stages_of_targets", "upgrade"]
