"""Mixing ethanol blends in a tank, and reading an ethanol sensor."""

from dataclasses import dataclass
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
