"""Small pictures as SVG: lines, bars and words in the page's own tones, crisp in print and readable without colour."""

from collections.abc import Sequence
from dataclasses import dataclass, field
from math import ceil, floor, log10

from markupsafe import Markup, escape

from iron_gulp.units import BenchUnits, quantity_of

Point = tuple[float, float]


def ticks(low: float, high: float, about: int = 5) -> list[float]:
    """Round numbers (1, 2 or 5 times a power of ten apart) within a range, about so many."""
    if not high > low:
        return [low]
    raw = (high - low) / max(about, 1)
    power = 10.0 ** floor(log10(raw))
    step = next(one * power for one in (1.0, 2.0, 5.0, 10.0) if one * power >= raw * 0.999)
    first, last = ceil(low / step - 1e-9), floor(high / step + 1e-9)
    return [round(number * step, 10) for number in range(first, last + 1)]


@dataclass(frozen=True)
class Scale:
    """A value's place: from `low` at `start` to `high` at `end`, in the unit chosen for its name."""

    low: float
    high: float
    start: float
    end: float

    def at(self, value: float) -> float:
        """The place of a value, held within the scale."""
        span = self.high - self.low
        share = 0.0 if span <= 0 else (min(max(value, self.low), self.high) - self.low) / span
        return self.start + share * (self.end - self.start)


def scale(values: Sequence[float], name: str, units: BenchUnits, start: float, end: float, zero: bool = True) -> Scale:
    """A scale over kept values, in bench units and from zero unless told; a tenth of room at the far end."""
    shown = [units.shown(value, quantity_of(name)) for value in values]
    low, high = min(shown), max(shown)
    if zero:
        low, high = min(low, 0.0), max(high, 0.0)
    room = 0.1 * ((high - low) or 1.0)
    return Scale(low if zero and low == 0 else low - room, high + room, start, end)


@dataclass
class Sketch:
    """A picture under way. Kinds name its tones: ink, soft, fuel, over, steel, hatch, hair."""

    width: float
    height: float
    label: str
    parts: list[str] = field(default_factory=list)

    def line(self, x1: float, y1: float, x2: float, y2: float, kind: str = "ink") -> None:
        self.parts.append(f'<line class="s-{kind}" x1="{x1:.1f}" y1="{y1:.1f}" x2="{x2:.1f}" y2="{y2:.1f}"/>')

    def path(self, points: Sequence[Point], kind: str = "ink") -> None:
        walk = "L".join(f"{x:.1f} {y:.1f}" for x, y in points)
        self.parts.append(f'<path class="s-{kind}" d="M{walk}"/>')

    def circle(self, x: float, y: float, radius: float, kind: str = "ink") -> None:
        self.parts.append(f'<circle class="s-{kind}" cx="{x:.1f}" cy="{y:.1f}" r="{radius:.1f}"/>')

    def bar(self, x1: float, x2: float, y: float, height: float, kind: str = "fuel") -> None:
        low, high = min(x1, x2), max(x1, x2)
        place = f'x="{low:.1f}" y="{y:.1f}" width="{max(high - low, 0.0):.1f}" height="{height:.1f}"'
        self.parts.append(f'<rect class="s-bar s-{kind}" {place}/>')

    def column(self, x: float, width: float, y1: float, y2: float, kind: str = "fuel") -> None:
        self.bar(x, x + width, min(y1, y2), abs(y2 - y1), kind)

    def text(self, x: float, y: float, words: str, kind: str = "", anchor: str = "start") -> None:
        self.parts.append(
            f'<text class="s-text {kind}" x="{x:.1f}" y="{y:.1f}" text-anchor="{anchor}">{escape(words)}</text>'
        )

    def point(self, x: float, y: float, words: str, strong: bool = True) -> None:
        """A target: a diamond with its name for whoever points at it."""
        d = f"M{x:.1f} {y - 6:.1f}L{x + 6:.1f} {y:.1f}L{x:.1f} {y + 6:.1f}L{x - 6:.1f} {y:.1f}Z"
        self.parts.append(
            f'<path class="s-point{"" if strong else " s-faint"}" d="{d}"><title>{escape(words)}</title></path>'
        )

    def across(self, one: Scale, y1: float, y2: float, unit: str = "", about: int = 6) -> None:
        """Ticks of a horizontal scale: hairs from y1 to y2, numbers under them."""
        found = ticks(one.low, one.high, about)
        for tick in found:
            self.line(one.at(tick), y1, one.at(tick), y2, "hair")
            last = tick == found[-1] and unit
            self.text(one.at(tick), y2 + 14, f"{_plain(tick)} {unit}" if last else _plain(tick), "s-small", "middle")

    def upwards(self, one: Scale, x1: float, x2: float, unit: str = "", about: int = 4) -> None:
        """Ticks of a vertical scale: hairs from x1 to x2, numbers left of them."""
        found = ticks(one.low, one.high, about)
        for tick in found:
            self.line(x1, one.at(tick), x2, one.at(tick), "hair")
            last = tick == found[-1] and unit
            self.text(x1 - 6, one.at(tick) + 4, f"{_plain(tick)} {unit}" if last else _plain(tick), "s-small", "end")

    def svg(self, kind: str = "", role: str = "img") -> Markup:
        """The picture; one with things to move in it is a "group"."""
        box, label = f"0 0 {self.width:g} {self.height:g}", escape(self.label)
        head = f'<svg class="sketch {kind}" viewBox="{box}" role="{role}" aria-label="{label}">'
        hatch = (
            '<defs><pattern id="hatch" width="6" height="6" patternUnits="userSpaceOnUse" patternTransform="rotate(45)">'
            '<path class="s-hatching" d="M0 0V6"/></pattern>'
            '<pattern id="dots" width="7" height="7" patternUnits="userSpaceOnUse">'
            '<circle class="s-dotting" cx="3" cy="3" r="1.3"/></pattern></defs>'
        )
        patterned = any("s-hatch" in one or "s-dots" in one for one in self.parts)
        return Markup(head + (hatch if patterned else "") + "".join(self.parts) + "</svg>")


_FILE_STYLE = (
    "svg{background:#fff}path,line,circle,rect{fill:none;stroke:#111;stroke-width:1.6;stroke-linejoin:round}"
    "text{font:500 12.5px sans-serif;fill:#111;stroke:none}.s-hair{stroke:#ddd;stroke-width:1}.s-grip{display:none}"
    ".s-soft{stroke-dasharray:3 3}.s-dotted{stroke-dasharray:1.5 4}.s-dashed{stroke-dasharray:8 4}"
    ".s-thin{stroke-width:.9}"
    ".s-edge{stroke-width:3.4;stroke:#b4540a}.s-band{fill:#eee;stroke:none}.s-limit{stroke-dasharray:4 3}"
    ".s-point{fill:#b4540a;stroke:#fff}.s-faint{fill:#777}.s-small{font-size:11.5px}.s-strong{font-weight:700}"
)


def as_file(picture: Markup) -> str:
    """A picture as a file of its own, black on white."""
    sized = str(picture).replace("<svg ", '<svg xmlns="http://www.w3.org/2000/svg" ', 1)
    head, _, rest = sized.partition(">")
    return f"{head}><style>{_FILE_STYLE}</style>{rest}"


def _plain(value: float) -> str:
    return f"{value:g}".replace("-", "\u2212")
