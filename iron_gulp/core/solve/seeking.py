"""The two sides of the rail as points see them: where a column crosses a value, for many points at once.

Few systems: their curves are tabulated whole and searched. Many systems with few points each: only the nodes that the
search needs are worked out. Both find the same place between the same two nodes.
"""

from collections.abc import Callable
from functools import cached_property
from typing import Any, Protocol

import numpy as np

from ..physics import Floats, Stack, floats
from .curves import FLOOR, FLOW, LAST, NODES, RAIL, Index, ReturnSide, SupplySide
from .places import Column, Place, Tabled, Walked, share_between, walk

_NEWTON = 4  # steps towards a starved rail before the nodes beside it are looked at
Height = Callable[[Floats, Floats, Any], Floats]


class Back(Protocol):
    """The return side as points see it."""

    def read(self, bypass_m3_s: Floats, columns: tuple[int, ...], only: Any = None) -> list[Floats]:
        """Columns of the return side at bypassed flows of every point, or of `only` some."""


class Supply(Protocol):
    """The supply side as points see it. `only` some points may be asked for; values are then those points' own."""

    def most_m3_s(self) -> Floats:
        """What the pumps bring against nothing, one a system."""

    def find(self, column: Column, value: Floats, start: Any = None) -> Any:
        """The place where a rising column in kPa crosses a value."""

    def shut(self, flow_m3_s: Floats, only: Index | None = None) -> Any:
        """The place where the pumps bring just this flow."""

    def floor(self, back: Any, taken: Floats, start: Any, only: Index) -> Any:
        """The place where pump flow less what is taken (of all points) is just what the return side passes there.

        `start` holds places below, for `only` some points as the answer does.
        """

    def sunk(self, slope: Floats, manifold: Floats, only: Index) -> Any:
        """The nodes between which `slope (rail − manifold)` crosses the square of the flow; arrays of all points."""


def _rail(columns: Floats, _at: Any) -> Floats:
    return floats(columns[RAIL])


def _less_flow(columns: Floats, _at: Any) -> Floats:
    return floats(-columns[FLOW])


class TabledSupply:
    """Supply sides tabulated: table (columns, nodes, systems); `row` is the points' system, None for a single one."""

    def __init__(self, table: Floats, row: Index | None):
        self.table, self.row = table, row

    def _row(self, only: Any) -> Index | None:
        return self.row if only is None or self.row is None else self.row[only]

    def most_m3_s(self) -> Floats:
        return floats(self.table[FLOW, 0])

    def find(self, column: Column, value: Floats, start: Any = None) -> Tabled:
        return self._find(column, value, None)

    def shut(self, flow_m3_s: Floats, only: Index | None = None) -> Tabled:
        return self._find(_less_flow, floats(-flow_m3_s), only)

    def floor(self, back: "TabledBack", taken: Floats, start: Any, only: Index) -> Tabled:
        def unspilled(columns: Floats, at: Any) -> Floats:
            return floats(back.passes_m3_s(floats(columns[RAIL]), at) - columns[FLOW])

        return self._find(unspilled, floats(-taken[only]), only)

    def sunk(self, slope: Floats, manifold: Floats, only: Index) -> Tabled:
        slope, manifold = slope[only], manifold[only]
        row: Any = self._row(only) if self.row is not None else np.zeros(only.size, dtype=np.int64)
        rails, flows = self.table[RAIL], self.table[FLOW]

        def off(node: Index) -> Floats:
            return floats(slope * (rails[node, row] - manifold) - flows[node, row] ** 2)

        low = self._newton(slope, manifold) if self.row is None else np.zeros(only.size, dtype=np.int64)
        high = low + 1
        under, over = off(low) < 0, off(high) >= 0
        if not (under & over).all():
            low = np.where(under, low, 0)
            high = np.where(over, high, LAST)
            while np.any(high - low > 1):
                middle = (low + high) // 2
                above = off(middle) >= 0
                high = np.where(above, np.maximum(middle, low + 1), high)  # the last segment keeps its width
                low = np.where(above, low, middle)
        return Tabled(self.table, None if self.row is None else row, low, np.zeros(only.size))

    def _newton(self, slope: Floats, manifold: Floats) -> Index:
        """Nodes close below the crossing, by Newton's steps on the one curve."""
        rails, flows = self.table[RAIL, :, 0], self.table[FLOW, :, 0]
        fall = np.diff(flows) / np.diff(rails)
        rail = np.maximum(manifold, rails[0])
        for _ in range(_NEWTON):
            low = np.clip(np.searchsorted(rails, rail) - 1, 0, LAST - 1)
            steep = fall.take(low)
            flow = flows.take(low) + (rail - rails.take(low)) * steep
            rail = rail - (slope * (rail - manifold) - flow**2) / (slope - 2.0 * flow * steep)
        return np.clip(np.searchsorted(rails, rail) - 1, 0, LAST - 1)

    def _find(self, column: Column, value: Floats, only: Index | None) -> Tabled:
        row = self._row(only)
        if row is None:
            line = column(self.table[:, :, 0], slice(None) if only is None else only)
            low = np.minimum(np.maximum(np.searchsorted(line, value), 1), line.size - 1) - 1
            share = share_between(floats(line.take(low) - value), floats(line.take(low + 1) - value))
            return Tabled(self.table, None, low, share)
        lines = column(self.table[:, :, row], slice(None) if only is None else only)
        low = np.clip((lines < value).sum(axis=0), 1, lines.shape[0] - 1) - 1
        points = np.arange(value.size)
        share = share_between(floats(lines[low, points] - value), floats(lines[low + 1, points] - value))
        return Tabled(self.table, row, low, share)


