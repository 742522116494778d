"""What each pump group does at a solved point: off, running, stalled, or with its relief valve open."""

from typing import Literal

import numpy as np

from ..model import Option
from ..physics import Floats, floats, motor_share, relief_share
from .hydraulics import Hydraulics


def controlled(option: Option, group: int) -> bool:
    """Whether a speed controller drives a group, closed on the rail pressure."""
    one = option.pumps[group]
    returnless = option.regulator.arrangement == "returnless, speed-controlled"
    return returnless and one.drive == "follows the rail" and one.part.kind != "mechanical"


def motor_power_w(option: Option, hyd: Hydraulics) -> Floats:
    """Electrical power into the pumps of each group, W, of shape (groups, points): it ends up as heat in the fuel.

    What a controller keeps for itself heats the air.
    """
    found = []
    for index, group in enumerate(option.pumps):
        each = hyd.volts[index] * hyd.amps[index] * group.count
        found.append(each * motor_share(group.part.kind, hyd.speed) if controlled(option, index) else each)
    return floats(np.array(found))


PumpDoing = Literal["off", "running", "stalled", "relief valve open"]


def own_rise_kpa(option: Option, hyd: Hydraulics, group: int, point: int) -> float | None:
    """Pressure rise across the pumps of a group, check valve included; None where boosting groups share the rise."""
    series = [index for index, one in enumerate(option.pumps) if one.place != "in parallel"]
    if any(hyd.running[index, point] for index in series):
        return None
    return float(hyd.pump_rise_kpa[point]) + option.pumps[group].valve_kpa


def pump_doing(option: Option, hyd: Hydraulics, group: int, point: int) -> PumpDoing:
    """What a group does at a point of the solution.

    A relief valve counts as open once it lets more than a hundredth of the flow go round.
    """
    if not hyd.running[group, point]:
        return "off"
    rise = own_rise_kpa(option, hyd, group, point)
    if rise is not None and float(relief_share(rise, option.pumps[group].part.relief_kpa)) < 0.99:
        return "relief valve open"
    return "running" if float(hyd.group_flow_m3_s[group, point]) > 1e-12 else "stalled"
