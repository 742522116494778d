"""Words and strokes that several parts of the diagram share: a line as an element, its size, injectors under a rail."""

from dataclasses import dataclass

from iron_gulp.core.model import Component, Line
from iron_gulp.units import BenchUnits, show

from ...parts.bench_names import in_bench_units
from .symbols import Element


@dataclass(frozen=True)
class Text:
    """Figures and parts as the diagram writes them, in bench units."""

    units: BenchUnits

    def __call__(self, value: float, name: str) -> str:
        return "\u00a0".join(part for part in show(value, name, self.units) if part)

    def named(self, words: str) -> str:
        """Words with parts of the shelf in them, before they are broken into lines."""
        return in_bench_units(words, self.units)


def line_element(name: str, line: Line, flow: str, drop: str, text: Text, component: Component) -> Element:
    """A hose or tube with what passes and what it loses."""
    words = (size_of(line, text), f"{flow}, −{drop}")
    fittings = ", ".join(f"{one.count} × {one.kind}" for one in line.fittings) or "none listed"
    figures = (
        ("part", line.part.name),
        ("bore", text(line.part.bore_mm, "bore_mm")),
        ("fittings", fittings),
        ("flow", flow),
        ("drop", drop),
    )
    return Element("line", name, words, figures, component)


def size_of(line: Line, text: Text) -> str:
    """Size and length of a line."""
    size = line.part.size or text(line.part.bore_mm, "bore_mm")
    return f"{size} · {text(line.length_m, 'length_m')}"


def sprays(x: float, y: float, width: float, count: int) -> str:
    """The injectors under a rail that starts at x, evenly along it."""
    apart = width / max(count, 1)
    half = min(5.0, 0.42 * apart)
    places = [x + apart * (number + 0.5) for number in range(count)]
    return "".join(
        f'<path class="thin" d="M{at:.1f} {y + 8}v20"/>'
        f'<path class="fill" data-injector="" d="M{at:.1f} {y + 34}l-{half:.1f} -9h{2 * half:.1f}z"/>'
        for at in places
    )
