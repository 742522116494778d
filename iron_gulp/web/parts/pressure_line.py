"""The pressure line above the path: gauge pressure from the tank through pumps, lines and rail, and back."""

from markupsafe import Markup

from iron_gulp.core.judge import TargetVerdict
from iron_gulp.core.model import stations_of
from iron_gulp.core.study import legs
from iron_gulp.units import BenchUnits, quantity_of, show

from .sketch import Point, Scale, Sketch, scale

WIDTH, HEIGHT, TOP, BOTTOM = 1240.0, 78.0, 16.0, 66.0
_QUANTITY = quantity_of("rail_kpa")
BEFORE = ("Pickup", "Suction line", "Pre-filter", "Lift pump", "Lift line")


def pressure_line(verdict: TargetVerdict, units: BenchUnits) -> Markup:
    """Every loss as a step, at the peak of a target; what returns as a broken line under it."""
    every = legs(verdict)
    names = [leg.name for leg in every]
    pumps = names.index("Pumps")
    back = next((i for i, name in enumerate(names) if name == "Regulator" and i > pumps + 1), len(every))
    deadhead = verdict.option.regulator.arrangement == "carburettor, deadhead"
    feed = [leg for leg in every[pumps + 1 : len(every) if deadhead else back] if not _aside(leg.name)]
    returned = [] if deadhead else every[back:]
    tank, boost = verdict.option.tank.pressure_kpa, verdict.target.boost_kpa
    known = [tank, boost, *(leg.after_kpa for leg in every)]
    up = scale(known, "rail_kpa", units, BOTTOM, TOP)
    count = len(stations_of(verdict.option)) - 1
    column = WIDTH / count
    end = count - 0.95
    ported = verdict.points.direct is None or verdict.option.injectors is not None

    def y(kpa: float) -> float:
        return up.at(units.shown(kpa, _QUANTITY))

    sketch = Sketch(WIDTH, HEIGHT, _words(verdict, units))
    sketch.line(0, y(0.0), WIDTH, y(0.0), "hair")
    points: list[Point] = [(0.06 * column, y(tank))]
    before = [leg for leg in every[:pumps] if leg.name in BEFORE]
    for number, leg in enumerate(before, start=1):
        x = column * (0.1 + 0.85 * number / (len(before) + 1))
        points += [(x, points[-1][1]), (x, y(leg.after_kpa))]
    start = 1.5 * column
    points += [(start, points[-1][1]), (start, y(every[pumps].after_kpa))]
    for number, leg in enumerate(feed, start=1):
        x = column * (1.75 + 1.3 * number / (len(feed) + 0.6))
        points += [(x, points[-1][1]), (x, y(leg.after_kpa))]
    rail = float(verdict.points.hydraulics.rail_kpa[0])
    points += [(3.0 * column, points[-1][1]), (3.0 * column, y(rail)), (end * column, y(rail))]
    sketch.path([*points], "fuel")
    if ported:
        sketch.path([(end * column, y(rail)), (end * column, y(boost)), (WIDTH - 8, y(boost))], "ink")
    if returned:
        at = [(3.5 * column, y(rail)), (3.5 * column, y(returned[0].after_kpa))]
        for number, leg in enumerate(returned[1:], start=1):
            x = column * (3.4 - 3.1 * number / max(len(returned) - 1, 1))
            at += [(x, at[-1][1]), (x, y(leg.after_kpa))]
        sketch.path(at, "broken")
    _labels(sketch, up, units, verdict, column, ported)
    return sketch.svg("pressure-line")


def _labels(sketch: Sketch, up: Scale, units: BenchUnits, verdict: TargetVerdict, column: float, ported: bool) -> None:
    hyd = verdict.points.hydraulics
    rail, boost = float(hyd.rail_kpa[0]), verdict.target.boost_kpa
    outlet = float(hyd.inlet_kpa[0] + hyd.pump_rise_kpa[0])
    inlet = float(hyd.inlet_kpa[0])

    def told(kpa: float) -> str:
        return "\u00a0".join(show(kpa, "rail_kpa", units))

    def y(kpa: float) -> float:
        return up.at(units.shown(kpa, _QUANTITY))

    sketch.text(4, 11, "Pressure along the path, gauge, at the peak of this target", "s-small")
    sketch.text(1.47 * column, BOTTOM + 11, f"inlet {told(inlet)}", "s-small", "end")
    sketch.text(1.53 * column, max(y(outlet) - 4, 10), f"behind the pumps {told(outlet)}", "s-small")
    where = "rail" if ported else "into the high-pressure pump's feed"
    sketch.text(3.04 * column, max(y(rail) - 4, 10), f"{where} {told(rail)}", "s-small")
    if ported:
        sketch.text(WIDTH - 8, max(y(boost) - 4, 10), f"manifold {told(boost)}", "s-small", "end")


def _aside(name: str) -> bool:
    """Legs noted beside the way, which move nothing."""
    return name.startswith(("Branch", "Along", "High-pressure feed", "Link"))


def _words(verdict: TargetVerdict, units: BenchUnits) -> str:
    steps = (f"{leg.name} {' '.join(show(leg.after_kpa, 'rail_kpa', units))}" for leg in legs(verdict))
    return "Gauge pressure along the path: " + ", ".join(steps)
