"""Properties of the target's fuel over ethanol content, cold, as it is and hot, as small pictures of one size."""

from collections.abc import Callable
from functools import lru_cache

import numpy as np
from markupsafe import Markup

from iron_gulp.core.judge import TargetVerdict
from iron_gulp.core.model import Build, base_fuel
from iron_gulp.core.physics import BaseFuel, Floats, FuelProperties, blend, floats
from iron_gulp.units import BenchUnits, quantity_of, show

from ...parts.sketch import Scale, Sketch

WIDTH, HEIGHT, ACROSS = 640.0, 336.0, 3
CELL, TALL, LEFT, TOP, BOTTOM = 214.0, 168.0, 44.0, 26.0, 138.0
COLDER_K, HOTTER_K = 25.0, 25.0
PROPERTIES: tuple[tuple[str, str, Callable[[FuelProperties], Floats]], ...] = (
    ("Density", "density_kg_m3", lambda mix: mix.density_kg_m3),
    ("Stoichiometric ratio", "stoich_afr", lambda mix: mix.stoich_afr),
    ("Heating value", "lhv_mj_kg", lambda mix: mix.lhv_mj_kg),
    ("Viscosity", "viscosity_mpa_s", lambda mix: mix.viscosity_mpa_s),
    ("Vapour pressure, absolute", "vapour_kpa_abs", lambda mix: mix.vapour_kpa_abs),
    ("Reid pressure", "reid_kpa_abs", lambda mix: mix.rvp_kpa),
)


def properties(build: Build, verdict: TargetVerdict, units: BenchUnits) -> Markup:
    """Six curves over ethanol; the target as a point, 25 K colder and hotter as faint lines where it matters."""
    target = verdict.target
    base = base_fuel(build, target.base_fuel)
    return _drawn(base, target.name, target.ethanol_pct, target.fuel_temp_c, tuple(units.chosen.items()))


@lru_cache(maxsize=32)
def _drawn(base: BaseFuel, target: str, ethanol_pct: float, temp_c: float, chosen: tuple[tuple[str, str], ...]) -> Markup:
    """The picture of one fuel, which few edits change."""
    units, ethanol = BenchUnits(dict(chosen)), floats(np.linspace(0.0, 1.0, 41))
    mixes = [blend(ethanol, temp, base) for temp in (temp_c - COLDER_K, temp_c, temp_c + HOTTER_K)]
    here = blend(ethanol_pct / 100.0, temp_c, base)
    sketch = Sketch(WIDTH, HEIGHT, f"Properties of {base.name} with ethanol; {target} on E{ethanol_pct:g}")
    for number, (title, name, read) in enumerate(PROPERTIES):
        x0, y0 = (number % ACROSS) * CELL, (number // ACROSS) * TALL
        quantity = quantity_of(name)
        curves = [[units.shown(float(one), quantity) for one in read(mix)] for mix in mixes]
        low, high = min(map(min, curves)), max(map(max, curves))
        room = 0.08 * ((high - low) or 1.0)
        up = Scale(low - room, high + room, y0 + BOTTOM, y0 + TOP)
        across = Scale(0.0, 100.0, x0 + LEFT, x0 + CELL - 12)
        sketch.upwards(up, across.start, across.end, "", 3)
        sketch.across(across, y0 + TOP, y0 + BOTTOM, "%", 3)
        sketch.text(x0 + LEFT, y0 + 16, f"{title}, {units.unit(quantity).key}".rstrip(", "), "s-small")
        for curve, kind in zip(curves, ("soft", "fuel", "dotted"), strict=True):
            if kind == "fuel" or curve != curves[1]:
                sketch.path([(across.at(100 * e), up.at(v)) for e, v in zip(ethanol, curve, strict=True)], kind)
        own = float(read(here))
        told = " ".join(part for part in show(own, name, units) if part)
        place = across.at(ethanol_pct), up.at(units.shown(own, quantity))
        sketch.point(*place, f"{target}: {told}")
        end = place[0] > x0 + CELL - 70
        sketch.text(place[0] + (-9 if end else 9), place[1] - 6, told, "s-strong s-haloed", "end" if end else "start")
    return sketch.svg()
