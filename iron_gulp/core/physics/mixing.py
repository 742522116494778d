"""Mixing ethanol blends in a tank, and reading an ethanol sensor."""

from dataclasses import dataclass
from math import ceil, floor
from typing import Literal


@dataclass(frozen=True)
class Fill:
    """How to fill a tank to the top: litres of each fuel, the blend reached (%), and whether it is the one asked."""

    strong_l: float
    weak_l: float
    reached_pct: float
    wanted_pct: float
    lowest_pct: float
    highest_pct: float

    @property
    def reachable(self) -> bool:
        return self.lowest_pct - 1e-9 <= self.wanted_pct <= self.highest_pct + 1e-9


def fill_to_blend(
    tank_l: float, held_l: float, held_pct: float, wanted_pct: float, strong_pct: float, weak_pct: float
) -> Fill:
    """Fill the tank to the top from a strong and a weak fuel so that it holds `wanted_pct` ethanol.

    Volumes are additive (physics §1). An unreachable target gives the nearest blend that can be reached, and the
    reachable range. Raises ValueError when the tank holds more than it can, or the two fuels are the wrong way round.
    """
    if not 0 <= held_l <= tank_l:
        raise ValueError("the fuel already held must lie between nothing and the tank volume")
    if strong_pct <= weak_pct:
        raise ValueError("the strong fuel must hold more ethanol than the weak fuel")
    room_l = tank_l - held_l
    held_ethanol = held_l * held_pct
    lowest, highest = ((held_ethanol + room_l * pct) / tank_l for pct in (weak_pct, strong_pct))
    wanted = min(max(wanted_pct, lowest), highest)
    strong_l = (tank_l * wanted - held_ethanol - room_l * weak_pct) / (strong_pct - weak_pct)
    strong_l = min(max(strong_l, 0.0), room_l)
    return Fill(strong_l, room_l - strong_l, wanted, wanted_pct, lowest, highest)


@dataclass(frozen=True)
class Pour:
    """Whole cans of each fuel for a tank, litres poured, and the blend then reached (%)."""

    strong_cans: int
    weak_cans: int
    strong_l: float
    weak_l: float
    reached_pct: float


def whole_cans(
    tank_l: float,
    held_l: float,
    held_pct: float,
    wanted_pct: float,
    strong_pct: float,
    weak_pct: float,
    can_l: float,
) -> Pour:
    """The pour in whole cans that comes nearest to a blend, the fullest tank among equals; never over the tank.

    Raises ValueError as `fill_to_blend` does, and for a can of nothing or one larger than the room left.
    """
    fill_to_blend(tank_l, held_l, held_pct, wanted_pct, strong_pct, weak_pct)
    if can_l <= 0:
        raise ValueError("a can holds more than nothing")
    most = floor((tank_l - held_l) / can_l + 1e-9)
    if most < 1:
        raise ValueError("there is no room for a whole can")
    best: tuple[float, int, Pour] | None = None
    for strong in range(most + 1):
        for weak in range(most + 1 - strong):
            held = held_l + (strong + weak) * can_l
            if held <= 0:
                continue
            pct = (held_l * held_pct + can_l * (strong * strong_pct + weak * weak_pct)) / held
            key = round(abs(pct - wanted_pct), 9), -(strong + weak)
            if best is None or key < best[:2]:
                best = (*key, Pour(strong, weak, strong * can_l, weak * can_l, pct))
    assert best is not None
    return best[2]


@dataclass(frozen=True)
class Drain:
    """How to bring a tank to a blend: what may stay, what must go (in cans, minutes and ampere-hours), then the level.

    `level_l` is how far it is then filled. `reachable` is false where that fuel cannot bring it there from any level;
    `nearest_pct` is what it can come to.
    """

    keep_l: float
    drain_l: float
    level_l: float
    cans: int
    minutes: float
    ampere_h: float
    reachable: bool
    nearest_pct: float


