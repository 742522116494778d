"""A line's fittings as the benches show them: each with its published loss, and all together."""

from dataclasses import dataclass

from iron_gulp.core.model import Line
from iron_gulp.core.physics import fitting_loss
from iron_gulp.core.solve import fittings_loss


@dataclass(frozen=True)
class FittingView:
    id: str
    kind: str
    k: str


@dataclass(frozen=True)
class LineView:
    summary: str
    rows: tuple[FittingView, ...]


def line_view(line: Line) -> LineView:
    """Fittings of a line; K in turbulent flow, on each fitting's own bore, and their sum on the line's."""
    rows = tuple(
        FittingView(
            one.id,
            one.kind,
            f"{fitting_loss(one.kind, line.part.bore_mm if one.bore_mm is None else one.bore_mm).constant:.2f}",
        )
        for one in line.fittings
    )
    count = sum(one.count for one in line.fittings)
    total = line.k_sum + fittings_loss(line).constant
    words = f"{count} fitted, ΣK {total:.1f}" if count else f"none listed, ΣK {total:.1f}"
    return LineView(words, rows)
