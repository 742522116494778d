"""Headroom as a probability: the chance that a system carries its targets, and what matters most for it (physics §8)."""

from collections.abc import Sequence
from dataclasses import dataclass

import numpy as np
from numpy.typing import NDArray

from ..judge import JudgedRows, judge_rows
from ..model import LIMITS, Build, Component, Option, Target
from ..physics import Floats, floats
from .uncertain import INPUTS, drawn, members, uncertain_cases

DRAWS, SEED, SOBOL_DRAWS = 2000, 1, 512
WORST = 10.0  # a load that is infinite counts as this


@dataclass(frozen=True)
class Chance:
    """A target over draws: every load, and whether all limits hold; arrays of shape (draws,)."""

    target: Target
    loads: dict[Component, Floats]
    holds: NDArray[np.bool_]

    @property
    def carried(self) -> float:
        """Share of cars like this that carry it."""
        return float(self.holds.mean())

    def quantiles(self, component: Component, shares: Sequence[float] = (0.05, 0.5, 0.95)) -> tuple[float, ...]:
        """Loads that a share of the draws stays below."""
        return tuple(float(one) for one in np.quantile(self.loads[component], shares))

    @property
    def first_out(self) -> Component:
        """The component that runs out in most draws; the most loaded in the middle where none does."""
        counted = [one for one in self.loads if one in LIMITS]
        return max(counted, key=lambda one: (float((self.loads[one] > 1.0).mean()), self.quantiles(one)[1]))


@dataclass(frozen=True)
class Chances:
    """Every target over the same draws of the same hardware."""

    targets: tuple[Chance, ...]
    seed: int

    @property
    def carried(self) -> float:
        """Share of cars like this that carry every target."""
        return float(np.logical_and.reduce([one.holds for one in self.targets]).mean())

    def of(self, target_id: str) -> Chance:
        """The target of this id. Raises StopIteration for another."""
        return next(one for one in self.targets if one.target.id == target_id)


def chances(build: Build, option: Option, count: int = DRAWS, seed: int = SEED, only: Target | None = None) -> Chances:
    """Every target of a build on an option, or one alone, over draws from the build's tolerances.

    The same for the same seed, whether alone or with the others.
    """
    targets = build.targets if only is None else (only,)
    deviates = drawn(build, option, count, seed)
    rows = judge_rows(uncertain_cases(build, option, targets, deviates))
    found = []
    for number, target in enumerate(targets):
        part = slice(number * count, (number + 1) * count)
        loads = _loads(rows, part)
        holds = np.logical_and.reduce([load <= 1.0 for one, load in loads.items() if one in LIMITS])
        found.append(Chance(target, loads, holds))
    return Chances(tuple(found), seed)


def _loads(rows: JudgedRows, part: slice) -> dict[Component, Floats]:
    """Finite loads of some draws by component."""
    found: dict[Component, Floats] = {}
    for one in rows.shares:
        load = one.load if one.load.size == 1 else one.load[part]
        wide = np.broadcast_to(load, part.stop - part.start)
        if not np.isnan(wide).all():
            found[one.component] = floats(np.minimum(wide, WORST))
    return found


@dataclass(frozen=True)
class Matters:
    """An input's share of the variance of a load: by itself, and with all it acts together with."""

    name: str
    alone: float
    together: float


def what_matters(
    build: Build, option: Option, target: Target, component: Component, count: int = SOBOL_DRAWS, seed: int = SEED
) -> tuple[Matters, ...]:
    """Inputs by their share of the variance of a component's load, most first (Saltelli 2010, through SciPy).

    The load counts as load ÷ (1 + load), so that draws in which it runs away do not drown the others. `count` must be a
    power of two. Shares are estimates: those below nothing are nothing. Raises KeyError for a component not fitted.
    """
    first, second = drawn(build, option, count, seed), drawn(build, option, count, seed + 1)
    names = [one for one in INPUTS if members(build, option)[one] > 0]
    sets = [first, second, *({**first, name: second[name]} for name in names)]
    together = {name: np.concatenate([one[name] for one in sets], axis=-1) for name in INPUTS}
    rows = judge_rows(uncertain_cases(build, option, (target,), together))
    loads = _loads(rows, slice(0, count * len(sets)))
    own = loads[component]
    off = floats(own / (1.0 + own)).reshape(len(sets), count)
    if float(off[:2].std()) < 1e-9:
        return tuple(Matters(name, 0.0, 0.0) for name in names)
    values = {"f_A": off[0][None], "f_B": off[1][None], "f_AB": off[2:][:, None]}
    from scipy.stats import sobol_indices  # half a second to load, for this alone

    found = sobol_indices(func=values, n=count)
    alone, whole = np.ravel(found.first_order), np.ravel(found.total_order)
    every = [
        Matters(name, max(float(a), 0.0), max(float(t), 0.0)) for name, a, t in zip(names, alone, whole, strict=True)
    ]
    return tuple(sorted(every, key=lambda one: -one.together))
