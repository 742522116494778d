"""Known and assumed: each uncertain input's spread as a bar about what is entered, and what was measured on it."""

from collections.abc import Sequence

from markupsafe import Markup

from iron_gulp.core.model import Tolerances
from iron_gulp.core.study import Use
from iron_gulp.units import BenchUnits, show

from ...parts.sketch import Scale, Sketch

WIDTH, LEFT, RIGHT, ROW, TOP = 760.0, 190.0, 520.0, 25.0, 12.0
REACH = 4.0  # of the assumed spread, to either side
UNITS = {"spread_v": "off_v", "spread_k": "off_k", "spread_kpa": "off_kpa"}


def known_and_assumed(tolerances: Tolerances, names: Sequence[str], uses: Sequence[Use], units: BenchUnits) -> Markup:
    """Rows of the inputs that this option has, those measured first."""
    measured = {use.name for use in uses}
    rows = sorted(names, key=lambda name: name not in measured)
    titles = {name: str(field.title) for name, field in Tolerances.model_fields.items()}
    sketch = Sketch(WIDTH, TOP + ROW * len(rows) + 22, f"{len(measured & set(names))} of {len(names)} inputs measured")
    across = Scale(-REACH, REACH, LEFT, RIGHT)
    bottom = TOP + ROW * len(rows)
    sketch.line(across.at(0.0), TOP - 6, across.at(0.0), bottom + 4, "hair")
    sketch.text(across.at(0.0), bottom + 16, "as entered", "s-small", "middle")
    for number, name in enumerate(rows):
        y = TOP + ROW * (number + 0.5)
        spread, offset = getattr(tolerances, name).both
        step = spread or 1.0
        sketch.text(LEFT - 10, y + 4, titles[name].removesuffix(", points"), "s-small", "end")
        low, high = _assumed(name, offset / step, spread > 0)
        sketch.bar(across.at(low), across.at(high), y - 6, 12, "steel")
        own = [use for use in uses if use.name == name]
        for use in own:
            at, wide = use.offset / step, use.spread / step
            sketch.line(across.at(at - wide), y, across.at(at + wide), y, "edge")
            sketch.point(across.at(at), y, f"{titles[name]}: {_told(name, use, units)}")
        words = _told(name, own[0], units) if own else "assumed"
        if len(own) > 1 and len({use.offset for use in own}) > 1:
            words = f"{len(own)} readings"
        sketch.text(RIGHT + 12, y + 4, words, "s-strong" if own else "s-small")
    return sketch.svg("known-assumed")


def _assumed(name: str, middle: float, spread: bool) -> tuple[float, float]:
    """From where to where a bar reaches, in spreads: one to either side; wear takes away only."""
    if not spread:
        return middle, middle
    return (middle - 1.0, middle) if name == "pump_wear" else (middle - 1.0, middle + 1.0)


def _told(name: str, use: Use, units: BenchUnits) -> str:
    """How far off and how sure, with the day."""
    day = f", {use.day}" if use.day else ""
    if name == "pump_wear":
        return f"in the reading{day}"
    kept = {"voltage": "off_v", "fuel_temperature": "off_k", "base_pressure": "off_kpa"}.get(name, "")
    if kept:
        off, unit = show(use.offset, kept, units)
        sure, _ = show(use.spread, kept, units)
    else:
        off, sure, unit = f"{use.offset * 100:.1f}", f"{use.spread * 100:.1f}", "%"
    sign = "" if off.startswith(("-", "\u2212")) else "+"
    return f"{sign}{off} ± {sure}\u00a0{unit}{day}".replace("-", "\u2212", 1 if off.startswith("-") else 0)
