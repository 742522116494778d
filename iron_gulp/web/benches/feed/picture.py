"""Where the pressure goes: from behind the pumps to the rail, every loss a step."""

from markupsafe import Markup

from iron_gulp.core.judge import TargetVerdict
from iron_gulp.core.study import legs
from iron_gulp.units import BenchUnits, quantity_of, show

from ...parts.sketch import Scale, Sketch

WIDTH, HEIGHT, LEFT, RIGHT, TOP, BOTTOM = 640.0, 240.0, 52.0, 628.0, 22.0, 206.0
_QUANTITY = quantity_of("drop_kpa")


def stair(verdict: TargetVerdict, units: BenchUnits) -> Markup:
    """The legs between pumps and rail on a target, each column as deep as what it costs."""
    every = legs(verdict)
    start = [leg.name for leg in every].index("Pumps")
    outlet = every[start].after_kpa
    rail = float(verdict.points.hydraulics.rail_kpa[0])
    steps: list[tuple[str, float, float]] = []
    at = outlet
    for leg in every[start + 1 :]:
        if leg.name == "Regulator":
            break
        if leg.name.startswith(("Branch", "Along", "High-pressure feed", "Link")):
            continue
        steps.append((leg.name, at, leg.after_kpa))
        at = leg.after_kpa
    if at - rail > 0.05:
        steps.append(("Split", at, rail))
    drop = max(outlet - rail, 1.0)

    def shown(kpa: float) -> float:
        return units.shown(kpa, _QUANTITY)

    up = Scale(shown(rail - 0.45 * drop), shown(outlet + 0.1 * drop), BOTTOM, TOP)
    told = ", ".join(f"{name} {' '.join(show(before - after, 'drop_kpa', units))}" for name, before, after in steps)
    sketch = Sketch(WIDTH, HEIGHT, f"Losses between pumps and rail: {told}")
    sketch.upwards(up, LEFT, RIGHT, units.unit(_QUANTITY).key)
    width = (RIGHT - LEFT) / (len(steps) + 2)
    sketch.column(LEFT + 0.12 * width, 0.76 * width, up.at(shown(outlet)), BOTTOM, "soft")
    sketch.text(LEFT + 0.5 * width, BOTTOM + 16, "Pumps", "s-small", "middle")
    sketch.text(LEFT + 0.5 * width, up.at(shown(outlet)) - 5, " ".join(show(outlet, "rail_kpa", units)), "", "middle")
    for number, (name, before, after) in enumerate(steps, start=1):
        x = LEFT + number * width
        worst = before - after == max(one - other for _, one, other in steps)
        sketch.line(x - 0.12 * width, up.at(shown(before)), x + 0.88 * width, up.at(shown(before)), "hair")
        sketch.column(
            x + 0.12 * width, 0.76 * width, up.at(shown(before)), up.at(shown(after)), "fuel" if worst else "steel"
        )
        sketch.text(x + 0.5 * width, BOTTOM + 16, name if len(name) < 15 else name[:13] + "…", "s-small", "middle")
        lost = " ".join(show(before - after, "drop_kpa", units))
        sketch.text(x + 0.5 * width, up.at(shown(after)) + 15, f"\u2212{lost}", "s-strong" if worst else "", "middle")
    x = LEFT + (len(steps) + 1) * width
    sketch.column(x + 0.12 * width, 0.76 * width, up.at(shown(rail)), BOTTOM, "soft")
    sketch.text(x + 0.5 * width, BOTTOM + 16, "Rail", "s-small", "middle")
    sketch.text(x + 0.5 * width, up.at(shown(rail)) - 5, " ".join(show(rail, "rail_kpa", units)), "", "middle")
    return sketch.svg()
