"""Over engine speed: what low pumps, high-pressure pumps and the injectors' window carry, against what is asked."""

from dataclasses import dataclass
from typing import Literal

import numpy as np

from ..judge import TargetVerdict
from ..model import Build
from ..physics import Floats, floats
from ..solve import solve_points

Limit = Literal["low pump", "high pump", "window"]
_POINTS = 49


@dataclass(frozen=True)
class HighLimits:
    """Direct fuel over engine speed at the target's boost, kg/h, arrays of shape (speeds,).

    `asked_kg_h` keeps the fuel of a cycle that the target has at its own speed; `rail_kpa` is the worst rail's.
    """

    rpm: Floats
    asked_kg_h: Floats
    delivered_kg_h: Floats
    low_pump_kg_h: Floats
    high_pump_kg_h: Floats
    window_kg_h: Floats
    rail_kpa: Floats
    target_kpa: Floats

    def least(self) -> tuple[Limit, float, float] | None:
        """What gives in first as speed rises, from which speed, and the most missing, kg/h; None where none does."""
        kinds: tuple[Limit, ...] = ("low pump", "high pump", "window")
        every = np.array([self.low_pump_kg_h, self.high_pump_kg_h, self.window_kg_h])
        short = self.asked_kg_h > every * (1.0 + 1e-6)
        if not short.any():
            return None
        first = int(np.argmax(short.any(axis=0)))
        margins = np.where(short[:, first], every[:, first], np.inf)
        missing = float(np.max(self.asked_kg_h - self.delivered_kg_h))
        return kinds[int(np.argmin(margins))], float(self.rpm[first]), missing

    def nearest(self) -> tuple[Limit, float]:
        """The limit with the least in hand at the target's own kind of load, and its share used at the worst speed."""
        kinds: tuple[Limit, ...] = ("low pump", "high pump", "window")
        every = np.array([self.low_pump_kg_h, self.high_pump_kg_h, self.window_kg_h])
        shares = (self.asked_kg_h / np.maximum(every, 1e-9)).max(axis=1)
        worst = int(np.argmax(shares))
        return kinds[worst], float(shares[worst])


def high_limits(build: Build, verdict: TargetVerdict) -> HighLimits:
    """The limits of a target on its option, from a third above idle to the highest engine speed.

    Raises KeyError without direct injection.
    """
    direct = verdict.points.direct
    if direct is None:
        raise KeyError("no direct injection")
    target, engine = verdict.target, build.engine
    top = max(engine.max_rpm, target.rpm)
    rpm = np.unique(np.append(np.linspace(min(engine.idle_rpm * 1.3, 0.5 * top), top, _POINTS), target.rpm))
    wanted = floats(verdict.demand.chosen_kg_s * rpm / target.rpm)
    found = solve_points(build, verdict.option, target, rpm, target.boost_kpa, wanted)
    side = found.direct
    assert side is not None
    density = verdict.fuel.density_kg_m3
    low = found.hydraulics.supply_at_set_m3_s * density - side.port_kg_s
    pumps = floats(sum(pump.capacity_kg_s for pump in side.pumps))
    if len(side.rails) > 1:
        pumps = floats(len(side.rails) * np.minimum.reduce([pump.capacity_kg_s for pump in side.pumps]))
    return HighLimits(
        rpm=floats(rpm),
        asked_kg_h=floats(side.direct_kg_s * 3600.0),
        delivered_kg_h=floats(side.delivered_kg_s * 3600.0),
        low_pump_kg_h=floats(np.maximum(low, 0.0) * 3600.0),
        high_pump_kg_h=floats(pumps * 3600.0),
        window_kg_h=floats(side.window_kg_s * 3600.0),
        rail_kpa=side.worst.rail_kpa,
        target_kpa=side.target_kpa,
    )
