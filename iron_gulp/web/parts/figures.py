"""Figures of a page, each a button that opens."""

from collections.abc import Sequence

from iron_gulp.core.account import FIGURES
from iron_gulp.core.account import value as figure_value
from iron_gulp.units import show

from .context import Context
from .views import FigureView

# Figures by topic: keys, or a key with its own label and whether it is the page's main figure.
Rows = list[tuple[str, Sequence[str | tuple[str, str] | tuple[str, str, bool]]]]


class Figures(Context):
    """Makes what the figure macro shows."""

    def figure(self, key: str) -> FigureView:
        """A figure by its key, in bench units."""
        figure = FIGURES[key]
        number, unit = show(figure_value(key, self.bench.figures), figure.name, self.units)
        return FigureView(key, figure.label, number, unit)
