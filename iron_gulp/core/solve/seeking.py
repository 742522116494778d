"""Finding places on characteristics: where a column crosses a value, for many points at once.

Few systems: their curves are tabulated whole and searched. Many systems with few points each: only the nodes that the
search needs are worked out, by secants on the node number. Both find the same place between the same two nodes.
"""

from collections.abc import Callable
from dataclasses import dataclass
from typing import Any, Protocol

import numpy as np

from ..physics import KPA, Floats, floats, take
from .curves import FLOOR, FLOW, LAST, NODES, RAIL, Index, ReturnSide, SupplySide

Column = Callable[[Floats, Any], Floats]
"""From node columns (columns, …, points) and the points' positions to what is compared with the value sought."""

Height = Callable[[Floats, Floats, Any], Floats]
"""From rail (kPa), flow (m³/s) and the points' positions to a height that rises with the rail."""

_PATIENCE = 5  # secants before halving
MANY_NODES = 12  # systems whose curves are cheaper whole than node by node


@dataclass(frozen=True)
class Place:
    """Where something lies: between nodes `low` and `low + 1` at `share`, with the node columns (columns, points)."""

    low: Index
    share: Floats
    below: Floats
    above: Floats

    def read(self) -> Floats:
        """Every column there, shape (columns, points)."""
        return floats(self.below + self.share * (self.above - self.below))

    def column(self, number: int) -> Floats:
        """One column there."""
        return floats(self.below[number] + self.share * (self.above[number] - self.below[number]))

    def replaced(self, at: Any, other: "Place") -> "Place":
        """This place with the points `at` moved to `other`, which holds just those."""
        low, share, below, above = self.low.copy(), self.share.copy(), self.below.copy(), self.above.copy()
        low[at], share[at], below[:, at], above[:, at] = other.low, other.share, other.below, other.above
        return Place(low, share, below, above)

    def part(self, at: Any) -> "Place":
        """Only the points `at`."""
        return Place(self.low[at], self.share[at], self.below[:, at], self.above[:, at])


def _share(below: Floats, above: Floats) -> Floats:
    """Where a rising straight line from `below` to `above` crosses nothing, within 0 and 1."""
    with np.errstate(divide="ignore", invalid="ignore"):
        return floats(np.clip(np.where(above > below, -below / (above - below), 0.0), 0.0, 1.0))


class Nodes(Protocol):
    """Something with node columns by node number, for each point."""

    def nodes(self, index: Index) -> Floats: ...


