"""The circuits as rungs of one ladder, with the volts that fall along each against what the rules allow."""

from collections.abc import Callable, Sequence

from markupsafe import Markup

from iron_gulp.core.judge import HABITS, Circuit, Fault
from iron_gulp.units import BenchUnits, show

from ...parts.sketch import Sketch

WIDTH, RUNG, TOP = 900.0, 100.0, 18.0
BATTERY, FUSE, SWITCH, PUMP, GROUND = 170.0, 262.0, 362.0, 610.0, 860.0
DEPTH = 28.0  # of the deepest fall drawn
LABEL = 9.0  # half of what a label takes of the height
READABLE_V = 0.05  # more than the limit by less than this reads as the limit
# The part of a circuit that a fault is marked at.
AT: dict[Fault, str] = {
    "no fuse entered": "fuse",
    "fuse below the current": "fuse",
    "fuse run above 80 %": "fuse",
    "fuse larger than the wire carries": "fuse",
    "fuse larger than a segment carries": "fuse",
    "fuse larger than an unstated segment": "fuse",
    "wire too thin": "wire",
    "segment too weak": "wire",
    "switch too weak": "switch",
    "switch too hot where it sits": "switch",
    "factory feed loses too much": "switch",
    "relay coils too much for their circuit": "switch",
    "painted or shared ground": "ground",
}
Text = Callable[[float, str], str]


def rungs(circuits: Sequence[Circuit], allowed_v: float, units: BenchUnits) -> Markup:
    """Every pump circuit from the battery to ground: what it carries, and the volts lost on the way below it."""

    def text(value: float, name: str) -> str:
        return "\u00a0".join(show(value, name, units))

    label = "The pumps' circuits from the battery to ground, and where volts fall"
    sketch = Sketch(WIDTH, TOP + RUNG * len(circuits), label)
    deepest = max([allowed_v, *(sum(one.falls_v) for one in circuits)])
    for number, one in enumerate(circuits):
        _rung(sketch, TOP + RUNG * number, one, allowed_v, deepest, text)
    return sketch.svg("wire-rungs")


def _rung(sketch: Sketch, top: float, one: Circuit, allowed_v: float, deepest: float, text: Text) -> None:
    faulty = {AT[fault] for fault in one.problems if fault not in HABITS}

    def tone(part: str) -> str:
        return "s-strong s-wrong" if part in faulty else ""

    y, wiring = top + 22.0, one.wiring
    fuse = "no fuse" if wiring.fuse_a is None else f"fuse {text(wiring.fuse_a, 'fuse_a')}"
    length = text(wiring.loop_m / 2.0, "loop_m")
    sketch.text(0, y - 2, one.name, "s-strong")
    sketch.text(0, y + 14, f"{one.pumps} × {text(one.current_a, 'current_a')}")
    _symbols(sketch, y, faulty, wiring.fuse_a is not None)
    source = text(one.supply_v, "supply_v") + (" boosted" if one.boosted else "")
    sketch.text(BATTERY, y - 18, source, "s-strong", "middle")
    sketch.text(FUSE, y - 14, fuse, tone("fuse"), "middle")
    sketch.text(SWITCH, y - 14, wiring.switch, tone("switch"), "middle")
    middle = (SWITCH + PUMP) / 2 + 4
    sketch.text(middle, y - 7, f"{text(wiring.area_mm2, 'area_mm2')}, {length}", tone("wire"), "middle")
    sketch.text(PUMP, y - 21, text(one.pump_v, "pump_v"), "s-strong", "middle")
    sketch.text((PUMP + GROUND) / 2, y - 7, f"back, {length}", tone("wire"), "middle")
    sketch.text(GROUND, y - 7, "ground", tone("ground"), "middle")
    _falls(sketch, y + 26.0, one, allowed_v, deepest, text)


def _symbols(sketch: Sketch, y: float, faulty: set[str], fused: bool) -> None:
    """Battery, fuse, switch, motor and ground on one line; what is at fault is drawn heavy."""

    def kind(part: str) -> str:
        return "wrong" if part in faulty else "ink"

    left, right = FUSE - 18, FUSE + 18
    sketch.line(BATTERY - 4, y - 10, BATTERY - 4, y + 10)
    sketch.line(BATTERY, y - 5, BATTERY, y + 5)
    sketch.line(BATTERY, y, left, y)
    sketch.path([(left, y - 7), (right, y - 7), (right, y + 7), (left, y + 7), (left, y - 7)], kind("fuse"))
    if fused:
        sketch.line(left, y, right, y, kind("fuse"))
    sketch.line(right, y, SWITCH - 18, y)
    sketch.line(SWITCH - 18, y, SWITCH + 14, y - 10, kind("switch"))
    sketch.circle(SWITCH - 18, y, 2.5, kind("switch"))
    sketch.circle(SWITCH + 18, y, 2.5, kind("switch"))
    sketch.line(SWITCH + 18, y, PUMP - 15, y, kind("wire"))
    sketch.circle(PUMP, y, 15)
    sketch.text(PUMP, y + 5, "M", "s-strong", "middle")
    sketch.line(PUMP + 15, y, GROUND, y, kind("wire"))
    for drop, half in ((0.0, 12.0), (5.0, 8.0), (10.0, 4.0)):
        sketch.line(GROUND - half, y + drop, GROUND + half, y + drop, kind("ground"))


def _falls(sketch: Sketch, y: float, one: Circuit, allowed_v: float, deepest: float, text: Text) -> None:
    """Volts lost so far, falling from the battery to ground, and the line they should stay above."""

    def down(volts: float) -> float:
        return y + DEPTH * volts / deepest

    joints, there, back, ground = one.falls_v
    at_pump, behind, lost = joints + there, joints + there + back, joints + there + back + ground
    over = lost > allowed_v + READABLE_V
    walk = [(BATTERY, y), (SWITCH - 18, y), (SWITCH + 18, down(joints)), (PUMP - 15, down(at_pump))]
    walk += [(PUMP + 15, down(at_pump)), (GROUND - 6, down(behind)), (GROUND + 6, down(lost))]
    sketch.line(BATTERY, y, GROUND, y, "hair")
    sketch.line(BATTERY, down(allowed_v), GROUND, down(allowed_v), "soft")
    sketch.path(walk, "wrong" if over else "fuel")
    sketch.text(BATTERY - 8, down(allowed_v) + 4, f"{text(allowed_v, 'drop_v')} allowed", "s-small", "end")
    label = y + 14 if abs(y + 10 - down(allowed_v)) > LABEL else y - 5
    sketch.text(SWITCH - 22, label, f"joints {text(joints, 'drop_v')}", "s-small s-haloed", "end")
    middle = down(joints + there / 2)
    # Above the fall where it would lie on the line of what is allowed.
    label = middle + 16 if abs(middle + 12 - down(allowed_v)) > LABEL else middle - 5
    sketch.text((SWITCH + PUMP) / 2, label, f"wire {text(there, 'drop_v')}", "s-small s-haloed", "middle")
    words = f"{text(lost, 'drop_v')} lost" + (", too much" if over else "")
    sketch.text(GROUND + 12, down(lost) + 16, words, "s-strong s-wrong" if over else "s-strong", "end")
