"""The two sides of the rail as points see them: where a column crosses a value, for many points at once.

Few systems: their curves are tabulated whole and searched. Many systems with few points each: only the nodes that the
search needs are worked out. Both find the same place between the same two nodes.
"""

from functools import cached_property
from typing import Any, Protocol

import numpy as np

from ..physics import Floats, Stack, floats
from .curves import FLOOR, FLOW, LAST, RAIL, ReturnSide, SupplySide
from .places import Column, Place, Table, Tabled, Walked, share_between, walk
from .pump_curves import NODES, Index

_NEWTON = 2  # steps towards a starved rail before the nodes beside it are looked at


class Back(Protocol):
    """The return side as points see it."""

    def read(self, bypass_m3_s: Floats, columns: tuple[int, ...], only: Any = None) -> list[Floats]:
        """Columns of the return side at bypassed flows of every point, or of `only` some."""


class Supply(Protocol):
    """The supply side as points see it. `only` some points may be asked for; values are then those points' own."""

    def most_m3_s(self) -> Floats:
        """What the pumps bring against nothing, one a system."""

    def find(self, column: Column, value: Floats, start: Any = None, only: Index | None = None) -> Any:
        """The place where a rising column in kPa crosses a value."""

    def shut(self, flow_m3_s: Floats, only: Index | None = None) -> Any:
        """The place where the pumps bring just this flow."""

    def floor(self, back: Any, taken: Floats, start: Any, only: Index) -> Any:
        """The place where pump flow less what is taken (of all points) is just what the return side passes there.

        `start` holds places below, for `only` some points as the answer does.
        """

    def sunk(self, slope: Floats, manifold: Floats, flow_m3_s: Floats, only: Index) -> Any:
        """The nodes between which `slope (rail − manifold)` crosses the flow squared, near a flow; arrays of all."""


def _rail(columns: Floats, _at: Any) -> Floats:
    return floats(columns[RAIL])


def _less_flow(columns: Floats, _at: Any) -> Floats:
    return floats(-columns[FLOW])


class TabledSupply:
    """Supply sides tabulated; `row` is the points' system, None for a single one."""

    def __init__(self, table: Table, row: Index | None):
        self.table, self.row = table, row

    def _row(self, only: Any) -> Index | None:
        return self.row if only is None or self.row is None else self.row[only]

    def most_m3_s(self) -> Floats:
        """The most every system's pumps deliver, m³/s."""
        return floats(self.table.values[FLOW, :: self.table.nodes])

    def find(self, column: Column, value: Floats, start: Any = None, only: Index | None = None) -> Tabled:
        """Where a column has a value."""
        return self._find(column, value, only)

    def shut(self, flow_m3_s: Floats, only: Index | None = None) -> Tabled:
        """Where the pumps deliver what is taken and nothing goes back."""
        return self._find(_less_flow, floats(-flow_m3_s), only)

    def floor(self, back: "TabledBack", taken: Floats, start: Any, only: Index) -> Tabled:
        """Where the return, passing all that is left, holds the rail up."""

        def unspilled(columns: Floats, _systems: Any) -> Floats:
            return floats(back.passes_m3_s(floats(columns[RAIL])) - columns[FLOW])

        return self._find(unspilled, floats(-taken[only]), only)

    def sunk(self, slope: Floats, manifold: Floats, flow_m3_s: Floats, only: Index) -> Tabled:
        """Where a rail that sinks feeds what open injectors still take."""
        slope, manifold, row = slope[only], manifold[only], self._row(only)
        rails, flows = self.table.values[RAIL], self.table.values[FLOW]

        def off(node: Index) -> Floats:
            return floats(slope * (rails.take(node) - manifold) - flows.take(node) ** 2)

        low = self._newton(slope, manifold, flow_m3_s[only], row)
        under, over = off(low) < 0, off(low + 1) >= 0
        astray = np.flatnonzero(~(under & over))
        if astray.size:
            low[astray] = self._halved(slope[astray], manifold[astray], None if row is None else row[astray])
        return Tabled(self.table, low, np.zeros(only.size))

    def _newton(self, slope: Floats, manifold: Floats, flow: Floats, row: Index | None) -> Index:
        """Nodes close below the crossing, by Newton's steps along the curve."""
        table = self.table
        (rails, flows), (rises, falls) = table.values[[RAIL, FLOW]], table.steps[[RAIL, FLOW]]
        steepness = falls / np.maximum(rises, 1e-12)
        rail = floats(manifold + flow**2 / slope)
        for _ in range(_NEWTON):
            low = table.below(rails, rail, row)
            steep = steepness.take(low)
            flow = flows.take(low) + (rail - rails.take(low)) * steep
            rail = floats(rail - (slope * (rail - manifold) - flow**2) / (slope - 2.0 * flow * steep))
        return table.below(rails, rail, row)

    def _halved(self, slope: Floats, manifold: Floats, row: Index | None) -> Index:
        first = np.zeros(slope.size, dtype=np.int64) if row is None else row * self.table.nodes
        low, high = first, first + LAST
        rails, flows = self.table.values[RAIL], self.table.values[FLOW]
        while np.any(high - low > 1):
            middle = (low + high) // 2
            above = slope * (rails[middle] - manifold) >= flows[middle] ** 2
            high = np.where(above, np.maximum(middle, low + 1), high)  # the last segment keeps its width
            low = np.where(above, low, middle)
        return low

    def _find(self, column: Column, value: Floats, only: Index | None) -> Tabled:
        line = column(self.table.values, self.table.system_of_node)
        low = self.table.below(line, value, self._row(only))
        return Tabled(self.table, low, share_between(line.take(low) - value, line.take(low + 1) - value))


