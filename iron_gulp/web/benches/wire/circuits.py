"""The wiring page: each pump circuit drawn and tabled, in bench units."""

from dataclasses import dataclass

from markupsafe import Markup, escape

from iron_gulp.core.judge import Circuit, circuits
from iron_gulp.services.workshop import Bench
from iron_gulp.units import BenchUnits, show


@dataclass(frozen=True)
class CircuitView:
    name: str
    path: str
    part: str
    pumps: int
    problems: tuple[str, ...]
    figures: list[tuple[str, str]]
    advice: str
    relay: str
    drawing: Markup


def circuit_views(bench: Bench, units: BenchUnits) -> list[CircuitView]:
    """Every pump circuit of the option on the bench."""
    found = circuits(bench.option, bench.judged.verdicts, bench.build.rules)
    return [_view(one, f"options/{bench.option.id}/{one.path}", units) for one in found]


def _view(one: Circuit, path: str, units: BenchUnits) -> CircuitView:
    def text(value: float, name: str) -> str:
        return "\u00a0".join(show(value, name, units))

    figures = [
        ("Current", text(one.current_a, "current_a")),
        ("At the pump", text(one.pump_v, "pump_v")),
        ("Lost", text(one.drop_v, "drop_v")),
        ("Loop", text(one.loop_mohm, "loop_mohm")),
        ("Wire carries", text(one.wire_carries_a, "wire_a")),
        ("Fuse at least", text(one.least_fuse_a, "fuse_a")),
    ]
    feed = one.relay_feed
    relay = (
        f"As wired each pump gets {text(one.pump_v, 'pump_v')} and moves {text(feed.wired_l_h, 'flow_l_h')} against "
        f"{text(feed.rise_kpa, 'rise_kpa')}; on a relay feed of its own in {text(feed.area_mm2, 'area_mm2')} it would "
        f"get {text(feed.fed_v, 'pump_v')} and move {text(feed.fed_l_h, 'flow_l_h')}."
    )
    advice = (
        f"Propose a fuse of {text(one.fuse_proposed_a, 'fuse_a')} on at least {text(one.area_proposed_mm2, 'area_mm2')}, "
        f"one circuit a pump; {one.control}."
    )
    return CircuitView(
        one.name,
        path,
        one.part.name,
        one.pumps,
        one.problems,
        figures,
        advice,
        relay,
        _drawing(one, text),
    )


def _drawing(one: Circuit, text: object) -> Markup:
    """The circuit as a line drawing: battery, fuse, switch, pump, ground."""
    assert callable(text)
    fuse = "no fuse" if one.wiring.fuse_a is None else text(one.wiring.fuse_a, "fuse_a")
    labels = (
        (60, text(one.supply_v, "supply_v"), "battery"),
        (200, fuse, "fuse"),
        (340, one.wiring.switch, text(one.wiring.switch_a, "switch_a")),
        (500, text(one.wiring.area_mm2, "area_mm2"), text(one.current_a, "current_a")),
        (650, text(one.pump_v, "pump_v"), "pump"),
    )
    words = "".join(
        f'<text x="{x}" y="16" class="c-top">{escape(top)}</text><text x="{x}" y="84" class="c-low">{escape(low)}</text>'
        for x, top, low in labels
    )
    return Markup(
        f'<svg class="circuit-drawing" viewBox="0 0 760 104" role="img" aria-label="Circuit of {escape(one.name)}">'
        '<path d="M60 48H180M220 48H310M370 48H632M668 48H720V70" class="c-wire"/>'
        '<path d="M60 36V60M52 42V54" class="c-wire"/>'
        '<rect x="180" y="40" width="40" height="16" class="c-box"/><path d="M180 48H220" class="c-thin"/>'
        '<circle cx="316" cy="48" r="3" class="c-dot"/><circle cx="364" cy="48" r="3" class="c-dot"/>'
        '<path d="M316 48L360 34" class="c-wire"/>'
        '<circle cx="650" cy="48" r="18" class="c-box"/><text x="650" y="54" class="c-mid">M</text>'
        '<path d="M708 70H732M712 75H728M716 80H724" class="c-wire"/>' + words + "</svg>"
    )
