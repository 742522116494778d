"""Figures that open. A page shows a figure by its key; the same definition gives its value and explains it."""

from . import ceilings, demand, electrical, fuel, high, injectors, system, tank
from .base import AnyFigure, Context, Explanation, Figure, Input, SystemFigure

__all__ = [
    "FIGURES",
    "AnyFigure",
    "Context",
    "Explanation",
    "Figure",
    "Input",
    "SystemFigure",
    "explain",
    "value",
]

_ALL: tuple[AnyFigure, ...] = (
    *fuel.FIGURES,
    *demand.FIGURES,
    *injectors.FIGURES,
    *high.FIGURES,
    *system.FIGURES,
    *electrical.FIGURES,
    *tank.FIGURES,
    *ceilings.FIGURES,
)
FIGURES: dict[str, AnyFigure] = {figure.key: figure for figure in _ALL}


def value(key: str, context: Context) -> float:
    """The value of a figure. Raises KeyError for an unknown key."""
    return FIGURES[key].value(context)


def explain(key: str, context: Context) -> Explanation:
    """A figure opened. Raises KeyError for an unknown key."""
    figure = FIGURES[key]
    return Explanation(
        key,
        figure.label,
        figure.name,
        figure.value(context),
        figure.formula,
        figure.source,
        figure.note,
        figure.rows(context),
    )
