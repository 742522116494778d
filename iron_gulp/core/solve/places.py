"""Places between the nodes of characteristics, and finding them node by node where no table is worth while."""

from collections.abc import Callable
from dataclasses import dataclass, field
from typing import Any, Protocol

import numpy as np

from ..physics import Floats, floats, level
from .pump_curves import NODES, Index

Column = Callable[[Floats, Any], Floats]
"""From node columns (columns, …, points) and the points' positions to what is compared with the value sought."""

_PATIENCE = 5  # secants before halving


class Place(Protocol):
    """Where points lie on their curves: between nodes `low` and `low + 1` at `share`."""

    low: Index
    share: Floats

    def ends(self, number: int) -> tuple[Floats, Floats]:
        """A column at the node below and at the node above."""

    def column(self, number: int) -> Floats:
        """A column at the place itself."""

    def read(self) -> list[Floats]:
        """Every column at the place."""

    def part(self, at: Any) -> "Place":
        """Only the points `at`."""

    def replaced(self, at: Any, other: Any) -> "Place":
        """The points `at` moved to `other`, which holds just those."""

    def moved(self, share: Floats) -> "Place":
        """The same nodes, another share."""


@dataclass(frozen=True)
class Walked:
    """A place with the node columns below and above, each of shape (columns, points)."""

    low: Index
    share: Floats
    below: Floats
    above: Floats

    def ends(self, number: int) -> tuple[Floats, Floats]:
        """The column at the node below and the node above."""
        return floats(self.below[number]), floats(self.above[number])

    def column(self, number: int) -> Floats:
        """The column between its two nodes."""
        return floats(self.below[number] + self.share * (self.above[number] - self.below[number]))

    def read(self) -> list[Floats]:
        """Every column between the nodes."""
        return list(self.below + self.share * (self.above - self.below))

    def part(self, at: Any) -> "Walked":
        """The places at an index or mask."""
        return Walked(self.low[at], self.share[at], self.below[:, at], self.above[:, at])

    def replaced(self, at: Any, other: "Walked") -> "Walked":
        """The same places with those at an index taken from another."""
        low, share, below, above = self.low.copy(), self.share.copy(), self.below.copy(), self.above.copy()
        low[at], share[at], below[:, at], above[:, at] = other.low, other.share, other.below, other.above
        return Walked(low, share, below, above)

    def moved(self, share: Floats) -> "Walked":
        """The same nodes, another share of the step between them."""
        return Walked(self.low, share, self.below, self.above)


class Table:
    """Curves tabulated whole: `values` (columns, systems · nodes), one system's nodes behind the other's.

    `steps` leads from each node to the next; `used` says which columns hold anything at all.
    """

    def __init__(self, values: Floats):
        """From `values` of shape (columns, nodes, systems)."""
        self.nodes, self.systems = values.shape[1:]
        turned = np.ascontiguousarray(np.moveaxis(values, 1, 2))
        steps = np.diff(turned, axis=2, append=turned[:, :, -1:])
        self.values, self.steps = (one.reshape(values.shape[0], -1) for one in (turned, steps))
        self.system_of_node = np.repeat(np.arange(self.systems), self.nodes)
        self.used = tuple(bool(column.any()) for column in values)

    @property
    def nbytes(self) -> int:
        """Memory of the numbers held."""
        return self.values.nbytes + self.steps.nbytes + self.system_of_node.nbytes

    def below(self, rising: Floats, value: Floats, row: Index | None) -> Index:
        """The node below each value on a column that rises along each system's nodes; `row` names the systems."""
        if row is None:
            alone: Index = np.minimum(np.maximum(np.searchsorted(rising, value), 1), self.nodes - 1) - 1
            return alone
        # One search for all systems: each has a span of its own.
        least, most = rising.min(), rising.max()
        span = most - least + 1.0
        key = rising - least + span * self.system_of_node
        within = np.minimum(np.maximum(value - least, 0.0), most - least + 0.5)
        found = np.searchsorted(key, within + span * row)
        first = row * self.nodes
        inside: Index = np.minimum(np.maximum(found, first + 1), first + self.nodes - 1) - 1
        return inside


@dataclass(frozen=True)
class Tabled:
    """A place in tables; `low` counts through all systems' nodes."""

    table: Table
    low: Index
    share: Floats
    _seen: dict[int, tuple[Floats, Floats]] = field(default_factory=dict)

    def _node_and_step(self, number: int) -> tuple[Floats, Floats]:
        if number not in self._seen:
            table = self.table
            self._seen[number] = table.values[number].take(self.low), table.steps[number].take(self.low)
        return self._seen[number]

    def ends(self, number: int) -> tuple[Floats, Floats]:
        """The column at the node below and the node above."""
        below, step = self._node_and_step(number)
        return below, floats(below + step)

    def column(self, number: int) -> Floats:
        """The column between its two nodes, zero where the table holds none."""
        if not self.table.used[number]:
            return level(0.0, self.low.size)
        below, step = self._node_and_step(number)
        found = self.share * step
        found += below
        return floats(found)

    def read(self) -> list[Floats]:
        """Every column between the nodes."""
        return [self.column(number) for number in range(len(self.table.used))]

    def part(self, at: Any) -> "Tabled":
        """The places at an index or mask."""
        return Tabled(self.table, self.low[at], self.share[at])

    def replaced(self, at: Any, other: "Tabled") -> "Tabled":
        """The same places with those at an index taken from another."""
        low, share = self.low.copy(), self.share.copy()
        low[at], share[at] = other.low, other.share
        return Tabled(self.table, low, share)

    def moved(self, share: Floats) -> "Tabled":
        """The same nodes, another share of the step between them."""
        return Tabled(self.table, self.low, share, self._seen)


