"""Chart data in bench units."""

import json
import math
from typing import Any

from iron_gulp.core.study import Sweep
from iron_gulp.units import BenchUnits, quantity_of


def chart_json(sweep: Sweep, units: BenchUnits) -> str:
    """A sweep as the chart data a page carries, in bench units."""
    x_quantity, y_quantity = quantity_of(sweep.x_name), quantity_of(sweep.y_name)

    def pairs(xs: Any, ys: Any) -> list[list[float]]:
        rows = zip(xs.tolist(), ys.tolist(), strict=True)
        return [[round(units.shown(x, x_quantity), 5), round(units.shown(y, y_quantity), 5)] for x, y in rows]

    return json.dumps(
        {
            "title": sweep.title,
            "x": {"label": sweep.x_label, "unit": units.unit(x_quantity).key},
            "y": {
                "label": sweep.y_label,
                "unit": units.unit(y_quantity).key,
                "top": None if sweep.y_top is None else _round_up(units.shown(sweep.y_top, y_quantity)),
            },
            "series": [{"label": s.label, "kind": s.kind, "data": pairs(s.x, s.y)} for s in sweep.series],
        },
        ensure_ascii=False,
    )


def _round_up(value: float) -> float:
    """The next axis end that reads well: 1, 2, 3, 4, 5, 6 or 8 times a power of ten."""
    power = 10.0 ** math.floor(math.log10(value)) if value > 0 else 1.0
    return next(step * power for step in (1, 2, 3, 4, 5, 6, 8, 10) if step * power >= value)
