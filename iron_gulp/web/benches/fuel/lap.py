"""Does the little tank stay full: litres in, litres out and the level over a lap."""

from markupsafe import Markup

from iron_gulp.core.judge import TargetVerdict
from iron_gulp.core.study import surge_lap
from iron_gulp.units import BenchUnits, quantity_of, show

from ...parts.sketch import Scale, Sketch

WIDTH, HEIGHT, LEFT, RIGHT = 640.0, 214.0, 96.0, 560.0
IN, OUT, STRIP, TOP, BOTTOM = 6.0, 28.0, 14.0, 62.0, 176.0
L_H = 3.6e6  # of a m³/s
_VOLUME = quantity_of("surge_l")


def surge_level(verdict: TargetVerdict, units: BenchUnits) -> Markup | None:
    """In and out as strips over time, the level under them; None without a surge tank."""
    lap = surge_lap(verdict)
    if lap is None:
        return None

    def text(value: float, name: str) -> str:
        return "\u00a0".join(show(value, name, units))

    end = lap.level[-1][0]
    volume = units.shown(lap.level[0][1], _VOLUME)
    time, level = Scale(0.0, max(end, 1.0), LEFT, RIGHT), Scale(0.0, volume * 1.1, BOTTOM, TOP)
    sketch = Sketch(WIDTH, HEIGHT, "Litres lifted in, litres drawn out and what is left in the surge tank")
    sketch.text(LEFT - 8, IN + 11, f"in {text(lap.lifted_m3_s * L_H, 'lifted_l_h')}", "", "end")
    sketch.text(LEFT - 8, OUT + 11, f"out {text(lap.drawn_m3_s * L_H, 'drawn_l_h')}", "", "end")
    sketch.bar(time.at(0.0), time.at(end), IN, STRIP, "steel")
    for begin, until in lap.dry:
        sketch.bar(time.at(begin), time.at(until), IN, STRIP, "gap")
        sketch.bar(time.at(begin), time.at(until), IN, STRIP, "hatch")
    sketch.bar(time.at(0.0), time.at(end), OUT, STRIP, "fuel")
    sketch.upwards(level, LEFT, RIGHT, units.unit(_VOLUME).key, 3)
    sketch.across(time, TOP, BOTTOM, "s", 6)
    bends = [(time.at(second), level.at(units.shown(litres, _VOLUME))) for second, litres in lap.level]
    sketch.path([(LEFT, BOTTOM), *bends, (RIGHT, BOTTOM)], "filled")
    sketch.path(bends, "fuel" if lap.empty_s is None else "wrong")
    if lap.dry:
        sketch.text(RIGHT + 6, IN + 11, "hatched: dry", "s-small")
    if lap.empty_s is None:
        words, kind = f"never below {text(lap.least_l, 'least_l')}", "s-strong"
    else:
        words, kind = f"empty after {text(lap.empty_s, 'empty_s')}", "s-strong s-wrong"
    sketch.text(RIGHT, HEIGHT - 4, words, kind, "end")
    return sketch.svg()