def share_between(below: Floats, above: Floats) -> Floats:
    """Where a rising straight line from `below` to `above` crosses nothing, within 0 and 1."""
    with np.errstate(divide="ignore", invalid="ignore"):
        share = np.minimum(np.maximum(below / (below - above), 0.0), 1.0)
    share[~(above > below)] = 0.0
    return floats(share)


class Nodes(Protocol):
    """Something with node columns by node number, for each point."""

    def nodes(self, index: Any) -> Floats:
        """The columns at the nodes, shape (columns, places)."""
        ...


def walk(
    at_points: Callable[[Any], Nodes],
    last: int,
    column: Column,
    value: Floats,
    guess: Floats,
    slope: Floats,
    start: Walked | None = None,
) -> Walked:
    """The place where a rising column crosses `value`, working out as few nodes as possible.

    `at_points` gives the node columns of some of the points; `guess` and `slope` (column a node) start the search. A
    `start` that already holds the crossing costs nothing.
    """
    found = _Bracket(value.size, last)
    if start is not None:
        found.start(start, column, value)
    stride = np.ones(value.size)
    for turn in range(3 * NODES):
        active = np.flatnonzero(found.open())
        if active.size == 0:
            break
        whole = active.size > 0.7 * value.size
        at: Any = slice(None) if whole else active
        tried = found.next(at, guess, slope, stride, halve=turn >= _PATIENCE and turn % 2 == 1)
        stride[at] *= 2.0
        # Two neighbours at a time: one call of the model often holds the crossing between them.
        first = np.clip(np.floor(tried), 0, last - 1).astype(np.int64)
        pair = np.array([first, first + 1])
        columns = at_points(at).nodes(pair)
        for node, seen in zip(pair, (columns[:, 0], columns[:, 1]), strict=True):
            found.learn(at, active, node, seen, column(seen, at) - value[at])
    return found.place(at_points)


class _Bracket:
    """For every point the nearest nodes known on either side of its crossing; −1 and last + 1 where none is known yet."""

    def __init__(self, size: int, last: int):
        self.last = last
        self.low, self.high = np.full(size, -1), np.full(size, last + 1)
        self.off_low, self.off_high = np.full(size, -np.inf), np.full(size, np.inf)
        self.below = self.above = np.zeros((0, size))

    def start(self, place: Walked, column: Column, value: Floats) -> None:
        everyone = np.arange(value.size)
        for node, seen in ((place.low, place.below), (place.low + 1, place.above)):
            self.learn(slice(None), everyone, node, seen, column(seen, slice(None)) - value)

    def open(self) -> Any:
        """Points whose crossing is not yet between two neighbours, the places before the first and behind the last among
        them."""
        return self.high - self.low > 1

    def next(self, at: Any, guess: Floats, slope: Floats, stride: Floats, halve: bool) -> Floats:
        """The node to look at next: by secant between two, by slope from one, the guess from none."""
        low, high, off_low, off_high = self.low[at], self.high[at], self.off_low[at], self.off_high[at]
        known_low, known_high = low >= 0, high <= self.last
        both = known_low & known_high
        if halve:
            between = (low + high) / 2.0
        else:
            with np.errstate(divide="ignore", invalid="ignore"):
                between = low + (high - low) * off_low / (off_low - off_high)
        if both.all():
            return floats(between)
        up, down = np.maximum(-off_low / slope[at], stride[at]), np.maximum(off_high / slope[at], stride[at])
        tried = np.where(known_low, low + up, np.where(known_high, high - down, guess[at]))
        return floats(np.where(both, between, tried))

    def learn(self, at: Any, active: Index, node: Index, seen: Floats, off: Floats) -> None:
        """Take in a node a point: its columns, and how far it is off."""
        if self.below.shape[0] == 0:
            shape = (seen.shape[0], self.low.size)
            self.below, self.above = np.zeros(shape), np.zeros(shape)
        under, over = (off < 0) & (node > self.low[at]), (off >= 0) & (node < self.high[at])
        sides = ((under, self.below, self.low, self.off_low), (over, self.above, self.high, self.off_high))
        for side, columns, nodes, offs in sides:
            if isinstance(at, slice):
                np.copyto(columns, seen, where=side)
                np.copyto(nodes, node, where=side)
                np.copyto(offs, off, where=side)
            else:
                of = active[side]
                nodes[of], offs[of], columns[:, of] = node[side], off[side], seen[:, side]

    def place(self, at_points: Callable[[Any], Nodes]) -> Walked:
        """The places found; before the first node and behind the last, those hold."""
        share = share_between(self.off_low, self.off_high)
        for at, node, other, kept, fresh in (
            (np.flatnonzero(self.low < 0), 0, 1, self.above, self.below),
            (np.flatnonzero(self.high > self.last), self.last - 1, self.last - 1, self.below, self.above),
        ):
            if at.size:
                columns = at_points(at).nodes(np.full((1, at.size), other))[:, 0]
                fresh[:, at] = kept[:, at]
                kept[:, at] = columns
                self.low[at], share[at] = node, 0.0 if node == 0 else 1.0
        return Walked(self.low, share, self.below, self.above)
