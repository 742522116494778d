"""Does it stay liquid on the way to the pump: absolute pressure from the tank to the pump inlet against the vapour's."""

from markupsafe import Markup

from iron_gulp.core.judge import TargetVerdict
from iron_gulp.core.model import Build
from iron_gulp.core.solve import IDLE, PEAK, fuel_state
from iron_gulp.core.study import legs
from iron_gulp.units import BenchUnits, quantity_of, show

from ...parts.sketch import Scale, Sketch

WIDTH, HEIGHT, LEFT, RIGHT, TOP, BOTTOM = 640.0, 224.0, 52.0, 520.0, 20.0, 190.0
HOTTER_K = 15.0
_QUANTITY = quantity_of("inlet_kpa_abs")


def head_stair(build: Build, verdict: TargetVerdict, units: BenchUnits) -> Markup:
    """A falling stair to the main pumps' inlet, what the pump needs above the vapour pressure, cold and hot."""
    option, barometer = verdict.option, build.car.barometer_kpa
    inlet = float(verdict.points.hydraulics.inlet_kpa.min())
    worst = PEAK if float(verdict.points.hydraulics.inlet_kpa[PEAK]) <= inlet else IDLE
    every = legs(verdict, worst)
    before = every[: [leg.name for leg in every].index("Pumps")]
    own = [
        leg for leg in before if leg.name not in ("Lift pump", "Lift line") and not (option.lift and leg.name == "Pickup")
    ]
    lost = sum(leg.drop_kpa for leg in own)
    start = 0.0 if option.lift else option.tank.pressure_kpa
    level = inlet + lost - start
    steps = [("Level", level), *((leg.name, -leg.drop_kpa) for leg in own)]
    vapour = verdict.fuel.vapour_kpa_abs
    hot_target = verdict.target.model_copy(update={"fuel_temp_c": min(verdict.target.fuel_temp_c + HOTTER_K, 90.0)})
    hot = fuel_state(build, hot_target).vapour_kpa_abs
    needed = option.pumps[0].part.needed_head_kpa

    def shown(kpa: float) -> float:
        return units.shown(kpa, _QUANTITY)

    top = max(barometer + start + max(level, 0.0), hot + needed) * 1.08
    up = Scale(0.0, shown(top), BOTTOM, TOP)

    def y(kpa: float) -> float:
        return up.at(shown(kpa))

    def told(kpa: float) -> str:
        return " ".join(show(kpa, "inlet_kpa_abs", units))

    left = barometer + inlet - vapour - needed
    sketch = Sketch(
        WIDTH, HEIGHT, f"Absolute pressure at the pump inlet {told(barometer + inlet)}, vapour {told(vapour)}"
    )
    sketch.upwards(up, LEFT, RIGHT, units.unit(_QUANTITY).key)
    width = (RIGHT - LEFT) / (len(steps) + 2)
    at = barometer + start
    sketch.column(LEFT + 0.1 * width, 0.8 * width, y(at), y(0), "soft")
    sketch.text(LEFT + 0.5 * width, BOTTOM + 16, "Air" if not option.lift else "Surge tank", "s-small", "middle")
    sketch.text(LEFT + 0.5 * width, y(at) - 5, told(at), "", "middle")
    for number, (name, change) in enumerate(steps, start=1):
        x = LEFT + number * width
        sketch.line(x - 0.1 * width, y(at), x + 0.9 * width, y(at), "hair")
        sketch.column(x + 0.1 * width, 0.8 * width, y(at), y(at + change), "steel" if change >= 0 else "fuel")
        at += change
        sketch.text(x + 0.5 * width, BOTTOM + 16, name, "s-small", "middle")
        sign = "+" if change >= 0 else "\u2212"
        sketch.text(x + 0.5 * width, y(max(at, at - change)) - 5, sign + told(abs(change)), "s-small", "middle")
    x = LEFT + (len(steps) + 1) * width
    sketch.column(x + 0.1 * width, 0.8 * width, y(barometer + inlet), y(0), "soft")
    sketch.text(x + 0.5 * width, BOTTOM + 16, "Inlet", "s-small", "middle")
    sketch.text(x + 0.5 * width, y(barometer + inlet) - 5, told(barometer + inlet), "s-strong", "middle")
    marks = (
        (vapour, "boils", "ink"),
        (vapour + needed, "pump needs", "limit"),
        (hot, f"boils {HOTTER_K:g} K hotter", "soft"),
    )
    for pressure, name, kind in marks:
        sketch.line(LEFT, y(pressure), RIGHT + 6, y(pressure), kind)
        sketch.text(RIGHT + 10, y(pressure) + 4, f"{name} {told(pressure)}", "s-small")
    sketch.text(LEFT, 11, f"{told(abs(left))} {'left above what the pump needs' if left >= 0 else 'missing'}", "s-strong")
    return sketch.svg()
