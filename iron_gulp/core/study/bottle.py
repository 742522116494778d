"""The flow-bottle test: timed bottle fills at set pressures turned into a pump table, and held against a claim."""

from dataclasses import dataclass
from itertools import pairwise

from ..model import PumpCurve, PumpPart
from ..physics import flow_l_h

MATCHES_WITHIN = 0.90  # a healthy pump brings at least this share of its published table


@dataclass(frozen=True)
class Reading:
    """One timed fill: pressure at the pump, volume caught, time, terminal voltage and current."""

    pressure_kpa: float
    volume_l: float
    seconds_s: float
    voltage_v: float
    current_a: float

    @property
    def flow_l_h(self) -> float:
        return self.volume_l / self.seconds_s * 3600.0


@dataclass(frozen=True)
class BottlePoint:
    """A reading beside the claim at its own pressure and voltage."""

    reading: Reading
    claimed_l_h: float | None

    @property
    def share(self) -> float | None:
        if not self.claimed_l_h:
            return None
        return self.reading.flow_l_h / self.claimed_l_h


@dataclass(frozen=True)
class BottleTest:
    """The measured table and the verdict; `matches` is None without a claim."""

    curve: PumpCurve
    points: tuple[BottlePoint, ...]

    @property
    def worst_share(self) -> float | None:
        shares = [point.share for point in self.points if point.share is not None]
        return min(shares) if shares else None

    @property
    def matches(self) -> bool | None:
        return None if self.worst_share is None else self.worst_share >= MATCHES_WITHIN


def bottle_test(readings: list[Reading], claim: PumpPart | None = None) -> BottleTest:
    """A pump table from readings (two or more pressures), and each reading against the claimed part.

    Raises ValueError when the readings make no table: too few, the same pressure twice, or flow rising with pressure.
    """
    ordered = sorted(readings, key=lambda one: one.pressure_kpa)
    if len(ordered) < 2:
        raise ValueError("at least two readings at different pressures are needed")
    if any(one.seconds_s <= 0 for one in ordered):
        raise ValueError("every fill needs a time above zero")
    volts = sum(one.voltage_v for one in ordered) / len(ordered)
    flows = tuple(one.flow_l_h for one in ordered)
    if any(b > a * 1.02 for a, b in pairwise(flows)):
        raise ValueError("flow rises with pressure in these readings: one of them is wrong")
    falling = tuple(min(flows[: index + 1]) for index in range(len(flows)))
    curve = PumpCurve(
        voltage_v=round(volts, 2),
        pressure_kpa=tuple(one.pressure_kpa for one in ordered),
        flow_l_h=tuple(round(flow, 1) for flow in falling),
        current_a=tuple(one.current_a for one in ordered),
    )
    points = tuple(
        BottlePoint(
            one,
            None if claim is None else float(flow_l_h(claim.tables(), one.pressure_kpa, one.voltage_v)),
        )
        for one in ordered
    )
    return BottleTest(curve, points)
