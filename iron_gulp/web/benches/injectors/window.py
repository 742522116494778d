"""The window of injector sizes as bars on a scale of sizes, a bar a base pressure, the shelf as ticks."""

from dataclasses import dataclass
from math import log10

from markupsafe import Markup

from iron_gulp.core.study import SizeWindow, Window
from iron_gulp.units import BenchUnits, quantity_of, show

from ...parts.numbers import Opens
from ...parts.sketch import Sketch

WIDTH, LEFT, RIGHT, TOP, ROW = 640.0, 92.0, 560.0, 26.0, 30.0
TICKS = (125, 200, 315, 500, 800, 1250, 2000, 3150)
SMALLEST, LARGEST = 100.0, 4000.0
_FLOW = quantity_of("size_cc_min")


def window_picture(found: SizeWindow, units: BenchUnits) -> Markup:
    """Sizes that carry and idle, by base pressure; the fitted size as a line."""
    height = TOP + ROW * len(found.windows) + 40
    sketch = Sketch(WIDTH, height, _told(found, units))
    bottom = TOP + ROW * len(found.windows)

    def x(cc_min: float) -> float:
        share = (log10(min(max(cc_min, SMALLEST), LARGEST)) - log10(SMALLEST)) / (log10(LARGEST) - log10(SMALLEST))
        return LEFT + share * (RIGHT - LEFT)

    for tick in TICKS:
        sketch.line(x(tick), TOP - 4, x(tick), bottom, "hair")
        size = show(float(tick), "size_cc_min", units)[0]
        sketch.text(x(tick), bottom + 14, size, "s-small", "middle")
    sketch.text(RIGHT + 10, bottom + 14, f"{units.unit(_FLOW).key} at 300 kPa", "s-small")
    for number, window in enumerate(found.windows):
        y = TOP + ROW * number + 6
        base = " ".join(show(window.base_kpa, "base_kpa", units))
        sketch.text(LEFT - 8, y + 12, base, "s-strong" if window.fitted else "s-small", "end")
        _bar(sketch, window, x, y)
    place = x(found.size)
    sketch.line(place, TOP - 8, place, bottom, "ink")
    sketch.text(place, TOP - 12, "fitted", "s-strong", "middle")
    return sketch.svg()


def _bar(sketch: Sketch, window: Window, x: object, y: float) -> None:
    assert callable(x)
    low, high = window.smallest, window.largest
    if low is None:
        sketch.text(LEFT + 4, y + 12, "no size carries every target", "s-small")
        return
    if high is None or high < low:
        sketch.bar(x(low), x(LARGEST), y, 16, "open")
        sketch.text(x(low) + 4, y + 12, "carries, but idles on none", "s-small")
        return
    sketch.bar(x(low), x(high), y, 16, "level-1")
    wanted = window.wanted
    if wanted is not None and wanted < high:
        sketch.bar(x(wanted), x(high), y, 16, "fuel" if window.fitted else "level-2")


def _told(found: SizeWindow, units: BenchUnits) -> str:
    own = next(one for one in found.windows if one.fitted)
    if own.smallest is None:
        return "No injector size carries every target"
    low = _size(own.smallest, units)
    if own.largest is not None and own.largest < own.smallest:
        return f"No injector size does both: every target wants {low} or more, idle {_size(own.largest, units)} or less"
    high = "no size idles" if own.largest is None else f"up to {_size(own.largest, units)}"
    return f"Injector sizes that carry every target and idle: from {low}, {high}"


def _size(cc_min: float, units: BenchUnits) -> str:
    """A size that was worked out: three digits, unlike one that is stamped on a part."""
    return " ".join(show(float(f"{cc_min:.3g}"), "size_cc_min", units))


@dataclass(frozen=True)
class SizeRow:
    """A size as a row: what it is, its highest load and its idle."""

    name: str
    load: str
    idle: str
    says: str
    fitted: bool
    cc_min: float
    pulse_ms: float


def size_rows(found: SizeWindow) -> list[SizeRow]:
    """The shelf's sizes around the fitted one."""
    carries = [one for one in found.sizes if one.load <= 1.0 and one.idle <= 1.0]
    smallest = min(carries, key=lambda one: one.cc_min, default=None)
    rows = []
    for one in found.sizes:
        says = "too small" if one.load > 1.0 else "does not idle" if one.idle > 1.0 else "carries and idles"
        if one is smallest:
            says = "the smallest that carries and idles"
        rows.append(SizeRow(one.name, _percent(one.load), _percent(one.idle), says, one.fitted, one.cc_min, one.pulse_ms))
    return rows


def window_sentence(found: SizeWindow, units: BenchUnits, opens: Opens) -> Markup:
    """The window in words, its ends opening, and base pressure as a way out before size."""
    own = next(one for one in found.windows if one.fitted)
    told = Markup("No injector size carries every target.")
    if own.smallest is not None:
        low = opens("size-window", _size(own.smallest, units), case="smallest")
        high = Markup("no size idles")
        if own.largest is not None:
            high = Markup("up to {}").format(opens("size-window", _size(own.largest, units), case="largest"))
        told = Markup("Injector sizes that carry every target and idle: from {}, {}.").format(low, high)
        if own.largest is not None and own.largest < own.smallest:
            most = opens("size-window", _size(own.largest, units), case="largest")
            both = "No injector size does both: every target wants {} or more, idle {} or less."
            told = Markup(both).format(low, most)
    if own.smallest is not None and own.smallest > found.size:
        higher = [
            one for one in found.windows if one.base_kpa > own.base_kpa and one.smallest and one.smallest <= found.size
        ]
        if higher:
            base = " ".join(show(higher[0].base_kpa, "base_kpa", units))
            told += f" Before a larger set: at {base} base these would carry them; the pumps pay for it."
    return told


def _percent(load: float) -> str:
    return f"{load * 100:.0f}\u00a0%" if load < 100 else "none left"