def drain_to_blend(
    tank_l: float,
    held_l: float,
    held_pct: float,
    wanted_pct: float,
    fill_pct: float,
    can_l: float,
    flow_l_h: float,
    current_a: float,
) -> Drain:
    """The most litres that may stay so that filling up with one fuel reaches a blend, and the level to fill to.

    Raises ValueError when the tank holds more than it can, or without cans or flow.
    """
    if not 0 <= held_l <= tank_l:
        raise ValueError("the fuel already held must lie between nothing and the tank volume")
    if can_l <= 0 or flow_l_h <= 0:
        raise ValueError("a can and a pump's flow are more than nothing")
    between = min(held_pct, fill_pct) - 1e-9 <= wanted_pct <= max(held_pct, fill_pct) + 1e-9
    nearest = min((held_pct, fill_pct), key=lambda one: abs(one - wanted_pct))
    reached = wanted_pct if between else nearest
    # Share of the mix that is the old fuel; of equal fuels all of it may stay.
    share = 1.0 if abs(held_pct - fill_pct) < 1e-9 else (reached - fill_pct) / (held_pct - fill_pct)
    keep = min(tank_l * share, held_l)
    level = tank_l if share <= 0 else min(keep / share, tank_l)
    drained = held_l - keep
    hours = drained / flow_l_h
    cans = ceil(drained / can_l - 1e-9)
    return Drain(keep, drained, level, cans, hours * 60.0, hours * current_a, between, reached)


@dataclass(frozen=True)
class Signal:
    """What an ethanol sensor gives: frequency, pulse width, and the output converted to volts."""

    frequency_hz: float
    pulse_ms: float
    output_v: float


def ethanol_signal(ethanol_pct: float, temp_c: float, zero_v: float = 0.0, full_v: float = 5.0) -> Signal:
    """The automotive signal of a blend at a temperature, the inverse of reading it. Raises ValueError out of range."""
    if not 0 <= ethanol_pct <= 100:
        raise ValueError("ethanol content lies between 0 and 100 %")
    if not -40 <= temp_c <= 125:
        raise ValueError("the signal carries fuel temperatures from -40 to 125 °C")
    share = ethanol_pct / 100.0
    return Signal(50.0 + ethanol_pct, 1.0 + (temp_c + 40.0) / 165.0 * 4.0, zero_v + share * (full_v - zero_v))


@dataclass(frozen=True)
class Proof:
    """A sensor against a known mix: what it should read, how far it is off in points, whether it passes."""

    expected_pct: float
    off_points: float
    passes: bool


def prove_sensor(
    first_l: float, first_pct: float, second_l: float, second_pct: float, read_pct: float, tolerance_points: float
) -> Proof:
    """A reading against two fuels poured together. Raises ValueError without any fuel."""
    whole = first_l + second_l
    if whole <= 0:
        raise ValueError("a known mix is made of some fuel")
    expected = (first_l * first_pct + second_l * second_pct) / whole
    off = read_pct - expected
    return Proof(expected, off, abs(off) <= tolerance_points + 1e-9)


@dataclass(frozen=True)
class SensorReading:
    """An ethanol sensor's signal read: content, fuel temperature and output voltage, or the fault and its reason."""

    ethanol_pct: float | None
    temp_c: float | None
    output_v: float | None
    fault: str | None


def read_ethanol_sensor(
    frequency_hz: float, pulse_ms: float | None = None, zero_v: float = 0.0, full_v: float = 5.0
) -> SensorReading:
    """Read the automotive ethanol-sensor signal: 50…150 Hz is 0…100 %, pulse 1…5 ms is −40…125 °C, both linear."""
    fault: Literal["frequency below 50 Hz", "frequency above 150 Hz", "pulse width outside 1 to 5 ms"] | None = None
    if frequency_hz < 50.0:
        fault = "frequency below 50 Hz"
    elif frequency_hz > 150.0:
        fault = "frequency above 150 Hz"
    elif pulse_ms is not None and not 1.0 <= pulse_ms <= 5.0:
        fault = "pulse width outside 1 to 5 ms"
    if fault:
        return SensorReading(None, None, None, fault)
    share = (frequency_hz - 50.0) / 100.0
    temp_c = None if pulse_ms is None else -40.0 + (pulse_ms - 1.0) / 4.0 * 165.0
    return SensorReading(share * 100.0, temp_c, zero_v + share * (full_v - zero_v), None)
