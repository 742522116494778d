"""Chances: the share of cars that carry a target, and what an input matters for it."""

import numpy as np

from ...model import TITLES, Build, EditError, Tolerances, apply, value_at
from ...study import DRAWS, SEED, chances, members, what_matters
from ..figures import Input
from .base import Asked, Number, Place

SPREADS = "draws of the tolerances listed on the page of chances, the same at every look"

MOVED_DRAWS = 400  # of the draws, for what a spread changes


def chance(asked: Asked, place: Place) -> Number:
    """The share of cars like this that carry the target, or every target."""
    build, option, target = asked

    def carried(one: Build, count: int) -> float:
        found = chances(one, one.option(option.id), count, only=None if place.every else one.target(target.id))
        return 100.0 * (found.carried if place.every else found.of(target.id).carried)

    value, few = carried(build, DRAWS), carried(build, MOVED_DRAWS)

    def shifted(one: Build | None) -> float | None:
        return None if one is None else float(np.clip(value + carried(one, MOVED_DRAWS) - few, 0.0, 100.0))

    rows = []
    for name in (one for one, many in members(build, option).items() if many > 0):
        field = next(one for one in type(getattr(build.tolerances, name)).model_fields if one.startswith("spread_"))
        path, title = f"tolerances/{name}/{field}", str(Tolerances.model_fields[name].title)
        spread = float(value_at(build, path))
        if spread > 0:
            less, more = (_changed(build, path, spread * factor) for factor in (0.9, 1.1))
            rows.append(Input("", f"Spread: {title}", field, spread, shifted(less), shifted(more)))
    return Number(
        "Cars of 100 that carry every target" if place.every else f"Cars of 100 that carry {target.name}",
        "carried_pct",
        f"carried = draws within every limit ÷ {DRAWS} draws",
        lambda many: [value],
        SPREADS,
        f"Seed {SEED}; by counting alone unsure by {_counting(value):.1g} points. What a spread changes comes from"
        f" {MOVED_DRAWS} of them.",
        tuple(rows),
    )


def _counting(value: float) -> float:
    """Standard error of a share of the draws, in points; that of one draw where none or all hold."""
    share = min(max(value / 100.0, 1.0 / DRAWS), 1.0 - 1.0 / DRAWS)
    return 100.0 * float(np.sqrt(share * (1.0 - share) / DRAWS))


def _changed(build: Build, path: str, value: float) -> Build | None:
    try:
        return apply(build, [(path, value)])
    except EditError:
        return None


def share(asked: Asked, place: Place) -> Number:
    """An input's share of the variance of a load."""
    build, option, target = asked
    if place.case not in members(build, option):
        raise KeyError(f"{place.case} is no input of this option")
    first = chances(build, option).of(target.id).first_out
    found = next((one for one in what_matters(build, option, target, first) if one.name == place.case), None)
    if found is None:
        raise KeyError(f"{place.case} matters nothing here")
    return Number(
        f"{Tolerances.model_fields[found.name].title}: share of the uncertainty",
        "share_pct",
        f"share = variance of the load of {TITLES[first].lower()} that goes when all others are known ÷ its variance",
        lambda many: [min(found.together, 1.0) * 100.0],
        "total-order index after Saltelli 2010; " + SPREADS,
        "The first row is what this input explains by itself; the rest it does together with others.",
        (Input("", "By itself", "share_pct", found.alone * 100.0, None, None),),
    )
