"""Power at which each component of an option runs out, along blends, engine speeds or base pressures, all in one set.

The lower edge of all of them is what the system carries. Loads at the target's own power come with them, for what does
not move with power and for the largest blend a target can run.
"""

from collections.abc import Sequence
from dataclasses import dataclass
from typing import Literal

import numpy as np
from numpy.typing import NDArray

from ..judge import (
    Cases,
    TargetVerdict,
    along_bases,
    along_blends,
    along_speeds,
    judge_rows,
    power_ceilings_kw,
    together,
)
from ..model import BOUNDS, LIMITS, POWER_LIMITS, RISING, Build, Component, Option, Target
from ..physics import Floats, floats

Axis = Literal["ethanol_pct", "rpm", "base_kpa"]
BLENDS = floats(np.linspace(0.0, 100.0, 101))
_ALONG = {"ethanol_pct": along_blends, "rpm": along_speeds, "base_kpa": along_bases}


@dataclass(frozen=True)
class Envelope:
    """Ceilings along an axis, kW as the target quotes its power; every array of shape (n,).

    `curves` holds each fuel component's ceiling (NaN where no power runs it out), `loads` every load at the target's own
    power. `air_kw` is what the air is expected to carry (NaN where boost rises with power), `compressor_kw` the
    compressor's ceiling (NaN where none is known). With boost rising every limit that moves with it is looked at.
    """

    axis: Axis
    rising: bool
    at: Floats
    curves: dict[Component, Floats]
    loads: dict[Component, Floats]
    air_kw: Floats
    compressor_kw: Floats

    @property
    def limit_kw(self) -> Floats:
        """The lower edge: what the fuel system carries; infinite where nothing limits it, 0 where it is starved."""
        return floats(np.nanmin(np.vstack([self._limits, np.full(self.at.size, np.inf)]), axis=0))

    @property
    def limiting(self) -> tuple[Component | None, ...]:
        """What sets the lower edge at each place."""
        rows, names = self._limits, self._names
        found = np.where(np.isnan(rows), np.inf, rows).argmin(axis=0)
        return tuple(None if np.isinf(limit) else names[at] for at, limit in zip(found, self.limit_kw, strict=True))

    @property
    def _names(self) -> tuple[Component, ...]:
        return tuple(one for one in self.curves if one in POWER_LIMITS or self.rising)

    @property
    def _limits(self) -> Floats:
        """Ceilings of what ends a power; 0 where a load is too much and no power would cure it."""
        rows = [
            np.where(np.isnan(self.curves[one]) & ~(self.loads[one] <= 1.0), 0.0, self.curves[one]) for one in self._names
        ]
        return floats(np.array(rows).reshape(len(rows), self.at.size))

    @property
    def holds(self) -> NDArray[np.bool_]:
        """Where the target's own power stays within every limit, idle included."""
        fine = np.ones(self.at.size, dtype=bool)
        for one, load in self.loads.items():
            if one in LIMITS or one in BOUNDS:
                fine &= load <= 1.0
        return fine


def envelope(
    build: Build, option: Option, target: Target, axis: Axis = "ethanol_pct", at: Floats = BLENDS, rising: bool = False
) -> Envelope:
    """Ceilings of an option on a target along an axis (`at`, shape (n,)); with boost `rising` with power.

    Rising, the absolute manifold pressure goes with the power from the target's own point.
    """
    places = floats(at)
    return _of_cases(_ALONG[axis](build, option, target, places), axis, places, rising)


def limits_of(asked: Sequence[tuple[Build, Option, Target]], axis: Axis, place: float, rising: bool = False) -> Envelope:
    """Ceilings of many builds, each at one place of an axis, in their order. They must be built alike."""
    here = floats([place])
    ((_, cases),) = together([_ALONG[axis](*one, here) for one in asked])
    return _of_cases(cases, axis, floats(np.full(len(asked), place)), rising)


def _of_cases(cases: Cases, axis: Axis, places: Floats, rising: bool) -> Envelope:
    rows = judge_rows(cases)
    limits = power_ceilings_kw(rows, rising)

    def whole(values: Floats) -> Floats:
        return floats(np.broadcast_to(values, places.shape))

    nothing = whole(floats(np.nan))
    return Envelope(
        axis,
        rising,
        places,
        {one: whole(kw) for one, kw in limits.items() if one in RISING},
        {one.component: whole(one.load) for one in rows.shares},
        whole(limits.get("engine", nothing)),
        whole(limits.get("compressor", nothing)),
    )


def runs_on(found: Envelope) -> tuple[tuple[float, float], ...]:
    """Stretches of the axis on which the target stays within every limit, as (first, last) place."""
    held = np.concatenate([[False], found.holds, [False]])
    starts, ends = np.flatnonzero(held[1:] & ~held[:-1]), np.flatnonzero(~held[1:] & held[:-1])
    return tuple((float(found.at[a]), float(found.at[b - 1])) for a, b in zip(starts, ends, strict=True))


def passed(found: Envelope, component: Component) -> tuple[tuple[float, float], ...]:
    """Stretches of the axis on which a load is too much at the target's own power."""
    over = np.concatenate([[False], ~(found.loads[component] <= 1.0), [False]])
    starts, ends = np.flatnonzero(over[1:] & ~over[:-1]), np.flatnonzero(~over[1:] & over[:-1])
    return tuple((float(found.at[a]), float(found.at[b - 1])) for a, b in zip(starts, ends, strict=True))


@dataclass(frozen=True)
class Worth:
    """What replacing the weakest is worth: the components in the order in which they end the power, with their ceilings.

    `gain_kw` is what comes before the second ends it (infinite where nothing else does); `alone` says which of the others
    add nothing on their own: all but those that end it together with the first.
    """

    order: tuple[tuple[Component, float], ...]
    gain_kw: float
    alone: tuple[Component, ...]


TOGETHER = 0.005  # of the power: ceilings no further apart end it together


def worth(verdict: TargetVerdict) -> Worth | None:
    """The weakest component of a target, the next ones, and what replacing the first is worth; None without a ceiling."""
    known = [
        (load.component, load.ceiling_kw)
        for load in verdict.loads
        if load.component in POWER_LIMITS and load.ceiling_kw is not None
    ]
    if not known:
        return None
    order = tuple(sorted(known, key=lambda one: one[1]))
    first = order[0][1]
    gain = order[1][1] - first if len(order) > 1 else float("inf")
    return Worth(order, gain, tuple(one for one, kw in order[1:] if kw > first * (1.0 + TOGETHER)))