class TabledBack:
    """Return sides tabulated: table (columns, nodes, systems), bypass from node to node `step_m3_s` a system."""

    def __init__(self, table: Floats, step_m3_s: Floats, row: Index | None):
        self.table, self.step_m3_s, self.row = table, step_m3_s, row

    def passes_m3_s(self, rail_kpa: Floats, at: Any) -> Floats:
        """Bypass that the wide-open regulator and return line let through at a rail pressure, m³/s.

        `rail_kpa` of shape (nodes,) for a single system, (nodes, points) for the points at positions `at`.
        """
        grid = np.arange(NODES)
        if self.row is None:
            return floats(np.interp(rail_kpa, self.table[FLOOR, :, 0], grid * self.step_m3_s[0]))
        found = np.empty(rail_kpa.shape)
        for point, of in enumerate(self.row[at]):
            found[:, point] = np.interp(rail_kpa[:, point], self.table[FLOOR, :, of], grid * self.step_m3_s[of])
        return floats(found)

    def read(self, bypass_m3_s: Floats, columns: tuple[int, ...], only: Any = None) -> list[Floats]:
        row = self.row if only is None or self.row is None else self.row[only]
        at = bypass_m3_s / (self.step_m3_s[0] if row is None else self.step_m3_s[row])
        low = np.minimum(at, NODES - 2).astype(np.int64)
        place = Tabled(self.table, row, low, floats(np.minimum(at - low, 1.0)))
        return [place.column(number) for number in columns]


