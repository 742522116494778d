"""Three limits and the demand over engine speed: low pumps, high-pressure pumps, the injectors' window."""

from collections.abc import Callable

import numpy as np
from markupsafe import Markup

from iron_gulp.core.model import Target
from iron_gulp.core.physics import Floats
from iron_gulp.core.study import HighLimits
from iron_gulp.units import BenchUnits, quantity_of, show

from ...parts.sketch import Point, Scale, Sketch, scale

WIDTH, HEIGHT, LEFT, RIGHT, TOP, BOTTOM = 640.0, 268.0, 52.0, 520.0, 14.0, 226.0
NAMES = {"low pump": "low-pressure pumps", "high pump": "high-pressure pumps", "window": "direct injectors"}
FIRST = {
    "low pump": "The low-pressure pumps give",
    "high pump": "The high-pressure pump gives",
    "window": "The injectors' window gives",
}
_FUEL = quantity_of("fuel_kg_h")


def limits_picture(limits: HighLimits, target: Target, units: BenchUnits) -> Markup:
    """The limits as lines, what is asked as the strong one, what is missing hatched between."""
    sketch = Sketch(WIDTH, HEIGHT, "Direct fuel over engine speed: asked, and what each limit carries")
    asked_top = float(limits.asked_kg_h.max())
    across = Scale(float(limits.rpm[0]), float(limits.rpm[-1]), LEFT, RIGHT)
    # Limits far above what is asked leave the picture: they are not what it is about.
    up = scale([asked_top * 1.45], "fuel_kg_h", units, BOTTOM, TOP)

    def y(kg_h: float) -> float:
        return up.at(units.shown(kg_h, _FUEL))

    def walk(values: Floats) -> list[Point]:
        return [(across.at(float(rpm)), y(float(one))) for rpm, one in zip(limits.rpm, values, strict=True)]

    sketch.upwards(up, LEFT, RIGHT, units.unit(_FUEL).key)
    sketch.across(across, TOP, BOTTOM, "rpm")
    asked, given = walk(limits.asked_kg_h), walk(limits.delivered_kg_h)
    short = limits.asked_kg_h > limits.delivered_kg_h * (1.0 + 1e-6)
    if short.any():
        first = max(int(np.argmax(short)) - 1, 0)
        sketch.path([*asked[first:], *reversed(given[first:])], "hatch")
    lines = (
        (limits.low_pump_kg_h, "broken", "low pumps"),
        (limits.high_pump_kg_h, "ink", "high-pressure pump"),
        (limits.window_kg_h, "dotted", "window"),
    )
    ends: list[tuple[float, str, str]] = []
    for values, kind, name in lines:
        sketch.path(walk(values), kind)
        ends.append((y(float(values[-1])), name, "s-small"))
    sketch.path(asked, "fuel")
    ends.append((asked[-1][1], "asked", "s-strong"))
    for place, name, kind in _apart(ends):
        sketch.text(RIGHT + 8, place + 4, name, kind)
    own = float(np.interp(target.rpm, limits.rpm, limits.asked_kg_h))
    told = " ".join(show(own, "fuel_kg_h", units))
    sketch.point(across.at(target.rpm), y(own), f"{target.name}: {told} at {target.rpm:.0f} rpm")
    return sketch.svg()


def _apart(ends: list[tuple[float, str, str]], least: float = 15.0) -> list[tuple[float, str, str]]:
    """Names beside their lines' ends, moved so that none covers another."""
    placed: list[tuple[float, str, str]] = []
    for place, name, kind in sorted(ends):
        lowest = placed[-1][0] + least if placed else TOP
        placed.append((max(place, lowest), name, kind))
    over = max(placed[-1][0] - BOTTOM, 0.0)
    return [(place - over, name, kind) for place, name, kind in placed]


def words_of(limits: HighLimits, target: Target, quantity: Callable[[float, str], str]) -> str:
    """What gives in first and from which speed, or what is nearest to it."""
    found = limits.least()
    if found is None:
        name, share = limits.nearest()
        used = f"{share * 100:.0f}\u00a0% used"
        return f"Everything carries {target.name} to the highest speed; nearest is what the {NAMES[name]} carry, {used}."
    name, rpm, missing = found
    text = f"{FIRST[name]} in first, from about {quantity(round(rpm, -1), 'rpm')} wherever the full boost stands"
    if missing > 1e-3 * float(limits.asked_kg_h.max()):
        return f"{text}; up to {quantity(missing, 'fuel_kg_h')} are missing at the top."
    return f"{text}; the rail sags, but the fuel still arrives."
