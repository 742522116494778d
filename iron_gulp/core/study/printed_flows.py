"""A flow as it is printed on a part: the pressure up to which, or from which, it holds in this car."""

from collections.abc import Callable
from dataclasses import dataclass

from ..judge import TargetVerdict
from ..model import Option
from ..physics import KPA, M3_S_PER_L_H, Floats, floats, flow_l_h, rising_root, wide_open_drop_kpa
from ..solve import IDLE, PEAK, filter_loss_kpa, line_loss_kpa, return_of

MOST_KPA, MOST_L_H = 1500.0, 1e5


@dataclass(frozen=True)
class Printed:
    """A part that a flow is printed on: what passes here (L/h, kPa), and by `passes_l_h` what at a pressure and volts.

    `falls` where that is less at more pressure, as of a pump.
    """

    what: str
    here_l_h: float
    here_kpa: float
    passes_l_h: Callable[[float, float], float]
    volts: float = 0.0
    falls: bool = False

    def holds_kpa(self, flow_l_h: float, volts: float) -> float:
        """The pressure at which it passes a flow: up to it where that falls, from it otherwise; NaN where at none."""
        way = -1.0 if self.falls else 1.0
        ends = [self.passes_l_h(at, volts) - flow_l_h for at in (0.0, MOST_KPA)]
        if min(ends) > 0 or max(ends) < 0:
            return float("nan")

        def off(pressure: Floats) -> Floats:
            return floats([way * (self.passes_l_h(float(one), volts) - flow_l_h) for one in pressure])

        return float(rising_root(off, floats([0.0]), floats([MOST_KPA]), 1e-6)[0])


def printed(option: Option, verdict: TargetVerdict) -> list[Printed]:
    """The parts of an option that flows are printed on, each with what it passes."""
    hyd, fuel = verdict.points.hydraulics, verdict.fuel
    density, viscosity = fuel.density_kg_m3, fuel.viscosity_mpa_s
    supply = float(hyd.supply_m3_s[PEAK]) / M3_S_PER_L_H
    found = []
    group = option.pumps[0]
    if group.part.kind != "mechanical":
        tables, volts = group.part.tables(), float(hyd.volts[0, PEAK])
        rise = float(hyd.pump_rise_kpa[PEAK])

        def pumped(kpa: float, at_v: float) -> float:
            return float(flow_l_h(tables, kpa, at_v))

        found.append(Printed("pump", pumped(rise, volts), rise, pumped, volts, falls=True))
    fitted = option.injectors
    if fitted is not None and float(hyd.differential_kpa[PEAK]) > 0:
        across = float(hyd.differential_kpa[PEAK])
        each = float(verdict.points.open_kg_s[PEAK]) / density / M3_S_PER_L_H

        def sprayed(kpa: float, _volts: float) -> float:
            return float(each * (kpa / across) ** 0.5)

        found.append(Printed("injector", each, across, sprayed))
    if not option.regulator.arrangement.startswith(("returnless", "carburettor, deadhead")):
        opened, back = float(return_of(option).k_pa[0]), float(hyd.bypass_m3_s[IDLE])

        def let_back(kpa: float, _volts: float) -> float:
            return float((kpa * KPA / opened) ** 0.5 / M3_S_PER_L_H)

        drop = float(wide_open_drop_kpa(back, opened))
        found.append(Printed("regulator", back / M3_S_PER_L_H, drop, let_back))
    losing: list[tuple[str, Callable[[float], float]]] = []
    if option.filter is not None:
        losing.append(("filter", lambda flow: float(filter_loss_kpa(option.filter, floats(flow)))))
    losing.append(("feed line", lambda flow: float(line_loss_kpa(option.feed, floats(flow), density, viscosity))))
    for what, lost in losing:
        found.append(Printed(what, supply, lost(supply * M3_S_PER_L_H), _passing(lost)))
    return found


def _passing(lost_kpa: Callable[[float], float]) -> Callable[[float, float], float]:
    """What passes at a loss, L/h, of something that loses more the more passes."""

    def passes(kpa: float, _volts: float) -> float:
        def off(flow: Floats) -> Floats:
            return floats([lost_kpa(float(one) * M3_S_PER_L_H) - kpa for one in flow])

        return float(rising_root(off, floats([0.0]), floats([MOST_L_H]), 1e-6)[0])

    return passes
