"""The wiring page: each pump circuit tabled, in bench units."""

from dataclasses import dataclass

from iron_gulp.core.judge import HABITS, Circuit
from iron_gulp.core.solve import Segment
from iron_gulp.services.workshop import Bench
from iron_gulp.units import BenchUnits, show

BEHIND_IT = {"terminal": "terminals", "hat pin": "pins through the hat", "pigtail": "pigtail"}
BEHIND = {"terminal": "Terminals carry", "hat pin": "Pins through the hat", "pigtail": "Pigtail carries"}


@dataclass(frozen=True)
class CircuitView:
    name: str
    path: str
    part: str
    pumps: int
    problems: tuple[str, ...]
    at_fault: bool  # by more than a habit
    figures: list[tuple[str, str]]
    advice: str
    relay: str
    in_words: str  # what the picture shows of it


def circuit_views(found: list[Circuit], bench: Bench, units: BenchUnits) -> list[CircuitView]:
    """The circuits found of the option on the bench."""
    return [_view(one, f"options/{bench.option.id}/{one.path}", units) for one in found]


def _carries(words: str, one: Segment) -> str:
    return words if one.stated else f"usually {words}"


def _view(one: Circuit, path: str, units: BenchUnits) -> CircuitView:
    def text(value: float, name: str) -> str:
        return "\u00a0".join(show(value, name, units))

    where = "behind its booster" if one.boosted else "at the battery"
    in_words = (
        f"{one.name}: {one.pumps} × {text(one.current_a, 'current_a')}, {text(one.supply_v, 'supply_v')} {where}, "
        f"{text(one.pump_v, 'pump_v')} at the pump, {text(one.drop_v, 'drop_v')} lost"
    )
    figures = [
        ("Loop", text(one.loop_mohm, "loop_mohm")),
        ("Wire carries", text(one.wire_carries_a, "wire_a")),
        *((BEHIND[each.place], _carries(text(each.carries_a, "wire_a"), each)) for each in one.segments),
        ("Fuse at least", text(one.least_fuse_a, "fuse_a")),
    ]
    feed = one.relay_feed
    arrives, motor = text(one.arrives_v, "pump_v"), text(one.pump_v, "pump_v")
    if one.controlled:
        own = f"which gives the motor {motor}: what it takes off is its own doing, not the wire's"
        own = "which draws more as that falls" if one.part.kind == "brushless" else own
        relay = f"{arrives} arrives at its speed controller, {own}."
    else:
        relay = (
            f"As wired each pump gets {motor} and moves {text(feed.wired_l_h, 'flow_l_h')} against "
            f"{text(feed.rise_kpa, 'rise_kpa')}; on a relay feed of its own in {text(feed.area_mm2, 'area_mm2')} it "
            f"would get {text(feed.fed_v, 'pump_v')} and move {text(feed.fed_l_h, 'flow_l_h')}."
        )
    advice = (
        f"Propose a fuse of {text(one.fuse_proposed_a, 'fuse_a')} on at least {text(one.area_proposed_mm2, 'area_mm2')}, "
        f"one circuit a pump; {one.control}."
    )
    weak = [BEHIND_IT[each.place] for each in one.segments if each.stated and each.carries_a < one.fuse_proposed_a]
    if weak:
        advice += f" Its {' and '.join(weak)} must be renewed for that fuse first."
    if one.fused_a > one.own_a:
        advice += f" Its fuse carries {text(one.fused_a, 'current_a')} of all pumps on it."
    if one.switched_a > one.own_a:
        advice += f" Its relay or controller switches {text(one.switched_a, 'current_a')} of all pumps on it."
    return CircuitView(
        one.name,
        path,
        one.part.name,
        one.pumps,
        one.problems,
        not HABITS.issuperset(one.problems),
        figures,
        advice,
        relay,
        in_words,
    )
