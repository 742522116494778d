"""Minutes until a new blend arrives at sensor and rail: volumes on the way over the flow through them.

Lines and filter pass it on as it comes; a surge tank stirs it in. An estimate: the fuel in the main tank counts as mixed.
"""

from dataclasses import dataclass
from math import log, pi

from ..judge import TargetVerdict
from ..model import Line
from ..solve import IDLE, PEAK, through_feed_m3_s

FILTER_L, SHARE = 0.3, 0.95  # a class figure for what a filter holds; how much of the new blend has to be there
_NONE = 1e-12


@dataclass(frozen=True)
class Arrival:
    """Minutes to 95 % of the new blend at the end of the feed and at the rail; None where none comes.

    `idle` and `load` are at idle and at the target's peak.
    """

    sensor_idle_min: float | None
    sensor_load_min: float | None
    rail_idle_min: float | None
    rail_load_min: float | None


def arrival(verdict: TargetVerdict) -> Arrival:
    """When a new blend arrives on a target."""
    option, hyd = verdict.option, verdict.points.hydraulics
    suction = _litres(option.suction.line) if option.suction.line is not None else 0.0
    lift = 0.0 if option.lift is None else _litres(option.lift.line)
    surge = 0.0 if option.lift is None else option.lift.surge_l
    line = _litres(option.feed) + (FILTER_L if option.filter is not None else 0.0)
    rail = option.rail.count * pi / 4.0 * (option.rail.bore_mm * 1e-2) ** 2 * option.rail.length_m * 10.0
    feed = through_feed_m3_s(option, hyd)
    lifted = 0.0 if verdict.lift is None else verdict.lift.flow_m3_s * 60e3  # L/min; what is too much overflows, mixed

    def minutes(volume: float, flow: float) -> float | None:
        if flow <= _NONE or (surge > 0 and lifted <= _NONE):
            return None
        before = 0.0 if surge == 0 else (suction + lift) / lifted - log(1.0 - SHARE) * surge / lifted
        return before + (volume if surge > 0 else suction + volume) / flow

    flows = [float(feed[at]) * 60e3 for at in (IDLE, PEAK)]
    found = [(minutes(line, flow), minutes(line + rail, flow)) for flow in flows]
    (sensor_idle, rail_idle), (sensor_load, rail_load) = found
    return Arrival(sensor_idle, sensor_load, rail_idle, rail_load)


def _litres(line: Line) -> float:
    """What a line holds, L."""
    return pi / 4.0 * (line.part.bore_mm * 1e-2) ** 2 * line.length_m * 10.0
