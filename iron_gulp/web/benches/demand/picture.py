"""How much fuel: the schools on one axis, and what the air can carry beside them."""

from markupsafe import Markup

from iron_gulp.core.judge import TargetVerdict
from iron_gulp.core.model import EXPECTED_BAND
from iron_gulp.units import BenchUnits, quantity_of, show

from ...parts.sketch import Sketch, scale

WIDTH, HEIGHT, LEFT, RIGHT, ROW = 640.0, 186.0, 190.0, 520.0, 30.0
SCHOOLS = {"consumption": "By consumption, sizing", "air": "By air mass", "measured": "From the logged run"}
_QUANTITY = quantity_of("fuel_kg_h")


def schools(verdict: TargetVerdict, units: BenchUnits) -> Markup:
    """Each school as a point, the expected consumption as an interval, the chosen one strong."""
    demand, target = verdict.demand, verdict.target
    expected = demand.air_needed_kg_s / demand.air_kg_s * demand.air_school_kg_s * 3600.0
    points = {"consumption": demand.consumption_kg_s * 3600.0, "air": demand.air_school_kg_s * 3600.0}
    if demand.measured_kg_s is not None:
        points["measured"] = demand.measured_kg_s * 3600.0
    burnt = demand.expected_kg_s * 3600.0
    across = scale([*points.values(), max(expected, burnt) * (1 + EXPECTED_BAND)], "fuel_kg_h", units, LEFT, RIGHT)

    def x(kg_h: float) -> float:
        return across.at(units.shown(kg_h, _QUANTITY))

    def words(kg_h: float) -> str:
        return " ".join(show(kg_h, "fuel_kg_h", units))

    told = ", ".join(f"{SCHOOLS[key].lower()} {words(value)}" for key, value in points.items())
    sketch = Sketch(WIDTH, HEIGHT, f"Fuel wanted: {told}")
    end = 14 + ROW * (len(points) + 2)
    sketch.across(across, 8, end, units.unit(_QUANTITY).key)
    for number, (key, value) in enumerate(points.items()):
        y = 26 + ROW * number
        strong = key == target.school
        sketch.text(LEFT - 12, y + 4, SCHOOLS[key], "s-strong" if strong else "", "end")
        sketch.line(LEFT, y, x(value), y, "fuel" if strong else "soft")
        sketch.point(x(value), y, f"{SCHOOLS[key]}: {words(value)}", strong)
        sketch.text(RIGHT + 14, y + 4, words(value), "s-strong" if strong else "s-small")
    y = 26 + ROW * len(points)
    sketch.text(LEFT - 12, y + 4, "Expected to burn", "s-small", "end")
    sketch.bar(x(burnt * (1 - EXPECTED_BAND)), x(burnt * (1 + EXPECTED_BAND)), y - 7, 14, "hatch")
    sketch.text(RIGHT + 14, y + 4, f"{words(burnt)} ± 8 %", "s-small")
    y += ROW
    sketch.text(LEFT - 12, y + 4, "Air this power is expected to ask", "s-small", "end")
    sketch.bar(x(expected * (1 - EXPECTED_BAND)), x(expected * (1 + EXPECTED_BAND)), y - 7, 14, "hatch")
    sketch.line(x(points["air"]), 8, x(points["air"]), end, "limit")
    enough = expected * (1 - EXPECTED_BAND) <= points["air"]
    sketch.text(RIGHT + 14, y + 4, "the air carries it" if enough else "the air falls short", "s-small")
    return sketch.svg()
