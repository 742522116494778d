"""What a load is, and what the modules of the component groups look at."""

from dataclasses import dataclass
from typing import Literal

import numpy as np

from ..model import RULES, Component
from ..physics import Floats, Number, floats
from ..solve import Demand, FluidState, LiftRows, PointSolution
from .cases import Cases

KEPT = 1.005  # a rule that reads 100 % is kept
Status = Literal["ok", "close", "over", "outside"]


@dataclass(frozen=True)
class Share:
    """One component's load in many systems: 1 is its ceiling. `measure` says what of what."""

    component: Component
    load: Floats
    measure: str


@dataclass(frozen=True)
class Solved:
    """Cases solved: demand of shape (systems,), points (2, systems), the lift stage where there is one.

    With what further points say: the largest current of a pump of each main group, and what the surge tank goes by.
    """

    cases: Cases
    demand: Demand[Floats]
    points: PointSolution
    lift: LiftRows | None
    largest_a: tuple[Floats, ...] = ()
    surge: tuple[Floats, ...] | None = None

    @property
    def fluid(self) -> FluidState:
        """Fuel in the lines of a car at steady speed."""
        targets = self.cases.targets
        return FluidState(targets.density_kg_m3, targets.viscosity_mpa_s)

    @property
    def need_m3_s(self) -> Floats:
        """Fuel the systems are sized for, by volume."""
        return floats(self.demand.chosen_kg_s / self.cases.targets.density_kg_m3)


def share(part: Number, whole: Number) -> Floats:
    """Part of a whole: none of nothing, infinitely much of nothing where something is asked."""
    asked, given = floats(part), floats(whole)
    with np.errstate(divide="ignore", invalid="ignore"):
        found = np.where(given > 0, asked / given, np.inf)
    return floats(np.where(asked <= 0, 0.0, found))


def status_of(component: Component, load: float, headroom: float) -> Status:
    """Words for a load: over its limit, with less headroom (1 ÷ load − 1) than wanted, or ok; outside a mere rule."""
    if component in RULES:
        return "ok" if load <= KEPT else "outside"
    if not load <= 1.0:
        return "over"
    return "close" if load * (1.0 + headroom) > 1.0 else "ok"