class WalkedSupply:
    """Supply sides worked out node by node, one a point."""

    def __init__(self, side: SupplySide):
        self.side = side

    @cached_property
    def _stack(self) -> Stack:
        return Stack(self.side, self.side.size)

    @cached_property
    def _first(self) -> Floats:
        return floats(self.side.nodes(np.zeros((1, self.side.size)))[:, 0])

    def most_m3_s(self) -> Floats:
        return floats(self._first[FLOW])

    def find(self, column: Column, value: Floats, start: Any = None) -> Walked:
        step = self.side.step_kpa
        # Losses at a likely flow: half of what they are with the pumps free.
        lost = 0.5 * np.maximum(-self._first[RAIL], 0.0)
        guess = floats(np.clip((value + lost) / step, 0, NODES - 1)) if start is None else floats(start.low)
        return self._walk(column, value, guess, floats(1.05 * step), start, None)

    def shut(self, flow_m3_s: Floats, only: Index | None = None) -> Walked:
        first = np.maximum(self.most_m3_s() if only is None else self.most_m3_s()[only], 1e-12)
        share = np.sqrt(np.clip(1.0 - flow_m3_s / first, 0.0, 1.0))
        guess = floats(share * (NODES - 1))
        return self._walk(_less_flow, floats(-flow_m3_s), guess, floats(first / NODES), None, only)

    def floor(self, back: "WalkedBack", taken: Floats, start: Walked, only: Index) -> Walked:
        def clear(columns: Floats, at: Any) -> Floats:
            """How far the rail stands above the floor at the flow then spilled."""
            spilled = floats(np.maximum(columns[FLOW] - taken[at], 0.0))
            return floats(columns[RAIL] - back.read(spilled, (FLOOR,), at)[0])

        # Newton's step from the place below: the floor falls as the pumps bring less.
        (rail, further), (flow, less) = start.ends(RAIL), start.ends(FLOW)
        spilled = floats(np.maximum(start.column(FLOW) - taken[only], 1e-12))
        lowest = back.read(spilled, (FLOOR,), only)[0]
        steep = 2.0 * lowest / spilled * np.maximum(flow - less, 0.0) / np.maximum(further - rail, 1e-12)
        step = self.side.step_kpa[only]
        rise = np.maximum(lowest - start.column(RAIL), 0.0) / (1.0 + steep)
        guess = floats(np.clip(start.low + rise / step, 0, NODES - 1))
        slope = floats(1.05 * step * (1.0 + steep))
        place = self._walk(clear, floats(np.zeros(only.size)), guess, slope, None, only)
        ends = [
            floats(back.passes_m3_s(rail, only, floats(np.maximum(flow - taken[only], 0.0))) - flow + taken[only])
            for rail, flow in zip(place.ends(RAIL), place.ends(FLOW), strict=True)
        ]
        inside = (ends[0] < 0) & (ends[1] > 0)
        return place.moved(floats(np.where(inside, share_between(*ends), place.share)))

    def sunk(self, slope: Floats, manifold: Floats, only: Index) -> Walked:
        def column(columns: Floats, at: Any) -> Floats:
            return floats(slope[at] * (columns[RAIL] - manifold[at]) - columns[FLOW] ** 2)

        guess = floats(np.clip(manifold[only] / self.side.step_kpa[only] + NODES / 8, 0, NODES - 1))
        steep = floats(1.2 * slope[only] * self.side.step_kpa[only])
        return self._walk(column, floats(np.zeros(only.size)), guess, steep, None, only)

    def _walk(
        self,
        column: Column,
        value: Floats,
        guess: Floats,
        slope: Floats,
        start: Walked | None,
        only: Index | None,
    ) -> Walked:
        """Columns are asked for with the points' positions among all points."""
        positions = np.arange(self.side.size) if only is None else only

        def at_points(at: Any) -> SupplySide:
            if isinstance(at, slice) and only is None:
                return self.side
            found: SupplySide = self._stack.take(positions[at])
            return found

        return walk(at_points, LAST, lambda columns, at: column(columns, positions[at]), value, guess, slope, start)


class WalkedBack:
    """Return sides worked out node by node, one a point."""

    def __init__(self, side: ReturnSide):
        self.side = side

    @cached_property
    def _stack(self) -> Stack:
        return Stack(self.side, self.side.most_m3_s.shape[-1])

    def _at(self, only: Any) -> ReturnSide:
        found: ReturnSide = self.side if only is None else self._stack.take(only)
        return found

    def passes_m3_s(self, rail_kpa: Floats, only: Index, expected_m3_s: Floats) -> Floats:
        """Bypass that the wide-open regulator and return line let through at a rail pressure, near `expected`, m³/s."""
        side = self._at(only)
        step = side.step_m3_s()
        guess = floats(np.clip(expected_m3_s / step, 0.0, NODES - 2.0))
        slope = floats(np.maximum(rail_kpa / np.maximum(guess, 1.0), 1e-6))

        def at_points(at: Any) -> ReturnSide:
            return side if isinstance(at, slice) else self._at(only[at])

        def column(columns: Floats, _at: Any) -> Floats:
            return floats(columns[FLOOR])

        place = walk(at_points, NODES - 1, column, rail_kpa, guess, slope)
        return floats((place.low + place.share) * step)

    def read(self, bypass_m3_s: Floats, columns: tuple[int, ...], only: Any = None) -> list[Floats]:
        side = self._at(only)
        at = bypass_m3_s / side.step_m3_s()
        low = np.minimum(np.floor(at), NODES - 2.0)
        pair = side.nodes(np.array([low, low + 1.0]))
        share = np.minimum(at - low, 1.0)
        return [floats(pair[number, 0] + share * (pair[number, 1] - pair[number, 0])) for number in columns]


__all__ = ["Back", "Place", "Supply", "TabledBack", "TabledSupply", "WalkedBack", "WalkedSupply"]