def seek(
    at_points: Callable[[Any], Nodes],
    last: int,
    column: Column,
    value: Floats,
    guess: Floats,
    slope: Floats,
    start: Place | None = None,
) -> Place:
    """The place where a rising column crosses `value`, working out as few nodes as possible.

    `at_points` gives the node columns of some of the points; `guess` and `slope` (column a node) start the search. A
    `start` place that already holds the crossing costs nothing.
    """
    size = value.size
    low, high = np.full(size, -1), np.full(size, last + 1)
    off_low, off_high = np.full(size, -np.inf), np.full(size, np.inf)
    below: Floats | None = None
    above: Floats | None = None
    if start is not None:
        below, above = start.below.copy(), start.above.copy()
        for number, columns in ((start.low, below), (start.low + 1, above)):
            off = column(columns, slice(None)) - value
            under, over = (off < 0) & (number > low), (off >= 0) & (number < high)
            low, off_low = np.where(under, number, low), np.where(under, off, off_low)
            high, off_high = np.where(over, number, high), np.where(over, off, off_high)
        # Where both nodes lie on one side the nearer one is kept on that side.
        both_under, both_over = low == start.low + 1, high == start.low
        below[:, both_under] = above[:, both_under]
        above[:, both_over] = start.below[:, both_over]
    stride = np.ones(size)
    for turn in range(3 * NODES):
        open_ = high - low > 1
        edge = (low < 0) & (high == 0) | (low == last) & (high > last)
        active = np.flatnonzero(open_ & ~edge)
        if active.size == 0:
            break
        whole = active.size == size
        at: Any = slice(None) if whole else active
        lo, hi, off_lo, off_hi = low[at], high[at], off_low[at], off_high[at]
        known_lo, known_hi = lo >= 0, hi <= last
        with np.errstate(divide="ignore", invalid="ignore"):
            between = lo + (hi - lo) * off_lo / (off_lo - off_hi)
            up = lo + np.maximum(-off_lo / slope[at], stride[at])
            down = hi - np.maximum(off_hi / slope[at], stride[at])
        tried = np.where(known_lo & known_hi, between, np.where(known_lo, up, np.where(known_hi, down, guess[at])))
        if turn >= _PATIENCE and turn % 2:
            tried = np.where(known_lo & known_hi, (lo + hi) / 2.0, tried)
        tried = np.where(np.isfinite(tried), tried, (lo + hi) / 2.0)
        node = np.clip(np.floor(tried), np.maximum(lo + 1, 0), np.minimum(hi - 1, last)).astype(np.int64)
        stride[at] = np.where(known_lo & known_hi, 1.0, stride[at] * 2.0)
        columns = at_points(at).nodes(node)
        off = column(columns, at) - value[at]
        if below is None or above is None:
            below, above = np.zeros((columns.shape[0], size)), np.zeros((columns.shape[0], size))
        under = off < 0
        if whole:
            low, high = np.where(under, node, low), np.where(under, high, node)
            off_low, off_high = np.where(under, off, off_low), np.where(under, off_high, off)
            np.copyto(below, columns, where=under)
            np.copyto(above, columns, where=~under)
        else:
            yes, no = active[under], active[~under]
            low[yes], off_low[yes], below[:, yes] = node[under], off[under], columns[:, under]
            high[no], off_high[no], above[:, no] = node[~under], off[~under], columns[:, ~under]
    assert below is not None
    assert above is not None
    under_all, over_all = np.flatnonzero(low < 0), np.flatnonzero(high > last)
    share = _share(off_low, off_high)
    if under_all.size:  # below the first node: it holds
        low[under_all], share[under_all] = 0, 0.0
        below[:, under_all] = above[:, under_all]
        above[:, under_all] = at_points(under_all).nodes(np.ones(under_all.size, dtype=np.int64))
    if over_all.size:  # beyond the last: it holds
        low[over_all], share[over_all] = last - 1, 1.0
        above[:, over_all] = below[:, over_all]
        below[:, over_all] = at_points(over_all).nodes(np.full(over_all.size, last - 1))
    return Place(low, share, below, above)


@dataclass(frozen=True)
class Supply:
    """The supply side seen by points: `row` says which system of a table is a point's; without one each has its own."""

    side: SupplySide
    row: Index | None = None
    table: Floats | None = None

    def columns_at(self, number: int) -> Floats:
        """Columns of one node at every point, shape (columns, points)."""
        if self.table is None:
            return self.side.nodes(np.full(self.side.drive.supply_v.shape[-1], number))
        return floats(self.table[:, number][:, self.row])

    def find(self, column: Column, value: Floats, start: Place | None = None, only: Any = None) -> Place:
        """The place where a rising column crosses a value, at all points or `only` some (values for just those)."""
        where: Any = slice(None) if only is None else only
        if self.table is not None:
            assert self.row is not None
            return _search(self.table, self.row[where], column, value, where)
        step = floats(self.side.top_kpa()[where] / (NODES - 1))
        guess = floats(np.clip(value / step, 0, NODES - 1)) if start is None else floats(start.low)

        def at_points(at: Any) -> SupplySide:
            chosen = at if only is None else np.arange(self.side.drive.supply_v.shape[-1])[where][at]
            if isinstance(chosen, slice):
                return self.side
            return SupplySide(take(self.side.systems, chosen), take(self.side.drive, chosen), self.side.with_feed)

        def inner(columns: Floats, at: Any) -> Floats:
            return column(columns, at if only is None else np.arange(self.side.drive.supply_v.shape[-1])[where][at])

        return seek(at_points, LAST, inner, value, guess, floats(1.05 * step), start)

    def cross(self, height: Height, only: Index) -> Place:
        """The place where a height of rail, flow and point rises through nothing, at some points.

        For heights that differ from point to point in more than a constant: tabulated curves are halved node by node.
        """
        if self.table is None:
            return self.find(lambda columns, at: height(columns[RAIL], columns[FLOW], at), np.zeros(only.size), only=only)
        assert self.row is not None
        row = self.row[only] if self.table.shape[2] > 1 else np.zeros(only.size, dtype=np.int64)
        rail, flow = self.table[RAIL], self.table[FLOW]
        low, high = np.zeros(only.size, dtype=np.int64), np.full(only.size, LAST)
        while np.any(high - low > 1):
            middle = (low + high) // 2
            over = height(floats(rail[middle, row]), floats(flow[middle, row]), only) >= 0
            high = np.where(over, np.maximum(middle, low + 1), high)  # the last segment keeps its width
            low = np.where(over, low, middle)
        below, above = self.table[:, low, row], self.table[:, high, row]
        share = _share(height(below[RAIL], below[FLOW], only), height(above[RAIL], above[FLOW], only))
        return Place(low, share, floats(below), floats(above))