class TabledBack:
    """Return sides tabulated; bypass from node to node `step_m3_s` a system."""

    def __init__(self, table: Table, step_m3_s: Floats, row: Index | None):
        self.table, self.step_m3_s, self.row = table, step_m3_s, row

    def passes_m3_s(self, rail_kpa: Floats) -> Floats:
        """Bypass that the wide-open regulator and return line let through at rails of every system in turn."""
        grid, floors = np.arange(NODES), self.table.values[FLOOR].reshape(self.table.systems, -1)
        rails = rail_kpa.reshape(self.table.systems, -1)
        each = zip(rails, floors, self.step_m3_s, strict=True)
        return np.concatenate([np.interp(rail, floor, grid * step) for rail, floor, step in each])

    def read(self, bypass_m3_s: Floats, columns: tuple[int, ...], only: Any = None) -> list[Floats]:
        """Columns of the way back at a bypass flow, m³/s."""
        row = self.row if only is None or self.row is None else self.row[only]
        at = bypass_m3_s / (self.step_m3_s[0] if row is None else self.step_m3_s[row])
        low = np.minimum(at, NODES - 2).astype(np.int64)
        share = floats(np.minimum(at - low, 1.0))
        place = Tabled(self.table, low if row is None else low + row * NODES, share)
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
        return floats(self.side.nodes(np.zeros((1, self.side.size), dtype=np.int64))[:, 0])

    def most_m3_s(self) -> Floats:
        """The most every system's pumps deliver, m³/s."""
        return floats(self._first[FLOW])

    def find(self, column: Column, value: Floats, start: Any = None, only: Index | None = None) -> Walked:
        """Where a column has a value."""
        at: Any = slice(None) if only is None else only
        step = self.side.step_kpa[at]
        # Losses at a likely flow: half of what they are with the pumps free.
        lost = 0.5 * np.maximum(-self._first[RAIL], 0.0)[at]
        guess = floats(np.clip((value + lost) / step, 0, NODES - 1)) if start is None else floats(start.low)
        return self._walk(column, value, guess, floats(1.05 * step), start, only)

    def shut(self, flow_m3_s: Floats, only: Index | None = None) -> Walked:
        """Where the pumps deliver what is taken and nothing goes back."""
        first = np.maximum(self.most_m3_s() if only is None else self.most_m3_s()[only], 1e-12)
        share = np.sqrt(np.clip(1.0 - flow_m3_s / first, 0.0, 1.0))
        guess = floats(share * (NODES - 1))
        return self._walk(_less_flow, floats(-flow_m3_s), guess, floats(first / NODES), None, only)

    def floor(self, back: "WalkedBack", taken: Floats, start: Walked, only: Index) -> Walked:
        """Where the return, passing all that is left, holds the rail up."""

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

    def sunk(self, slope: Floats, manifold: Floats, flow_m3_s: Floats, only: Index) -> Walked:
        """Where a rail that sinks feeds what open injectors still take."""

        def column(columns: Floats, at: Any) -> Floats:
            return floats(slope[at] * (columns[RAIL] - manifold[at]) - columns[FLOW] ** 2)

        rail = manifold[only] + flow_m3_s[only] ** 2 / slope[only]
        lost = 0.5 * np.maximum(-self._first[RAIL], 0.0)[only]
        guess = floats(np.clip((rail + lost) / self.side.step_kpa[only], 0, NODES - 1))
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
        """Columns of the way back at a bypass flow, m³/s."""
        side = self._at(only)
        at = bypass_m3_s / side.step_m3_s()
        low = np.minimum(np.floor(at), NODES - 2.0)
        pair = side.nodes(np.array([low, low + 1.0]))
        share = np.minimum(at - low, 1.0)
        return [floats(pair[number, 0] + share * (pair[number, 1] - pair[number, 0])) for number in columns]


__all__ = ["Back", "Place", "Supply", "TabledBack", "TabledSupply", "WalkedBack", "WalkedSupply"]
