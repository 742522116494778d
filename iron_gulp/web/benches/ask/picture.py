"""What it must do: targets as points on power against ethanol, and how far the air reaches at each."""

from collections.abc import Sequence

from markupsafe import Markup

from iron_gulp.core.judge import TargetVerdict
from iron_gulp.core.model import EXPECTED_BAND
from iron_gulp.units import BenchUnits, quantity_of, show

from ...parts.sketch import Scale, Sketch, scale

WIDTH, HEIGHT, LEFT, RIGHT, TOP, BOTTOM = 1180.0, 196.0, 62.0, 1170.0, 12.0, 150.0
_QUANTITY = quantity_of("power_kw")


def asked(verdicts: Sequence[TargetVerdict], chosen: str, units: BenchUnits) -> Markup:
    """Each target with the reach of its air (a hatched interval) and what the fuel system carries (a bar)."""
    reach = [verdict.demand.air_limited_power_kw for verdict in verdicts]
    fuel = [verdict.power_limit.ceiling_kw for verdict in verdicts]
    known = [
        *(verdict.target.power_kw for verdict in verdicts),
        *(one * (1 + EXPECTED_BAND) for one in reach),
        *(one for one in fuel if one is not None),
    ]
    most = max(verdict.target.power_kw for verdict in verdicts)
    up = scale([min(one, 2.2 * most) for one in known], "power_kw", units, BOTTOM, TOP)
    across = Scale(0.0, 100.0, LEFT + 24, RIGHT - 190)

    def y(kw: float) -> float:
        return up.at(units.shown(kw, _QUANTITY))

    told = "; ".join(
        f"{one.target.name} {' '.join(show(one.target.power_kw, 'power_kw', units))} on E{one.target.ethanol_pct:g}"
        for one in verdicts
    )
    sketch = Sketch(WIDTH, HEIGHT, f"Targets: {told}")
    sketch.upwards(up, LEFT, RIGHT, units.unit(_QUANTITY).key)
    sketch.across(across, BOTTOM, BOTTOM + 4, "% ethanol")
    for verdict, air, carried in zip(verdicts, reach, fuel, strict=True):
        target, x = verdict.target, across.at(verdict.target.ethanol_pct)
        strong = target.id == chosen
        sketch.column(x - 9, 18, y(air * (1 - EXPECTED_BAND)), y(air * (1 + EXPECTED_BAND)), "hatch")
        if carried is not None:
            sketch.line(x - 14, y(carried), x + 14, y(carried), "fuel")
        wanted = " ".join(show(target.power_kw, "power_kw", units))
        sketch.point(x, y(target.power_kw), f"{target.name}: {wanted}", strong)
        sketch.text(x + 18, y(target.power_kw) + 4, f"{target.name}, {wanted}", "s-strong" if strong else "")
    told = "Hatched: what the air at this boost reaches, an estimate. Bar: what the fuel system carries."
    sketch.text(LEFT, BOTTOM + 38, told, "s-small")
    return sketch.svg()
