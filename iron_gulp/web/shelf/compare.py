"""The shelf's comparison charts in bench units."""

import json
from collections.abc import Sequence
from dataclasses import dataclass

from iron_gulp.core.model import Part
from iron_gulp.core.physics import Floats
from iron_gulp.core.study import Comparison, compare
from iron_gulp.units import BenchUnits, quantity_of


@dataclass(frozen=True)
class CompareView:
    title: str
    data: str


def compare_charts(parts: Sequence[Part], units: BenchUnits) -> list[CompareView]:
    """One chart or two for the parts ticked."""
    return [CompareView(one.title, _json(one, units)) for one in compare(parts)]


def _json(one: Comparison, units: BenchUnits) -> str:
    x, y = quantity_of(one.x.name), quantity_of(one.y.name)

    def pairs(xs: Floats, ys: Floats) -> list[list[float]]:
        return [
            [round(units.shown(float(a), x), 4), round(units.shown(float(b), y), 4)] for a, b in zip(xs, ys, strict=True)
        ]

    series = [
        {"label": curve.part, "kind": "main" if index == 0 else "other", "data": pairs(curve.x, curve.y)}
        for index, curve in enumerate(one.curves)
    ]
    return json.dumps(
        {
            "title": one.title,
            "x": {"label": one.x.label, "unit": units.unit(x).key},
            "y": {"label": one.y.label, "unit": units.unit(y).key},
            "series": series,
        },
        ensure_ascii=False,
    )