def _search(table: Floats, row: Index, column: Column, value: Floats, at: Any) -> Place:
    """The place on tabulated curves, shape (columns, nodes, systems)."""
    rows = table.shape[2]
    if rows == 1:
        line = column(table[:, :, 0], at)
        if line.ndim == 1:
            high = np.clip(np.searchsorted(line, value, side="left"), 1, line.size - 1)
            low = high - 1
            share = _share(floats(line[low] - value), floats(line[high] - value))
            flat = table[:, :, 0]
            return Place(low, share, flat.take(low, axis=1), flat.take(high, axis=1))
    lines = column(table[:, :, row], at)
    high = np.clip((lines < value).sum(axis=0), 1, lines.shape[0] - 1)
    low, points = high - 1, np.arange(value.size)
    share = _share(floats(lines[low, points] - value), floats(lines[high, points] - value))
    return Place(low, share, table[:, low, row], table[:, high, row])


@dataclass(frozen=True)
class Back:
    """The return side seen by points, as `Supply` is."""

    side: ReturnSide
    row: Index | None = None
    table: Floats | None = None

    def passes_m3_s(self, rail_kpa: Floats, at: Any) -> Floats:
        """Bypass that the wide-open regulator and return line let through at a rail pressure, m³/s.

        `rail_kpa` of shape (…, points); points at positions `at`, or the nodes of the one system tabulated.
        """
        if self.table is not None:
            assert self.row is not None
            step = self.side.step_m3_s()
            if self.table.shape[2] == 1:
                grid = np.arange(NODES) * step[0]
                return floats(np.interp(rail_kpa, self.table[FLOOR, :, 0], grid))
            rows = self.row[at]
            grid = np.arange(NODES)
            found = np.empty(rail_kpa.shape)
            for point, of in enumerate(rows):
                found[..., point] = np.interp(rail_kpa[..., point], self.table[FLOOR, :, of], grid * step[of])
            return floats(found)
        side = self._side(at)
        step = side.step_m3_s()
        bypass = np.sqrt(np.maximum(rail_kpa - side.back.tank_kpa, 0.0) * KPA / (2.0 * side.back.k_pa))

        def at_points(chosen: Any) -> ReturnSide:
            if isinstance(chosen, slice):
                return side
            return ReturnSide(take(side.back, chosen), take(side.most_m3_s, chosen), take(side.fluid, chosen))

        size = rail_kpa.shape[-1]
        guess = np.broadcast_to(np.minimum(bypass / step, NODES - 2), size)
        slope = np.maximum(np.broadcast_to(rail_kpa, size) / np.maximum(guess, 1.0), 1e-6)
        place = seek(at_points, NODES - 1, lambda columns, _: columns[FLOOR], rail_kpa, floats(guess), floats(slope))
        return floats((place.low + place.share) * step)

    def read(self, bypass_m3_s: Floats) -> Floats:
        """Floor, line and regulator drop at bypassed flows of every point, shape (3, points)."""
        step = self.side.step_m3_s()
        rows = step if self.table is None or self.table.shape[2] == 1 else step[self.row]
        at = bypass_m3_s / rows
        low = np.clip(np.floor(at), 0, NODES - 2).astype(np.int64)
        share = np.clip(at - low, 0.0, 1.0)
        if self.table is None:
            pair = self.side.nodes(np.array([low, low + 1]))
            return floats(pair[:, 0] + share * (pair[:, 1] - pair[:, 0]))
        of: Any = 0 if self.table.shape[2] == 1 else self.row
        below, above = self.table[:, low, of], self.table[:, low + 1, of]
        return floats(below + share * (above - below))

    def _side(self, at: Any) -> ReturnSide:
        if isinstance(at, slice):
            return self.side
        return ReturnSide(take(self.side.back, at), take(self.side.most_m3_s, at), take(self.side.fluid, at))
