"""A case for the arrangements: points with the systems they belong to, and what is found there."""

from dataclasses import dataclass, replace
from enum import IntEnum
from typing import Any

import numpy as np
from numpy.typing import NDArray

from ..physics import Floats, floats, mapped, take
from .curves import Drive, ReturnSide, SupplySide
from .feeding import Taking
from .high_side import HighAt
from .pipes import FluidState
from .pump_curves import Index
from .seeking import TabledBack, TabledSupply, WalkedBack, WalkedSupply
from .systems import Systems, port_most_kpa
from .tables import return_table, supply_table


class State(IntEnum):
    """What the regulator is doing at a point."""

    REGULATING = 0
    OVERRUN = 1
    STARVED = 2
    NO_DIFFERENTIAL = 3


@dataclass(frozen=True)
class Case:
    """Points and the systems they belong to.

    `systems` and `drive` are those of the curves: one a row. `row` says which row a point belongs to where curves are
    tabulated; None where every point has a row of its own. `at` holds the systems as the points see them. Arrays of
    shape (points,): `meant_dp` is the differential meant by the set pressure `set_kpa`,
    `taken` the fuel taken at it: what is `wanted`, or what injectors held open pass there (`open_limit`), all m³/s.
    """

    systems: Systems
    drive: Drive
    row: Index | None
    at: Systems
    fluid: FluidState
    manifold: Floats
    set_kpa: Floats
    meant_dp: Floats
    taken: Floats
    wanted: Floats
    open_limit: Floats
    metered: Floats
    high: HighAt | None = None

    def supply(self, with_feed: bool = True, speed: Floats | None = None) -> Any:
        """The supply side, at a share of full speed."""
        drive = self.drive if speed is None else self.at_speed(speed)
        if self.row is None:
            return WalkedSupply(SupplySide.of(self.systems, drive, with_feed))
        return TabledSupply(supply_table(self.systems, drive, with_feed), self._tabled_row)

    def back(self, supply: Any) -> Any:
        """The return side, up to all the pumps can bring."""
        side = ReturnSide(self.systems.back, floats(supply.most_m3_s() * 1.05), self.drive.fluid)
        if self.row is None:
            return WalkedBack(side)
        return TabledBack(return_table(side), side.step_m3_s(), self._tabled_row)

    def at_speed(self, speed: Floats) -> Drive:
        """What drives the pumps at a share of full speed."""
        return replace(self.drive, speed=floats(speed + 0.0 * self.drive.supply_v))

    def of(self, only: Index) -> "Case":
        """Some of the points, each with a curve of its own."""
        of = only if self.row is None else self.row[only]
        drive = mapped(take(self.drive, of), lambda array: np.broadcast_to(array, (*array.shape[:-1], only.size)).copy())
        systems, fluid = take(self.at, only), take(self.fluid, only)
        manifold, set_kpa, meant_dp, taken, wanted, opened, metered = (one[only] for one in self._points())
        boosted = any(group.boosting for group in systems.groups)
        row = np.arange(only.size) if boosted else None
        high = None if self.high is None else take(self.high, only)
        points = (manifold, set_kpa, meant_dp, taken, wanted, opened, metered)
        return Case(systems, drive, row, systems, fluid, *points, high)

    def _points(self) -> tuple[Floats, ...]:
        return self.manifold, self.set_kpa, self.meant_dp, self.taken, self.wanted, self.open_limit, self.metered

    @property
    def draws(self) -> NDArray[np.bool_]:
        """Where anything can be taken at all: by a high side, or with differential pressure."""
        return self.meant_dp > 0 if self.high is None else (self.meant_dp > 0) | (self.high.wanted_kg_s > 0)

    def taking(self, meant_kpa: Floats | None = None) -> Taking:
        """What a high side takes, and the port side beside it. Raises AssertionError without one."""
        assert self.high is not None
        meant = self.meant_dp if meant_kpa is None else meant_kpa
        return Taking(self.high, self.taken, self.metered, port_most_kpa(self.at, self.manifold), self.manifold, meant)

    @property
    def _tabled_row(self) -> Index | None:
        return None if self.drive.supply_v.size == 1 else self.row


@dataclass(frozen=True)
class Solved:
    """What an arrangement finds: arrays of shape (points,), `columns` are those of the supply side.

    `meant_kpa` is the differential pressure at the engine that pulses are meant for, pumps sufficing.
    """

    state: NDArray[np.int64]
    rail_kpa: Floats
    supply_m3_s: Floats
    delivered_m3_s: Floats
    bypass_m3_s: Floats
    return_kpa: Floats
    floor_kpa: Floats
    supply_at_set_m3_s: Floats
    speed: Floats
    meant_kpa: Floats
    asked_kpa: Floats
    columns: list[Floats]

    def arrays(self) -> list[Floats]:
        """Every array, the columns last."""
        return [*(getattr(self, name) for name in _SINGLE), *self.columns]

    @classmethod
    def of(cls, arrays: list[Floats]) -> "Solved":
        """From arrays in that order."""
        single: dict[str, Any] = dict(zip(_SINGLE, arrays[: len(_SINGLE)], strict=True))
        return cls(**single, columns=arrays[len(_SINGLE) :])


_SINGLE = tuple(name for name in Solved.__dataclass_fields__ if name != "columns")
