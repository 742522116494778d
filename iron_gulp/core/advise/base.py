"""What a finding is, and what a rule may look at.

Texts hold `{name}` for each value of `values`; a value's name ends in its unit (`rail_kpa`), so that the interface can
show it in bench units.
"""

from collections.abc import Callable, Iterable, Iterator, Mapping, Sequence
from contextlib import contextmanager, suppress
from dataclasses import dataclass, field
from functools import cached_property
from typing import Literal, TypeVar, cast

from ..judge import KEPT, TargetVerdict, judge_many
from ..model import RULES, Build, Catalogue, Component, Edit, EditError, Option, Station, apply

Severity = Literal["stop", "warn", "note"]
Value = float | str
Made = TypeVar("Made")


@dataclass(frozen=True)
class Remedy:
    """Something to do. With `edits` it can be tried with one click; without, it is advice."""

    label: str
    edits: tuple[Edit, ...] = ()
    values: Mapping[str, Value] = field(default_factory=dict)


@dataclass(frozen=True)
class Finding:
    """One judgement: what, on which targets, the numbers, why it matters, what to do.

    Remedies are tried out on the model, so where that takes trials they are worked out when looked at. `root` is the
    code of the finding that this one follows from, where one does: it folds under that.
    """

    code: str
    severity: Severity
    station: Station
    title: str
    text: str
    why: str
    values: Mapping[str, Value] = field(default_factory=dict)
    targets: tuple[str, ...] = ()
    offer: Iterable[Remedy] | Callable[[], Iterable[Remedy]] = ()
    root: str = ""

    @cached_property
    def remedies(self) -> tuple[Remedy, ...]:
        """What to do, most usual first."""
        return tuple(self.offer() if callable(self.offer) else self.offer)


class Waits(Exception):
    """An offer waits for trials that are to be judged with those of others; it is asked again when they are."""


@dataclass(frozen=True)
class Context:
    """One option of a build with every target judged, and the parts a remedy may propose.

    Without `notes` only stops and checks are wanted: what serves notes alone is not worked out.
    """

    build: Build
    option: Option
    verdicts: tuple[TargetVerdict, ...]
    catalogue: Catalogue
    notes: bool = True
    _tried: dict[str, list[TargetVerdict] | None] = field(default_factory=dict)
    _made: dict[str, object] = field(default_factory=dict)
    _gathered: list[list[tuple[Edit, ...]]] = field(default_factory=list)

    def path(self, tail: str) -> str:
        """The edit path of a field of this option."""
        return f"options/{self.option.id}/{tail}"

    def over(self, component: Component) -> list[TargetVerdict]:
        """Targets on which a component is past its ceiling, or a rule not kept, worst first."""
        return self.above(component, KEPT if component in RULES else 1.0)

    def above(self, component: Component, share: float) -> list[TargetVerdict]:
        """Targets on which a component's load exceeds `share`, worst first."""
        found = [verdict for verdict in self.verdicts if not verdict.load(component).load <= share]
        return sorted(found, key=lambda verdict: -verdict.load(component).load)

    def at_base(self, base_kpa: float) -> tuple[Edit, ...]:
        """Another base pressure, and the controller told of it where it was told of this one."""
        told = self.option.calibration.base_kpa
        edits: tuple[Edit, ...] = ((self.path("regulator/base_kpa"), base_kpa),)
        return edits if told is None else (*edits, (self.path("calibration/base_kpa"), base_kpa))

    @property
    def spare(self) -> float:
        """What a load may be with the headroom wanted left."""
        return 1.0 / (1.0 + self.build.rules.headroom_pct / 100.0)

    def once(self, key: str, make: Callable[[], Made]) -> Made:
        """What `make` gives, worked out once for all rules that ask under this key."""
        if key not in self._made:
            self._made[key] = make()
        return cast(Made, self._made[key])

    def tell(self, key: str, made: object) -> None:
        """What was worked out elsewhere, for the rules that ask for it `once`."""
        self._made.setdefault(key, made)

    def changed(self, edits: tuple[Edit, ...]) -> Build | None:
        """The build with edits made; None when they are not possible."""

        def make() -> Build | None:
            with suppress(EditError):
                return apply(self.build, edits)
            return None

        return self.once(f"changed {edits!r}", make)

    def trial(self, edits: tuple[Edit, ...]) -> list[TargetVerdict] | None:
        """Every target judged with the edits made; None when the edits are not possible. Remembered: rules ask alike."""
        return self.trials([edits])[0]

    def trials(self, candidates: Sequence[tuple[Edit, ...]]) -> list[list[TargetVerdict] | None]:
        """Several changes, each tried on its own and all judged at once, in their order; `Waits` while `gathering`."""
        keys = [repr(edits) for edits in candidates]
        fresh = {key: edits for key, edits in zip(keys, candidates, strict=True) if key not in self._tried}
        if fresh and self._gathered:
            self._gathered[-1].extend(fresh.values())
            raise Waits
        self._tried.update(dict.fromkeys(fresh))
        changed = {key: one for key, edits in fresh.items() if (one := self.changed(edits)) is not None}
        asked = [(one, one.option(self.option.id), target) for one in changed.values() for target in one.targets]
        judged = iter(judge_many(asked, ceilings=False)) if asked else iter(())
        for key, one in changed.items():
            self._tried[key] = [next(judged) for _ in one.targets]
        return [self._tried[key] for key in keys]

    @contextmanager
    def gathering(self) -> Iterator[None]:
        """What is tried within is only noted, and judged all together at the end."""
        self._gathered.append([])
        try:
            yield
        finally:
            wanted = self._gathered.pop()
        self.trials(wanted)


def each_asked(*offers: Callable[[], Iterable[Remedy]]) -> list[Remedy]:
    """The remedies of several offers in their order; what they try is asked for before any of them waits."""
    made, waits = [], False
    for offer in offers:
        try:
            made += list(offer())
        except Waits:
            waits = True
    if waits:
        raise Waits
    return made


Rule = Callable[[Context], Iterator[Finding]]


def highest(verdicts: list[TargetVerdict], component: Component) -> float:
    """Highest load of a component over targets."""
    return max(verdict.load(component).load for verdict in verdicts)


def names(verdicts: list[TargetVerdict] | tuple[TargetVerdict, ...]) -> tuple[str, ...]:
    """The targets' names."""
    return tuple(verdict.target.name for verdict in verdicts)
