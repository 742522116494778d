"""Parts of the shelf are named by figures; on a bench of other units their names are read in those.

So are the figures in what the core says of a system in a few words. A name that somebody typed stays as typed, and so
does what stands in an input.
"""

import re
from functools import lru_cache

from iron_gulp.shelf import KINDS, load_shelf
from iron_gulp.units import DEFAULT_UNITS, BenchUnits, show

# A unit as names write it: the name of a figure kept in it, and how many of the kept unit it is.
_WRITTEN = {
    "L/h": ("flow_l_h", 1.0),
    "L": ("surge_l", 1.0),
    "kPa": ("pressure_kpa", 1.0),
    "MPa": ("pressure_kpa", 1e3),
    "cc/min": ("flow_cc_min", 1.0),
    "kg/s": ("air_kg_s", 1.0),
    "mm": ("bore_mm", 1.0),
    "°C": ("temperature_c", 1.0),
}
_NUMBER = r"-?\d+(?:\.\d+)?"
_FIGURE = re.compile(rf"({_NUMBER})(?: to ({_NUMBER}))? (L/h|L|kPa|MPa|cc/min|kg/s|mm|°C)(?![\w/])")
_UNIT = re.compile(r"\d (?:L/h|L surge|kPa|MPa|cc/min|kg/s|mm|°C)")
_TYPED = re.compile(r"<textarea\b[\s\S]*?</textarea>")
_ENDS, _INPUT = '<>"\n', 'value="'
_SAID = (
    rf"{_NUMBER} kPa of boost",
    rf"{_NUMBER} kPa, (?:manifold|atmosphere|rising rate)\b",
    rf"{_NUMBER} L surge tank",
    rf"Rated flow at {_NUMBER} kPa",
    rf"V, {_NUMBER} kPa across",
    rf"barometer {_NUMBER} kPa",
    rf"inlet {_NUMBER} kPa",
)
_DIMENSIONS = ("pressure", "flow", "injector flow", "air flow", "bore", "temperature", "volume")


def in_bench_units(page: str, units: BenchUnits) -> str:
    """A page with shelf parts and systems told in the bench's units; the same page where there are none."""
    if all(units.chosen[one] == DEFAULT_UNITS[one] for one in _DIMENSIONS):
        return page
    typed = [one.span() for one in _TYPED.finditer(page)]
    found, upto = list[str](), 0
    for hit in _UNIT.finditer(page):
        if hit.start() < upto:
            continue
        start = max(upto, max(page.rfind(one, upto, hit.start()) for one in _ENDS) + 1)
        end = min((at for one in _ENDS if (at := page.find(one, hit.end())) >= 0), default=len(page))
        text = page[start:end]
        if not page.endswith(_INPUT, 0, start) and not any(first <= start < last for first, last in typed):
            text = _told().sub(lambda told: _FIGURE.sub(lambda figure: _shown(figure, units), told.group(0)), text)
        found += [page[upto:start], text]
        upto = end
    return "".join((*found, page[upto:])) if found else page


@lru_cache(maxsize=1)
def _told() -> re.Pattern[str]:
    """Names of shelf parts that hold a figure, and what is said of systems; the longest first."""
    names = {part.name for kind in KINDS for part in load_shelf().parts(kind)}
    told = sorted((name for name in names if _FIGURE.search(name)), key=lambda name: (-len(name), name))
    return re.compile("|".join((*map(re.escape, told), *_SAID)))


def _shown(found: re.Match[str], units: BenchUnits) -> str:
    name, times = _WRITTEN[found.group(3)]
    if name == "bore_mm" and units.chosen["bore"] == "dash":
        units = BenchUnits({**units.chosen, "bore": "inch"})  # a dash size counts hoses, not the width of a hole
    values = [float(one) * times for one in found.groups()[:2] if one is not None]
    shown = [show(value, name, units) for value in values]
    if shown[0][1] == show(values[0], name, BenchUnits())[1]:
        return found.group(0)
    return f"{' to '.join(number for number, _ in shown)} {shown[0][1]}"
