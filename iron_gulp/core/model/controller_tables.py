"""The engine controller's own tables as read out of it: over engine speed, and over manifold pressure where it counts."""

from itertools import pairwise
from typing import Annotated, Literal, Self

import numpy as np
from numpy.typing import NDArray
from pydantic import Field, model_validator

from ..physics import Floats, Number, floats
from .days import Day
from .parts import Identifier, Model

Told = Literal["mixture", "volumetric efficiency", "boost", "rail pressure", "pump duty"]
# Lowest and highest value of a cell, in the unit kept: λ, %, kPa, kPa, %.
RANGES: dict[str, tuple[float, float]] = {
    "mixture": (0.4, 2.2),
    "volumetric efficiency": (5.0, 250.0),
    "boost": (-100.0, 600.0),
    "rail pressure": (0.0, 100_000.0),
    "pump duty": (0.0, 100.0),
}


class ControllerTable(Model):
    """A table row by row of manifold pressure (gauge, kPa), each over engine speed; one row where speed alone counts.

    `target` is the id of the one target it was made for, empty for all.
    """

    not_asked = ("id", "what", "target")

    id: Identifier
    what: Told
    target: str = Field("", max_length=32)
    day: Day = Field("", title="Read out")
    file: str = Field("", max_length=120, title="Calibration file")
    rpm: tuple[Annotated[float, Field(ge=0, le=30_000)], ...] = Field(min_length=1, max_length=64)
    load_kpa: tuple[Annotated[float, Field(ge=-105, le=800)], ...] = Field(min_length=1, max_length=64)
    cells: tuple[float, ...] = Field(min_length=1, max_length=4096)

    @model_validator(mode="after")
    def _consistent(self) -> Self:
        if len(self.cells) != len(self.rpm) * len(self.load_kpa):
            raise ValueError("a table has a cell for each engine speed in each row")
        for name, axis in (("engine speeds", self.rpm), ("manifold pressures", self.load_kpa)):
            if any(b <= a for a, b in pairwise(axis)):
                raise ValueError(f"{name} must rise along their axis")
        low, high = RANGES[self.what]
        if any(not low <= one <= high for one in self.cells):
            raise ValueError(f"cells of {self.what} lie from {low:g} to {high:g}")
        return self

    @property
    def rows(self) -> Floats:
        """Cells of shape (pressures, speeds)."""
        return floats(self.cells).reshape(len(self.load_kpa), len(self.rpm))

    def covers(self, rpm: float, manifold_kpa: float) -> bool:
        """Whether a point lies within the axes; an axis of one value covers everything along it."""
        speeds, loads = self.rpm, self.load_kpa
        inside = len(speeds) == 1 or speeds[0] <= rpm <= speeds[-1]
        return inside and (len(loads) == 1 or loads[0] <= manifold_kpa <= loads[-1])

    def at(self, rpm: Number, manifold_kpa: Number) -> Floats:
        """Values at points, linear between cells and held at the ends, as a controller reads it; shapes broadcast."""
        speed, load = np.broadcast_arrays(floats(rpm), floats(manifold_kpa))
        low, high, share = _between(self.load_kpa, floats(load))
        first, last, along = _between(self.rpm, floats(speed))
        rows = self.rows
        under = rows[low, first] * (1 - along) + rows[low, last] * along
        over = rows[high, first] * (1 - along) + rows[high, last] * along
        return floats(under * (1 - share) + over * share)


Index = NDArray[np.intp]


def _between(axis: tuple[float, ...], at: Floats) -> tuple[Index, Index, Floats]:
    """Positions on either side on an axis, and the share of the way between them."""
    if len(axis) == 1:
        nothing = np.zeros(at.shape, dtype=np.intp)
        return nothing, nothing, floats(np.zeros(at.shape))
    place = np.clip(np.searchsorted(axis, at, side="right") - 1, 0, len(axis) - 2)
    points = floats(axis)
    share = np.clip((at - points[place]) / (points[place + 1] - points[place]), 0.0, 1.0)
    return place, place + 1, floats(share)
