"""Minutes until a new blend arrives at sensor and rail: every volume on the way over the flow that passes there.

Lines, filter and rails pass it on as it comes; a surge tank stirs it in. An estimate: the fuel in the main tank counts as
mixed. Past the split each branch has its own share of the flow, past the high-pressure pumps only what is injected: at
idle that takes minutes.
"""

from dataclasses import dataclass
from math import inf, log, pi

from ..judge import TargetVerdict
from ..model import Line, in_branch, restrictions
from ..physics import floats
from ..solve import IDLE, PEAK, FluidState, rails_joined, split_flows_m3_s, through_feed_m3_s

FILTER_L, SHARE = 0.3, 0.95  # a class figure for what a filter holds; how much of the new blend has to be there
L_MIN = 60e3  # of a m³/s
_NONE = 1e-9  # L/min: nothing flows


@dataclass(frozen=True)
class Arrival:
    """Minutes to 95 % of the new blend where the sensor sits and at the last rail; None where none comes.

    Without a sensor its figures are of the end of the feed. `idle` and `load` are at idle and at the peak. A side
    that passes nothing at a point is not waited for there.
    """

    sensor_idle_min: float | None
    sensor_load_min: float | None
    rail_idle_min: float | None
    rail_load_min: float | None


def arrival(verdict: TargetVerdict) -> Arrival:
    """When a new blend arrives on a target."""
    (sensor_idle, rail_idle), (sensor_load, rail_load) = (_at(verdict, at) for at in (IDLE, PEAK))
    return Arrival(*(_or_none(one) for one in (sensor_idle, sensor_load, rail_idle, rail_load)))


def _or_none(minutes: float) -> float | None:
    return None if minutes == inf else minutes


def _at(verdict: TargetVerdict, at: int) -> tuple[float, float]:
    """Minutes to the sensor and to the last rail at one point; infinite where nothing flows."""
    option, hyd = verdict.option, verdict.points.hydraulics
    through = float(through_feed_m3_s(option, hyd)[at]) * L_MIN
    at_feed = _before_pumps(verdict, through) + _minutes(_feed_litres(verdict), through)
    branches = _branches(verdict, at)
    rails = _rails(verdict, at)
    at_rail = at_feed + max(branches, default=0.0) + max(rails, default=inf)
    sensor = option.ethanol_sensor
    if sensor is not None and sensor.place == "in the return":
        returns = float(hyd.bypass_m3_s[at]) * L_MIN > _NONE
        return (at_feed + max(branches, default=0.0) + _port_rail(verdict, at) if returns else inf), at_rail
    return at_feed + (branches[0] if in_branch(option) is not None else 0.0), at_rail


def _before_pumps(verdict: TargetVerdict, through: float) -> float:
    """Minutes from the main tank to the pumps' outlet: the suction line, or lift line and surge tank before it."""
    option = verdict.option
    suction = 0.0 if option.suction.line is None else _litres(option.suction.line)
    if option.lift is None:
        return _minutes(suction, through)
    lifted = 0.0 if verdict.lift is None else verdict.lift.flow_m3_s * L_MIN  # what is too much overflows, mixed
    stirred = _minutes(_litres(option.lift.line) - log(1.0 - SHARE) * option.lift.surge_l, lifted)
    return stirred + _minutes(suction, through)


def _feed_litres(verdict: TargetVerdict) -> float:
    option = verdict.option
    passages = sum(_bore_litres(one.element.bore_mm, one.element.length_m) for one in restrictions(option, "feed"))
    return _litres(option.feed) + (FILTER_L if option.filter is not None else 0.0) + passages


def _branches(verdict: TargetVerdict, at: int) -> list[float]:
    """Minutes through each branch of the split at its own flow."""
    option, fuel = verdict.option, verdict.fuel
    if option.split is None:
        return []
    through = float(through_feed_m3_s(option, verdict.points.hydraulics)[at])
    fluid = FluidState(fuel.density_kg_m3, fuel.viscosity_mpa_s)
    flows = split_flows_m3_s(option.split, floats([through]), fluid, rails_joined(option), in_branch(option))[:, 0]
    return [
        _minutes(_litres(one.line), float(flow) * L_MIN) for one, flow in zip(option.split.branches, flows, strict=True)
    ]


def _rails(verdict: TargetVerdict, at: int) -> list[float]:
    """Minutes from the end of the feed through each rail that is fed at this point, port and direct."""
    found = [_port_rail(verdict, at)] if verdict.option.injectors is not None or verdict.points.direct is None else []
    return [one for one in (*found, *_direct_rails(verdict, at)) if one < inf]


def _port_rail(verdict: TargetVerdict, at: int) -> float:
    """Minutes through the port rail: by all that passes it where the rails are joined, else by what is injected."""
    option, hyd, direct = verdict.option, verdict.points.hydraulics, verdict.points.direct
    taken = 0.0 if direct is None else float(direct.delivered_kg_s[at]) / verdict.fuel.density_kg_m3
    through = float(through_feed_m3_s(option, hyd)[at]) if rails_joined(option) else float(hyd.delivered_m3_s[at])
    rail = option.rail
    litres = rail.count * _bore_litres(rail.bore_mm, rail.length_m)
    if direct is not None and float(verdict.points.metered_kg_s[at]) <= 0 and not rails_joined(option):
        return inf
    return _minutes(litres, (through - taken) * L_MIN)


def _direct_rails(verdict: TargetVerdict, at: int) -> list[float]:
    """Minutes through each high-pressure pump's feed and the direct rail behind it, by what is injected there."""
    high, direct = verdict.option.high_side, verdict.points.direct
    if high is None or direct is None:
        return []
    flows = [float(pump.delivered_kg_s[at]) / verdict.fuel.density_kg_m3 * L_MIN for pump in direct.pumps]
    lines = [_litres(line) for line in high.branches] or [0.0] * len(flows)
    if high.feed == "series":  # the first line carries all, each link what is left
        carried = [sum(flows[number:]) for number in range(len(flows))]
        fed = [sum(_minutes(lines[n], carried[n]) for n in range(number + 1)) for number in range(len(flows))]
    else:
        fed = [_minutes(litres, flow) for litres, flow in zip(lines, flows, strict=True)]
    each = float(direct.delivered_kg_s[at]) / verdict.fuel.density_kg_m3 * L_MIN / high.banks
    rail = _minutes(high.rail_volume_cc / 1e3, each)
    return [one + rail for one in fed]


def _minutes(litres: float, l_min: float) -> float:
    """Minutes a volume takes to pass; none of nothing, for ever where nothing flows."""
    return 0.0 if litres <= 0.0 else inf if l_min <= _NONE else litres / l_min


def _litres(line: Line) -> float:
    """What a line holds, L."""
    return _bore_litres(line.part.bore_mm, line.length_m)


def _bore_litres(bore_mm: float, length_m: float) -> float:
    return pi / 4.0 * (bore_mm * 1e-2) ** 2 * length_m * 10.0
