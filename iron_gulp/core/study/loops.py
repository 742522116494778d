"""Speed controllers closed on one rail: where each loop crosses over. An estimate, from class figures of the line."""

from dataclasses import dataclass
from math import pi

from ..judge import TargetVerdict
from ..model import Option, PumpGroup
from ..physics import HOSE_STIFFNESS_PA, M3_S_PER_L_H, controlled_flow_l_h, crossover_rad_s, lag_s
from ..solve import PEAK

_STEP = 0.02  # of pressure and of speed, for slopes


@dataclass(frozen=True)
class Loop:
    """A group's loop: time constant of the line on it, s, and its crossover, Hz."""

    group: PumpGroup
    lag_s: float
    crossover_hz: float


def following(option: Option) -> list[PumpGroup]:
    """Groups whose speed follows the rail pressure."""
    if option.regulator.arrangement != "returnless, speed-controlled":
        return []
    return [group for group in option.pumps if group.drive == "follows the rail"]


def line_volume_m3(option: Option) -> float:
    """Fuel between pumps and injectors: feed, branches and rails."""
    lines = [option.feed, *(() if option.split is None else (one.line for one in option.split.branches))]
    bores = [(one.part.bore_mm, one.length_m) for one in lines]
    bores += [(option.rail.bore_mm, option.rail.length_m)] * option.rail.count
    return float(sum(pi / 4.0 * (bore * 1e-3) ** 2 * length for bore, length in bores))


def loops(verdict: TargetVerdict) -> list[Loop]:
    """Loops of the groups that follow the rail on a target and whose controllers' gains are known."""
    hyd, found = verdict.points.hydraulics, []
    for number, group in enumerate(verdict.option.pumps):
        if group not in following(verdict.option) or group.gain_pct_per_kpa is None or group.reset_s is None:
            continue
        if not bool(hyd.running[number, PEAK]):
            continue
        rise, speed = float(hyd.pump_rise_kpa[PEAK]), float(hyd.speed[PEAK])
        # What the controller sees: its motor's volts are told, but for a brushless pump.
        full_v = float(hyd.volts[number, PEAK]) / (1.0 if group.part.kind == "brushless" else speed)

        def flow(kpa: float, share: float, group: PumpGroup = group, full_v: float = full_v) -> float:
            return group.count * float(controlled_flow_l_h(group.part.tables(), kpa, full_v, share)) * M3_S_PER_L_H

        slope = (flow(rise * (1 - _STEP), speed) - flow(rise * (1 + _STEP), speed)) / (2e3 * _STEP * rise)
        gained = (flow(rise, speed * (1 + _STEP)) - flow(rise, speed * (1 - _STEP))) / (2e2 * _STEP * speed)
        if slope <= 0 or gained <= 0:
            continue
        lag = float(lag_s(line_volume_m3(verdict.option), HOSE_STIFFNESS_PA, slope))
        plant_kpa_pct = gained / slope / 1e3
        crossover = float(crossover_rad_s(group.gain_pct_per_kpa, group.reset_s, plant_kpa_pct, lag))
        found.append(Loop(group, lag, crossover / (2.0 * pi)))
    return found
