"""What a fuse protects behind the wire: terminals, the pins through the hat, the pump's own pigtail."""

from typing import Literal, NamedTuple

from ..model import PumpPart, Wiring
from ..physics import next_fuse_a, smallest_fuse_a
from .wiring import wire_carries_a

# Class figures of what nobody stated, A: a terminal is crimped for its wire; a hat's pins are one size; a pump's maker
# gives it leads that bear the fuse of the most it draws, and no thinner than these.
TERMINAL_A = ((2.5, 30.0), (6.0, 40.0))  # up to a wire's size, mm²
LARGE_TERMINAL_A = 80.0
HAT_PIN_A = 30.0
LEAST_PIGTAIL_A = 25.0
Place = Literal["terminal", "hat pin", "pigtail"]


class Segment(NamedTuple):
    """One piece behind the wire: what it carries, A, and whether somebody stated that or it is a class figure."""

    place: Place
    carries_a: float
    stated: bool


def segments(wiring: Wiring, part: PumpPart, in_fuel: bool) -> tuple[Segment, ...]:
    """What lies between a circuit's wire and its pump; pins through a hat only where stated, or where it sits in fuel."""
    largest = max(max(curve.current_a) for curve in part.curves)
    pigtail = max(LEAST_PIGTAIL_A, next_fuse_a(float(smallest_fuse_a(largest))))
    found = [_segment("terminal", wiring.terminal_a, _terminal_a(wiring.area_mm2))]
    if in_fuel or wiring.hat_pin_a is not None:
        found.append(_segment("hat pin", wiring.hat_pin_a, HAT_PIN_A))
    return (*found, _segment("pigtail", part.pigtail_a, pigtail))


def _segment(place: Place, stated_a: float | None, class_a: float) -> Segment:
    return Segment(place, class_a if stated_a is None else stated_a, stated_a is not None)


def _terminal_a(area_mm2: float) -> float:
    return next((carries for most, carries in TERMINAL_A if area_mm2 <= most), LARGE_TERMINAL_A)


def circuit_carries_a(wiring: Wiring, part: PumpPart) -> float:
    """What a pump's circuit carries for good, A: its wire, or the weakest that is stated behind it."""
    return min([wire_carries_a(wiring), *stated_a(wiring, part)])


def stated_a(wiring: Wiring, part: PumpPart) -> list[float]:
    """What the stated segments behind a wire carry, A."""
    return [one for one in (wiring.terminal_a, wiring.hat_pin_a, part.pigtail_a) if one is not None]
