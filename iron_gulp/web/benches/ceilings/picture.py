"""The envelope as a picture: a curve a component, the lower edge strong, the air as a band, targets as points to drag."""

from collections.abc import Sequence

import numpy as np
from markupsafe import Markup, escape

from iron_gulp.core.judge import TargetVerdict
from iron_gulp.core.model import EXPECTED_BAND, TITLES
from iron_gulp.core.physics import Floats
from iron_gulp.core.study import Envelope
from iron_gulp.units import BenchUnits, quantity_of, show

from ...parts.sketch import Point, Scale, Sketch

WIDTH, HEIGHT, LEFT, RIGHT, TOP, BOTTOM = 640.0, 330.0, 54.0, 512.0, 10.0, 300.0
KINDS = ("ink", "soft", "dotted", "thin", "dashed")
ABOVE, MOST_ABOVE = 1.25, 2.2  # how far the picture goes above the targets, and above them at most
BELOW = 0.6  # where it begins, of the lowest power in it
UNITS = {"ethanol_pct": "% ethanol", "rpm": "rpm"}
_POWER = quantity_of("power_kw")


def places_of(found: Envelope, verdict: TargetVerdict) -> float:
    """Where a target stands on the axis."""
    if found.axis == "ethanol_pct":
        return verdict.target.ethanol_pct
    return verdict.target.rpm if found.axis == "rpm" else verdict.option.regulator.base_kpa


def envelope_picture(
    found: Envelope, verdicts: Sequence[TargetVerdict], chosen: TargetVerdict, units: BenchUnits
) -> Markup:
    """Power against the axis; points of other targets are faint, and on other axes than blends not there."""
    quantity = quantity_of(found.axis)
    shown_at = [units.shown(float(one), quantity) for one in found.at]
    across = Scale(shown_at[0], shown_at[-1], LEFT, RIGHT)
    low, high = _reach(found, verdicts, chosen)
    up = Scale(units.shown(low, _POWER), units.shown(high, _POWER), BOTTOM, TOP)
    sketch = Sketch(WIDTH, HEIGHT, _told(found, chosen, units))
    sketch.upwards(up, LEFT, RIGHT, units.unit(_POWER).key)
    sketch.across(across, TOP, BOTTOM, UNITS.get(found.axis, units.unit(quantity).key))

    def walk(kw: Floats) -> list[list[Point]]:
        """The curve in pieces that lie within the picture."""
        pieces: list[list[Point]] = [[]]
        for place, value in zip(shown_at, kw, strict=True):
            if np.isfinite(value) and low <= value <= high:
                pieces[-1].append((across.at(place), up.at(units.shown(float(value), _POWER))))
            elif pieces[-1]:
                pieces.append([])
        return [one for one in pieces if len(one) > 1]

    ends: list[tuple[float, str, str]] = []
    _air(sketch, found, walk, ends)
    drawn = 0
    for component, kw in found.curves.items():
        pieces = walk(kw)
        for piece in pieces:
            sketch.path(piece, KINDS[drawn % len(KINDS)])
        if pieces:
            drawn += 1
            last = pieces[-1][-1]
            if last[0] > RIGHT - 1:
                ends.append((last[1], TITLES[component].lower(), "s-small"))
            else:
                sketch.text(last[0], last[1] - 6, TITLES[component].lower(), "s-small s-haloed", "end")
    for piece in walk(found.limit_kw):
        sketch.path(piece, "edge")
    lowest = TOP - 20
    for place, words, kind in sorted(ends):
        lowest = max(place, lowest + 15)
        sketch.text(RIGHT + 8, min(lowest, BOTTOM + 8) + 4, words, kind)
    moves = found.axis == "ethanol_pct"
    for verdict in verdicts if moves else [chosen]:
        place = across.at(units.shown(places_of(found, verdict), quantity))
        level = up.at(units.shown(verdict.target.power_kw, _POWER))
        sketch.parts.append(_handle(verdict, place, level, verdict is chosen, moves, units))
    if moves:
        kept = (units.kept(up.low, _POWER), units.kept(up.high, _POWER))
        frame = f'data-left="{LEFT}" data-right="{RIGHT}" data-top="{TOP}" data-bottom="{BOTTOM}" '
        frame += f'data-low="{kept[0]:.6g}" data-high="{kept[1]:.6g}" data-step="{units.kept(1.0, _POWER):.9g}"'
        sketch.parts.append(f"<g class='drag-frame' {frame}></g>")
    return sketch.svg("envelope", "group" if moves else "img")


def _reach(found: Envelope, verdicts: Sequence[TargetVerdict], chosen: TargetVerdict) -> tuple[float, float]:
    """Lowest and highest power of the picture, kW: targets and the lower edge are in it, what is far above is not."""
    asked = [one.target.power_kw for one in verdicts] if found.axis == "ethanol_pct" else [chosen.target.power_kw]
    edge = found.limit_kw[np.isfinite(found.limit_kw)]
    top = max(ABOVE * max(asked), ABOVE * float(edge.max(initial=0.0)))
    least = min([*asked, *(float(one) for one in edge if one > 0)])
    return BELOW * least, min(top, MOST_ABOVE * max(asked))


def _air(sketch: Sketch, found: Envelope, walk: object, ends: list[tuple[float, str, str]]) -> None:
    assert callable(walk)
    for one, other in zip(
        walk(found.air_kw * (1.0 - EXPECTED_BAND)), walk(found.air_kw * (1.0 + EXPECTED_BAND)), strict=False
    ):
        sketch.path([*one, *reversed(other)], "band")
        ends.append(((one[-1][1] + other[-1][1]) / 2, "air expected", "s-small"))
    for piece in walk(found.compressor_kw):
        sketch.path(piece, "limit")
        ends.append((piece[-1][1], "compressor", "s-small"))


def _handle(verdict: TargetVerdict, x: float, y: float, strong: bool, moves: bool, units: BenchUnits) -> str:
    target = verdict.target
    power = " ".join(show(target.power_kw, "power_kw", units))
    words = escape(f"{target.name}: {power} on E{target.ethanol_pct:g}")
    shape = f'<path class="s-point{"" if strong else " s-faint"}" d="M0 -7L7 0L0 7L-7 0Z"/>'
    side = ' text-anchor="end" x="-11"' if x > RIGHT - 110 else ' x="11"'
    label = (
        f'<text class="s-text s-haloed {"s-strong" if strong else "s-small"}"{side} y="4">{escape(target.name)}</text>'
    )
    drag = ""
    if moves:
        drag = (
            f' class="handle" tabindex="0" role="slider" aria-label="{escape(target.name)}: blend and power" '
            f'aria-valuemin="0" aria-valuemax="100" aria-valuenow="{target.ethanol_pct:g}" aria-valuetext="{words}" '
            f'data-target="{target.id}" data-ethanol="{target.ethanol_pct:g}" data-power="{target.power_kw:.9g}"'
        )
    grip = '<circle class="s-grip" r="22"/>' if moves else ""
    return f'<g transform="translate({x:.1f} {y:.1f})"{drag}><title>{words}</title>{grip}{shape}{label}</g>'


def _told(found: Envelope, chosen: TargetVerdict, units: BenchUnits) -> str:
    """The picture in a sentence."""
    place = int(np.abs(found.at - places_of(found, chosen)).argmin())
    limit, first = found.limit_kw[place], found.limiting[place]
    if first is None:
        return f"Power ceilings of every component; nothing ends the power of {chosen.target.name}"
    power = " ".join(show(float(limit), "power_kw", units))
    return f"Power ceilings of every component; on {chosen.target.name} {TITLES[first].lower()} end it at {power}"
