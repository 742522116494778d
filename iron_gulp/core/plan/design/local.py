"""A finding put right from the shelf: the same search around the option as it is, fewest changes first.

A change is one kind of part, or the base pressure. What was bad elsewhere may stay as bad, but nothing gets worse and
no other stop or check joins: of those that cure with as few changes, the cheapest of each set of kinds.
"""

from collections.abc import Callable, Iterator, Sequence
from dataclasses import dataclass
from itertools import combinations
from typing import Literal

from ...advise import Finding
from ...judge import TargetVerdict
from ...model import RESERVED, RULES, Build, Component, Option
from ..differing import differences
from .choices import RETURNLESS
from .ease import Ease, Leave, wanted_of
from .fewest import kinds_of
from .found import Design
from .holding import COUNTED
from .locks import Kept, Locks
from .search import Search, Stop

Base = Literal["base pressure"]
BASE: Base = "base pressure"
# By a finding's code the load it is about, where it is one, and the kinds of parts that answer for it first.
ABOUT: dict[str, tuple[Component | None, tuple[Kept | Base, ...]]] = {
    "injectors-small": ("injectors", ("injectors", BASE)),
    "injector-idle": ("injector idle", ("injectors", BASE)),
    "pumps-short": ("pumps", ("pumps", BASE)),
    "relief-open": (None, ("pumps", BASE)),
    "pump-stalled": (None, ("pumps", BASE)),
    "feed-small": ("feed", ("lines",)),
    "filter-flow": (None, ("filter",)),
    "regulator-overrun": ("regulator", ("regulator", "lines", "pumps")),
    "hp-short": ("high-pressure pump", ("high-pressure pumps",)),
    "hp-starved": ("high-pressure inlet", ("pumps", "lines", "filter", BASE)),
    "window-closed": ("direct injectors", ("direct injectors",)),
}
SLACK = 0.005  # loads that were high already may rise by so much, a share of them: less than is known of them


@dataclass(frozen=True)
class Cure:
    """A design that cures a finding: which kinds it changes, and what is another in words (what, before, after)."""

    changes: tuple[str, ...]
    design: Design
    told: tuple[tuple[str, str, str], ...]


def curable(finding: Finding, option: Option) -> bool:
    """Whether parts of the shelf are what a finding is about; what wire, settings or the car cure is not."""
    if finding.severity == "note" or finding.code not in ABOUT:
        return False
    return any(one in kinds_of(option) for one in ABOUT[finding.code][1])


def leaves_of(
    build: Build, finding: Finding, troubles: Sequence[Finding], verdicts: Sequence[TargetVerdict], locks: Locks
) -> tuple[Leave, Leave]:
    """What a cure may let be: every other trouble there is, and loads no higher than they are.

    The load the finding is about is not excused: it comes down to the headroom wanted, or (second) to its limit.
    """
    most, about = 1.0 / (1.0 + wanted_of(build, locks)), ABOUT[finding.code][0]
    excused: dict[tuple[str, str], float] = {}
    for verdict in verdicts:
        for load in verdict.loads:
            bound = most if load.component in RESERVED else 1.0
            if load.component not in COUNTED or load.component == about or load.load <= bound:
                continue
            # A rule not kept before stays one, by however much: it ends nothing.
            spared = 0.0 if load.component in RULES else bound / load.load / (1.0 + SLACK)
            excused[load.component, verdict.target.id] = spared
    codes = frozenset(one.code for one in troubles if one.code != finding.code)
    own: dict[tuple[str, str], float] = {}
    if about in RESERVED:
        own = {(str(about), target.id): most for target in build.targets}
    return Leave(Ease(excused), codes, stops=True), Leave(Ease({**excused, **own}), codes, stops=True)


def locks_for(option: Option) -> Locks:
    """Locks of a search around an option: everything stays, its way of returning and its number of pumps too."""
    returnless = option.regulator.arrangement == RETURNLESS
    return Locks(
        keep=kinds_of(option),
        base_pressure="as it is",
        returns="returnless" if returnless else "with a return",
        most_pumps=min(max(3, sum(group.count for group in option.pumps)), 6),
    )


def cures(
    search: Callable[[Locks, Leave], Search],
    option: Option,
    code: str,
    leaves: tuple[Leave, Leave],
    stop: Stop = lambda: False,
) -> Iterator[Cure]:
    """The cheapest cure of each set of as few changes as cure at all; none where two changes do not.

    `search` makes a search with given locks that leaves what it is told. Cures that leave the headroom wanted come first,
    then those that come within the limit, before more is changed. Of two changes one is of a kind that answers for the
    finding's `code`.
    """
    closed = locks_for(option)
    own = tuple(one for one in ABOUT[code][1] if one in kinds_of(option) or (one == BASE and option.carburettor is None))
    for changes in _sets(own, option):
        done = False
        for leave in leaves:
            for kinds in changes:
                if stop():
                    return
                other = search(_opened(closed, kinds), leave)
                for _ in other.run(stop, first_only=True):
                    pass
                best = other.found.best
                if best is not None and best.option != option:
                    done = True
                    yield Cure(kinds, best, tuple(differences(option, best.option)))
            if done:
                return


def _sets(own: Sequence[str], option: Option) -> list[list[tuple[str, ...]]]:
    """Sets of changes: of one kind that answers for the finding, of another kind, then of one with another."""
    every = (*kinds_of(option), *(() if option.carburettor is not None else (BASE,)))
    pairs = [pair for pair in combinations(every, 2) if set(pair) & set(own)]
    return [[(one,) for one in own], [(one,) for one in every if one not in own], list(pairs)]


def _opened(closed: Locks, changes: Sequence[str]) -> Locks:
    keep = tuple(one for one in closed.keep if one not in changes)
    return closed.model_copy(update={"keep": keep, "base_pressure": "may change" if BASE in changes else "as it is"})
