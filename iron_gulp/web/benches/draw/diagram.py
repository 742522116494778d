"""The diagram page: sliders, the drawing at their operating point, and its state in words."""

from collections.abc import Mapping
from dataclasses import dataclass

from markupsafe import Markup

from iron_gulp.core.judge import TargetVerdict
from iron_gulp.core.solve import PEAK, State, injector_count
from iron_gulp.core.study import Conditions, judge_at, of_target
from iron_gulp.services.workshop import Bench
from iron_gulp.units import BenchUnits, quantity_of

from .drawing import draw
from .words import Text

SENTENCES = {
    State.REGULATING: "The regulator holds the set pressure.",
    State.OVERRUN: "More flow than the return side can dump: the rail stands above its set pressure.",
    State.STARVED: "The pumps cannot bring enough: the rail has sunk below its set pressure.",
    State.NO_DIFFERENTIAL: "No pressure across the injectors: no fuel flows.",
}


@dataclass(frozen=True)
class Slider:
    """A slider in kept units; scale and offset let the browser show the bench unit while dragging."""

    name: str
    title: str
    low: float
    high: float
    step: float
    value: float
    text: str
    unit: str
    scale: float
    offset: float
    decimals: int


@dataclass(frozen=True)
class DiagramView:
    svg: Markup
    state: str
    sentence: str
    sliders: tuple[Slider, ...]


def _verdict(bench: Bench, asked: Mapping[str, str]) -> tuple[TargetVerdict, Conditions]:
    own = of_target(bench.verdict.target)
    values = {}
    for name, low, high in _ranges(bench):
        start = getattr(own, name)
        try:
            typed = float(asked.get(name, start))
        except ValueError:
            typed = start
        values[name] = min(max(typed, low), high) if typed == typed else start
    at = Conditions(**values)
    if at == own:
        return bench.verdict, at
    return judge_at(bench.build, bench.option, bench.verdict.target, at), at


def _ranges(bench: Bench) -> tuple[tuple[str, float, float], ...]:
    engine, target = bench.build.engine, bench.verdict.target
    top = max(one.boost_kpa for one in bench.build.targets)
    return (
        ("rpm", engine.idle_rpm, engine.max_rpm),
        ("manifold_kpa", min(engine.idle_manifold_kpa, target.boost_kpa), max(top, target.boost_kpa, 20.0) + 50.0),
        ("ethanol_pct", 0.0, 100.0),
        ("supply_v", min(9.0, target.supply_v), max(15.0, target.supply_v)),
        ("accel_g", min(-1.5, target.accel_g), max(2.5, target.accel_g)),
    )


def _injectors(bench: Bench) -> tuple[int, int]:
    """How many port injectors and how many direct ones."""
    port, high = bench.option.injectors, bench.option.high_side
    direct = 0 if high is None else high.injectors.count or bench.build.engine.cylinders
    return (0 if port is None else injector_count(bench.build, port)), direct


def diagram_view(bench: Bench, units: BenchUnits, asked: Mapping[str, str]) -> DiagramView:
    """The diagram at the sliders' point; missing or unreadable values fall back to the target's."""
    verdict, at = _verdict(bench, asked)
    text = Text(units)

    state = State(int(verdict.points.hydraulics.state[PEAK]))
    first = verdict.first_out
    sentence = f"{SENTENCES[state]} Highest load: {first.title.lower()}, {text(first.load * 100, 'load_pct')}."
    titles = ("Engine speed", "Manifold pressure", "Ethanol", "System voltage", "Acceleration")
    steps = (50.0, 1.0, 1.0, 0.1, 0.05)
    sliders = []
    for (name, low, high), title, step in zip(_ranges(bench), titles, steps, strict=True):
        quantity = quantity_of(name)
        offset = units.shown(0.0, quantity)
        value = getattr(at, name)
        sliders.append(
            Slider(
                name,
                title,
                low,
                high,
                step,
                value,
                text(value, name),
                units.unit(quantity).key,
                units.shown(1.0, quantity) - offset,
                offset,
                units.unit(quantity).decimals,
            )
        )
    return DiagramView(
        draw(verdict, _injectors(bench), text), state.name.capitalize().replace("_", " "), sentence, tuple(sliders)
    )


def diagram_file(bench: Bench, units: BenchUnits) -> str:
    """The diagram at the target's own point as a self-contained SVG file, black on white."""
    return str(draw(bench.verdict, _injectors(bench), Text(units), live=False))
