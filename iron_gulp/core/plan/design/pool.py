"""Every combination of choices with its score by parts, as arrays, in the order in which they are judged whole."""

from collections import Counter
from collections.abc import Sequence
from dataclasses import dataclass

import numpy as np
from numpy.typing import NDArray

from ...model import LOADS, Line
from ...physics import Floats, floats
from .choices import Back, Metering, Stages, System
from .front import headroom_class
from .holding import weighed

Index = NDArray[np.int64]
Key = tuple[str, int, int]
COMPONENTS: tuple[str, ...] = tuple(kind.component for kind in LOADS)
SLACK = 0.002  # how far headroom of what was judged apart may be off, a share


@dataclass(frozen=True)
class Heads:
    """Least headroom of each choice over targets and some components, a share, and which component sets it."""

    head: Floats
    component: Index

    @classmethod
    def of(cls, loads: dict[str, Floats], components: Sequence[str]) -> "Heads":
        """From loads of shape (targets, choices)."""
        size = next(iter(loads.values())).shape[1]
        worst, named = np.zeros(size), np.zeros(size, dtype=np.int64)
        for name in components:
            if name in loads:
                highest = weighed(name, floats(loads[name].max(axis=0)))
                named[highest > worst] = COMPONENTS.index(name)
                worst = np.maximum(worst, highest)
        return cls(headroom(worst), named)


def headroom(load: Floats) -> Floats:
    """Headroom of loads, shares: 1 ÷ load − 1; infinite without a load."""
    return floats(np.where(load > 0, 1.0 / np.maximum(load, 1e-9) - 1.0, np.inf))


def over(load: Floats, reference: Floats) -> Floats:
    """Loads of those of a reference (targets, 1), as a ratio; 1 where the reference has none."""
    return floats(np.where(reference > 0, load / np.maximum(reference, 1e-12), 1.0))


@dataclass(frozen=True)
class Apart:
    """What choices do apart from each other: headroom of meterings (m,) and of pumps with feeds (s × f,).

    Of what returns at idle, loads by component: `bypass` those of pumps with feeds (targets, s × f) on the ample return,
    and `held` what each regulator with its return makes of them (targets, b).
    """

    metering: Heads
    feed: Heads
    bypass: dict[str, Floats]
    held: dict[str, Floats]

    def returned(self) -> tuple[Floats, Index]:
        """Least headroom of what returns, (s × f, b), and which component sets it."""
        size = self.feed.head.size, next((one.shape[1] for one in self.held.values()), 1)
        worst, named = np.zeros(size), np.zeros(size, dtype=np.int64)
        for name, bypass in self.bypass.items():
            for target in range(bypass.shape[0]):
                load = weighed(name, floats(bypass[target][:, None] * self.held[name][target]))
                more = load > worst
                named[more] = COMPONENTS.index(name)
                worst = np.where(more, load, worst)
        return headroom(floats(worst)), named


Extra = tuple[Floats, Index]


@dataclass(frozen=True)
class Block:
    """All choices of a base pressure and an arrangement: how they do apart, cost and points of the ample `reference`, and
    what each choice adds to them."""

    choices: tuple[list[Metering], list[Stages], list[Line], list[Back]]
    reference: System
    apart: Apart
    ample: tuple[float, int]
    extra: tuple[Extra, Extra, Extra, Extra]

    @property
    def shape(self) -> tuple[int, int, int, int]:
        """How many of each choice."""
        metering, stages, feeds, backs = self.choices
        return len(metering), len(stages), len(feeds), len(backs)

    @property
    def size(self) -> int:
        """How many combinations."""
        return int(np.prod(self.shape))

    def summed(self, which: int, only: Index | None = None) -> Floats:
        """Cost (0) or points (1) of every combination, of the block's shape; of some meterings."""
        metering, stages, feed, back = (floats(one[which]) for one in self.extra)
        metering = metering if only is None else metering[only]
        whole = metering[:, None, None, None] + stages[:, None, None] + feed[:, None] + back
        return floats(self.ample[which] + whole)

    def least(self, only: Index | None = None) -> tuple[Floats, Index]:
        """Least headroom of every combination, and the position of the component that sets it; of some meterings."""
        apart = self.apart
        metering = apart.metering.head, apart.metering.component
        own, named_own = metering if only is None else (metering[0][only], metering[1][only])
        count = (own.size, *self.shape[1:])
        back, named_back = apart.returned()
        parts = (
            (own[:, None, None, None], named_own[:, None, None, None]),
            tuple(one.reshape(1, count[1], count[2], 1) for one in (apart.feed.head, apart.feed.component)),
            # Where nothing returns, as deadhead, no return is better than another.
            tuple(one.reshape(1, count[1], count[2], -1) for one in (back, named_back)),
        )
        head, component = (np.broadcast_to(one, count).copy() for one in parts[0])
        for other, named in parts[1:]:
            lower = np.broadcast_to(other, count) < head
            head = np.where(lower, other, head)
            component = np.where(lower, named, component)
        return floats(head), component.astype(np.int64)

    def system(self, metering: int, stages: int, feed: int, back: int) -> System:
        """The choices at positions, put together."""
        one = self.choices
        return System(one[0][metering], one[1][stages], one[2][feed], one[3][back])

    def nearest(self) -> tuple[float, System]:
        """The combination with most headroom, and how much."""
        head, _ = self.least()
        best = int(np.argmax(np.nan_to_num(head, posinf=1e6)))
        place = np.unravel_index(best, self.shape)
        return float(head.ravel()[best]), self.system(*(int(one) for one in place))


