"""When each pump joins: areas of the operating field by the number of pumps running, targets and idle as points."""

from collections.abc import Sequence

import numpy as np
from markupsafe import Markup
from numpy.typing import NDArray

from iron_gulp.core.model import Build, Target
from iron_gulp.core.study import Field
from iron_gulp.units import BenchUnits, quantity_of, show

from ...parts.sketch import Scale, Sketch

WIDTH, HEIGHT, LEFT, RIGHT, TOP, BOTTOM = 640.0, 326.0, 56.0, 610.0, 12.0, 280.0
_PRESSURE = quantity_of("boost_kpa")
SPOOLED = 0.45  # of the way from idle to the peak's speed a turbocharger has made its boost; drawn, not computed


def stage_map(build: Build, field: Field, chosen: Target, targets: Sequence[Target], units: BenchUnits) -> Markup:
    """Areas labelled with what runs, where hysteresis holds a stage on in dots, the line of a pull to the target."""
    rpm, kpa = np.asarray(field.rpm), np.asarray(field.manifold_kpa)
    up = Scale(units.shown(float(kpa[0]), _PRESSURE), units.shown(float(kpa[-1]), _PRESSURE), BOTTOM, TOP)
    across = Scale(float(rpm[0]), float(rpm[-1]), LEFT, RIGHT)
    xs, ys = _edges(across, rpm), [up.at(units.shown(float(one), _PRESSURE)) for one in _middles(kpa)]
    counts = np.asarray(field.stages).round().astype(int)
    leaving = np.asarray(field.stages_leaving).round().astype(int)
    kinds = sorted({int(one) for one in counts.ravel()})
    sketch = Sketch(WIDTH, HEIGHT, "Pumps running over engine speed and manifold pressure: " + ", ".join(map(str, kinds)))
    for row in range(len(kpa)):
        for first, last, count in _runs(counts[row]):
            level = kinds.index(count)
            sketch.bar(xs[first], xs[last + 1], ys[row + 1], ys[row] - ys[row + 1] + 0.3, f"level-{min(level, 3)}")
        for first, last, held in _runs(leaving[row] != counts[row]):
            if held:
                sketch.bar(xs[first], xs[last + 1], ys[row + 1], ys[row] - ys[row + 1] + 0.3, "dots")
    sketch.upwards(up, LEFT, LEFT + 6, units.unit(_PRESSURE).key)
    sketch.across(across, BOTTOM - 6, BOTTOM, "rpm")
    for count in kinds:
        rows, columns = np.nonzero(counts == count)
        x = (xs[int(columns.min())] + xs[int(columns.max()) + 1]) / 2
        y = (ys[int(rows.min())] + ys[int(rows.max()) + 1]) / 2
        words = "no pump" if count == 0 else "1 pump" if count == 1 else f"{count} pumps"
        sketch.text(x, y + 5, words, "s-strong s-haloed", "middle")
    _pull(sketch, build, chosen, across, up, units)
    for target in targets:
        at = up.at(units.shown(target.boost_kpa, _PRESSURE))
        told = f"{target.name}, {' '.join(show(target.boost_kpa, 'boost_kpa', units))}"
        sketch.point(across.at(target.rpm), at, told, target.id == chosen.id)
        sketch.text(across.at(target.rpm) - 9, at + 14, target.name, "s-small s-haloed", "end")
    x, y = across.at(build.engine.idle_rpm), up.at(units.shown(build.engine.idle_manifold_kpa, _PRESSURE))
    sketch.point(x, y, "Idle", False)
    sketch.text(x + 9, y - 6, "idle", "s-small s-haloed")
    told = "Dots: held on by hysteresis on the way down. Line: a pull, its boost drawn and not computed."
    sketch.text(LEFT, HEIGHT - 8, told, "s-small")
    return sketch.svg()


def even(field: Field) -> str:
    """What a field with the same pumps running everywhere says in a sentence; "" where it is not even."""
    counts = {round(float(one)) for one in np.asarray(field.stages).ravel()}
    if len(counts) > 1:
        return ""
    (count,) = counts
    pumps = "One pump runs" if count == 1 else f"All {count} pumps run"
    return f"{pumps} at every speed and pressure, idle included: no stage waits for anything."


def _pull(sketch: Sketch, build: Build, target: Target, across: Scale, up: Scale, units: BenchUnits) -> None:
    engine = build.engine
    spooled = engine.idle_rpm + SPOOLED * (target.rpm - engine.idle_rpm)
    start = engine.idle_rpm + 0.2 * (target.rpm - engine.idle_rpm)
    points = [(start, min(0.0, target.boost_kpa)), (spooled, target.boost_kpa), (target.rpm, target.boost_kpa)]
    sketch.path([(across.at(rpm), up.at(units.shown(kpa, _PRESSURE))) for rpm, kpa in points], "ink")


def _middles(values: NDArray[np.float64]) -> NDArray[np.float64]:
    inner = (values[1:] + values[:-1]) / 2
    return np.concatenate([values[:1], inner, values[-1:]])


def _edges(across: Scale, rpm: NDArray[np.float64]) -> list[float]:
    return [across.at(float(one)) for one in _middles(rpm)]


def _runs(row: NDArray[np.int64] | NDArray[np.bool_]) -> list[tuple[int, int, int]]:
    """Stretches of equal values: first and last position, value."""
    ends = [*np.flatnonzero(np.diff(row)).tolist(), len(row) - 1]
    starts = [0, *(end + 1 for end in ends[:-1])]
    return [(start, end, int(row[start])) for start, end in zip(starts, ends, strict=True)]
