"""High-pressure pumps × injectors × low pumps: the ceiling of every combination, and where one adds nothing."""

from dataclasses import dataclass, replace

from ..judge import TargetVerdict, judge_many
from ..model import Build, Catalogue, Component, Option, Target
from .roads import put_right

NOTHING = 0.005  # of the power: less than this is nothing
MOST_PUMPS, MOST_INJECTORS = 4, 4


@dataclass(frozen=True)
class Cell:
    """One combination: power it carries as the target quotes it, what sets it, whether it adds nothing to a smaller.

    No more than the engine breathes for as it stands; `fuel_kw` is what there would be fuel for then.
    """

    power_kw: float | None
    component: Component
    adds_nothing: bool
    fuel_kw: float | None = None


@dataclass(frozen=True)
class Grid:
    """Cells by (pump, injector) for one low pump; the first of each is what is fitted."""

    low_pump: str
    pumps: tuple[str, ...]
    injectors: tuple[str, ...]
    cells: tuple[tuple[Cell, ...], ...]


def grid_blends(build: Build) -> tuple[float, ...]:
    """Blends a grid is worked out for: those of the build's targets, gasoline alone and a strong one."""
    return tuple(sorted({0.0, 85.0, *(target.ethanol_pct for target in build.targets)}))


def combination_grids(
    build: Build, option: Option, target: Target, catalogue: Catalogue, ethanol_pct: float | None = None
) -> list[Grid]:
    """The grid with the low pumps fitted, and with the next larger; none without direct injection.

    On the target's own blend, or on `ethanol_pct` with all else as the target says.
    """
    if ethanol_pct is not None and ethanol_pct != target.ethanol_pct:
        target = target.model_copy(update={"ethanol_pct": ethanol_pct, "vapour_kpa_abs": None})
    option = put_right(build, option)
    high = option.high_side
    if high is None:
        return []
    pumps = [high.pumps[0].part, *catalogue.high_pumps_above(high.pumps[0].part)[: MOST_PUMPS - 1]]
    injectors = [high.injectors.part, *catalogue.direct_injectors_above(high.injectors.part)[: MOST_INJECTORS - 1]]
    first = option.pumps[0]
    lows = [first.part, *list(catalogue.pumps_above(first.part, 500.0))[:1]]
    asked = []
    for low in lows:
        fed = option.model_copy(update={"pumps": (first.model_copy(update={"part": low}), *option.pumps[1:])})
        for pump in pumps:
            own = tuple(one.model_copy(update={"part": pump}) for one in high.pumps)
            for injector in injectors:
                changed = {"pumps": own, "injectors": high.injectors.model_copy(update={"part": injector})}
                asked.append((build, fed.model_copy(update={"high_side": high.model_copy(update=changed)}), target))
    limits = iter([_within_air(verdict) for verdict in judge_many(asked)])
    found = []
    for low in lows:
        every = [[next(limits) for _ in injectors] for _ in pumps]
        powers = [[one.power_kw for one in row] for row in every]
        cells = tuple(
            tuple(replace(one, adds_nothing=_nothing(powers, y, x)) for x, one in enumerate(row))
            for y, row in enumerate(every)
        )
        found.append(Grid(low.name, tuple(one.name for one in pumps), tuple(one.name for one in injectors), cells))
    return found


def _within_air(verdict: TargetVerdict) -> Cell:
    """What a combination carries, its fuel or the air ending it, not yet held against its neighbours."""
    limit, air = verdict.power_limit, verdict.demand.air_limited_power_kw
    if limit.ceiling_kw is None or limit.ceiling_kw <= air:
        return Cell(limit.ceiling_kw, limit.component, adds_nothing=False)
    return Cell(air, "engine", adds_nothing=False, fuel_kw=limit.ceiling_kw)


def _nothing(powers: list[list[float | None]], y: int, x: int) -> bool:
    """Whether a cell carries no more than its neighbours with the next smaller pump and the next smaller injector."""
    here = powers[y][x]
    smaller = [powers[y - 1][x]] if y else []
    smaller += [powers[y][x - 1]] if x else []
    if here is None or not smaller:
        return False
    return all(one is not None and here <= one * (1.0 + NOTHING) for one in smaller)