@dataclass(frozen=True)
class Pool:
    """Combinations of some blocks that carry and can be paid, with their scores, and what the others fell to."""

    cost: Index
    points: Index
    head: Index
    block: Index
    place: Index
    metering: Index
    stages: Index
    owners: tuple[int, ...]
    fell: Counter[str]

    @classmethod
    def of(cls, blocks: "Sequence[Block]", wanted: float, budget: float | None) -> "Pool":
        """The pool of some blocks for a headroom wanted (a share) and a budget."""
        columns: list[tuple[Index, ...]] = []
        fell: Counter[str] = Counter()
        for number, one in enumerate(blocks):
            whole, (metering, stages, feeds, backs) = one.size, one.shape
            fits = np.flatnonzero(one.apart.metering.head >= wanted - SLACK)
            for code, count in enumerate(np.bincount(np.delete(one.apart.metering.component, fits))):
                fell[COMPONENTS[code]] += int(count) * (whole // metering)
            head, component = one.least(fits)
            classes = np.minimum(np.floor((np.nan_to_num(head, posinf=10.0) + SLACK) * 100.0), headroom_class(np.inf))
            carries = head >= wanted - SLACK
            cost = np.round(one.summed(0, fits)).astype(np.int64)
            paid = carries if budget is None else carries & (cost <= budget + 0.5)
            for code, count in enumerate(np.bincount(component[~carries].ravel())):
                fell[COMPONENTS[code]] += int(count)
            fell["budget"] += int((carries & ~paid).sum())
            at = np.flatnonzero(paid)
            which, rest = np.divmod(at, stages * feeds * backs)
            columns.append(
                (
                    cost.ravel()[at],
                    one.summed(1, fits).ravel()[at].astype(np.int64),
                    classes.ravel()[at].astype(np.int64),
                    np.full(at.size, number, dtype=np.int64),
                    fits[which] * (stages * feeds * backs) + rest,
                    fits[which],
                    rest // (feeds * backs),
                )
            )
        fell = +fell
        nothing = (np.zeros(0, dtype=np.int64),) * 7
        cost, points, head_class, block, places, meters, pumps = (
            np.concatenate(one) for one in zip(*(columns or [nothing]), strict=True)
        )
        return cls(cost, points, head_class, block, places, meters, pumps, tuple(id(one) for one in blocks), fell)

    @property
    def order(self) -> Index:
        """Positions, cheapest first; of equal ones the simpler, then the one with more headroom."""
        return np.lexsort((-self.head, self.points, self.cost)).astype(np.int64)

    def key(self, slot: str, at: int) -> Key:
        """The metering or the stages of a combination, to be known again."""
        return slot, self.owners[int(self.block[at])], int(getattr(self, slot)[at])

    def same(self, bad: Key, among: Index) -> NDArray[np.bool_]:
        """Which of some combinations have a metering or stages."""
        slot, owner, number = bad
        if owner not in self.owners:
            return np.zeros(among.size, dtype=bool)
        here = self.block[among] == self.owners.index(owner)
        return np.asarray(here & (getattr(self, slot)[among] == number))

    def system(self, blocks: "Sequence[Block]", at: int) -> System:
        """The combination at a position."""
        own = blocks[int(self.block[at])]
        return own.system(*(int(one) for one in np.unravel_index(int(self.place[at]), own.shape)))
