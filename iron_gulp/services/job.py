"""A design search under way or done, and what is worked out of what it found."""

import time
from dataclasses import dataclass, field

from iron_gulp.core.model import Option, Target
from iron_gulp.core.plan import Beside, Design, Found, Locks, UpgradeRoad

Chain = list[tuple[tuple[Target, ...], Option]]


@dataclass(frozen=True)
class Ways:
    """Ways to one design: the road that throws nothing away and spends least first, everything at once, and the cheapest
    system for each step by itself (None where it was not worked out or is none)."""

    least_waste: UpgradeRoad
    at_once: UpgradeRoad
    each_time: UpgradeRoad | None


@dataclass(frozen=True)
class Surer:
    """A neighbour of a design, one part a size larger: what more it costs, and how sure it is (a share)."""

    beside: Beside
    dearer: float
    sure: float


@dataclass
class Job:
    """A search under way or done: of which revision, with which locks, what it found, and how sure each design is."""

    number: int
    locks: Locks
    before: Option
    fitted: Option | None
    fewest: bool = False
    opened: str = ""
    found: Found = field(default_factory=Found)
    sure: dict[int, float] = field(default_factory=dict)
    opens: list[tuple[tuple[str, ...], Design]] = field(default_factory=list)
    surer: dict[int, list[Surer]] = field(default_factory=dict)
    each_time: Chain = field(default_factory=list)
    ways: dict[int, Ways] = field(default_factory=dict)
    ahead: int = 0
    running: bool = True
    stopped: bool = False
    failed: str = ""
    started: float = field(default_factory=time.monotonic)
    took_s: float = 0.0

    @property
    def seconds(self) -> float:
        """How long it has run."""
        return self.took_s or time.monotonic() - self.started

    @property
    def front(self) -> list[Design]:
        """The front so far, cheapest first."""
        return sorted(self.found.front, key=lambda one: one.score)

    @property
    def offered(self) -> list[Design]:
        """What can be opened: the front; where it is empty what opening locks gives, then the nearest with all closed."""
        near = self.found.nearest
        return self.front or [*(one for _, one in self.opens), *([] if near is None else [near])]

    @property
    def nearest_place(self) -> int | None:
        """Where the nearest stands among what can be opened; None where it is not offered."""
        return None if self.front or self.found.nearest is None else len(self.opens)

    def name_of(self, place: int) -> str:
        """What a design that is opened is called, by its place."""
        left = self.offered[place].score.headroom_pct
        if self.front:
            return f"Design {place + 1}: {left} % left"
        if place != self.nearest_place:
            return f"With another lock open: {left} % left"
        return f"The nearest: {left} % left" if left >= 0 else f"The nearest: {-left} % short"

    def surer_than(self, design: Design) -> list[Surer]:
        """Neighbours that more cars carry; none while not worked out."""
        return self.surer.get(id(design.option), [])

    def chance(self, design: Design) -> float | None:
        """Share of cars like this in which a design carries every target; None while not worked out."""
        return self.sure.get(id(design.option))
