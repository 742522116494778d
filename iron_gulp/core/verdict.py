"""The verdict: each component's load as a share of its own ceiling on a duty, and the first to run out.

Ceilings are taken one component at a time with the others as they are, at the duty's engine speed and boost, where
demand is proportional to power. Idle is judged as well: a system that cannot idle has not passed.
"""

from dataclasses import dataclass
from functools import lru_cache
from typing import Literal

import numpy as np
from scipy.optimize import brentq

from . import injectors as inj
from .arrays import floats
from .curves import line_loss_kpa, return_curve
from .duty import IDLE, PEAK, Demand, FuelState, PointSolution, fuel_state, injector_count, solve_duty
from .system import Build, Duty, Line, Option, Regulator, Tank

Status = Literal["ok", "close", "over"]
Component = Literal["engine", "injectors", "injector idle", "pumps", "feed", "regulator", "return"]

TITLES: dict[Component, str] = {
    "engine": "Engine air",
    "injectors": "Injectors",
    "injector idle": "Injectors at idle",
    "pumps": "Pumps",
    "feed": "Feed line",
    "regulator": "Regulator at idle",
    "return": "Return line at idle",
}
POWER_LIMITS: tuple[Component, ...] = ("injectors", "pumps", "feed")
LIMITS: tuple[Component, ...] = (*POWER_LIMITS, "injector idle", "regulator")
AIR_TOLERANCE = 0.10


@dataclass(frozen=True)
class Load:
    """One component's load: 1 is its ceiling. `ceiling_kw` is the power (as the duty quotes it) at which it runs out.

    `ceiling_kw` is None for components whose limit does not move with power (idle limits).
    """

    component: Component
    title: str
    load: float
    status: Status
    ceiling_kw: float | None
    measure: str


@dataclass(frozen=True)
class DutyVerdict:
    """Everything about one duty on one option."""

    duty: Duty
    option: Option
    fuel: FuelState
    demand: Demand
    points: PointSolution
    loads: tuple[Load, ...]

    def load(self, component: Component) -> Load:
        return next(load for load in self.loads if load.component == component)

    @property
    def first_out(self) -> Load:
        """The fuel-system component with the highest load.

        Return back-pressure is a design rule, not a ceiling: what it does to the rail counts under the regulator.
        """
        return max((load for load in self.loads if load.component in LIMITS), key=lambda load: load.load)

    @property
    def power_limit(self) -> Load:
        """The component that limits power first."""
        return max((self.load(name) for name in POWER_LIMITS), key=lambda load: load.load)

    @property
    def status(self) -> Status:
        return self.first_out.status


def status_of(load: float, headroom: float) -> Status:
    """Words for a load: over its ceiling, within the wanted headroom of it, or ok."""
    if not load <= 1.0:
        return "over"
    return "close" if load > 1.0 - headroom else "ok"


@lru_cache(maxsize=1024)
def flow_at_drop_m3_s(line: Line, drop_kpa: float, density: float, viscosity: float) -> float:
    """Flow at which a line reaches a drop, m³/s; infinite for a line without resistance."""

    def excess(log_flow: float) -> float:
        return float(line_loss_kpa(line, floats(np.exp(log_flow)), density, viscosity)) - drop_kpa

    low, high = float(np.log(1e-15)), float(np.log(10.0))
    if excess(high) < 0:
        return float("inf")
    return float(np.exp(brentq(excess, low, high, xtol=1e-9)))


def overrun_bypass_m3_s(
    regulator: Regulator, return_line: Line, tank: Tank, set_kpa: float, density: float, viscosity: float
) -> float:
    """Bypass flow at which the wide-open regulator and return line alone hold `set_kpa`, m³/s."""
    most = 1e-3
    while True:
        back = return_curve(regulator, return_line, tank, most, density, viscosity)
        if back.floor_kpa[-1] >= set_kpa or most > 10:
            break
        most *= 2
    if set_kpa <= back.floor_kpa[0]:
        return 0.0
    return float(np.interp(set_kpa, back.floor_kpa, back.bypass_m3_s))


def judge(build: Build, option: Option, duty: Duty) -> DutyVerdict:
    """Solve a duty on an option and judge every component."""
    wanted, points = solve_duty(build, option, duty)
    fuel, rules = fuel_state(build, duty), build.rules
    headroom = rules.headroom_pct / 100.0
    hyd = points.hydraulics
    need_m3_s = wanted.chosen_kg_s / fuel.density_kg_m3
    # What must be dumped to hold the set pressure at idle; in overrun the pumps really bring less, at a higher rail.
    idle_bypass = max(float(hyd.supply_at_set_m3_s[IDLE]) - wanted.idle_kg_s / fuel.density_kg_m3, 0.0)

    def share(part: float, whole: float) -> float:
        if part <= 0:
            return 0.0
        return part / whole if whole > 0 else float("inf")

    count = injector_count(build, option.injectors)
    passes = float(
        inj.flow_at_duty_kg_s(
            points.open_at_set_kg_s[PEAK], count, duty.rpm, points.dead_ms[PEAK], rules.duty_limit_pct / 100.0
        )
    )
    feed_limit = flow_at_drop_m3_s(option.feed, rules.feed_drop_kpa, fuel.density_kg_m3, fuel.viscosity_mpa_s)
    return_limit = flow_at_drop_m3_s(option.return_line, rules.return_drop_kpa, fuel.density_kg_m3, fuel.viscosity_mpa_s)
    spill_limit = overrun_bypass_m3_s(
        option.regulator,
        option.return_line,
        option.tank,
        float(hyd.set_kpa[IDLE]),
        fuel.density_kg_m3,
        fuel.viscosity_mpa_s,
    )
    effective_idle = float(points.effective_ms[IDLE])
    shares: list[tuple[Component, float, str]] = [
        ("injectors", share(wanted.chosen_kg_s, passes), "fuel asked of what passes at the duty limit"),
        (
            "injector idle",
            share(option.injectors.part.min_pulse_ms, effective_idle),
            "smallest repeatable pulse of the pulse idle needs",
        ),
        (
            "pumps",
            share(need_m3_s, float(hyd.supply_at_set_m3_s[PEAK])),
            "fuel asked of what the pumps bring at the set pressure",
        ),
        ("feed", share(need_m3_s, feed_limit), "fuel asked of the flow at the drop allowed"),
        ("regulator", share(idle_bypass, spill_limit), "bypass of what it can pass at the set pressure"),
        ("return", share(idle_bypass, return_limit), "bypass of the flow at the back-pressure allowed"),
    ]
    loads = [
        Load(
            name,
            TITLES[name],
            value,
            status_of(value, headroom),
            duty.power_kw / value if name in POWER_LIMITS and value > 0 else None,
            measure,
        )
        for name, value, measure in shares
    ]
    air_load = duty.power_kw / wanted.air_limited_power_kw
    air_status: Status = "ok" if air_load <= 1 else "close" if air_load <= 1 + AIR_TOLERANCE else "over"
    loads.insert(
        0,
        Load(
            "engine",
            TITLES["engine"],
            air_load,
            air_status,
            wanted.air_limited_power_kw,
            "power asked of what the air at this boost supports",
        ),
    )
    return DutyVerdict(duty, option, fuel, wanted, points, tuple(loads))


def judge_all(build: Build, option: Option) -> list[DutyVerdict]:
    """Every duty of a build on one option, in the build's order."""
    return [judge(build, option, duty) for duty in build.duties]


def worst(verdicts: list[DutyVerdict]) -> DutyVerdict:
    """The duty whose first component to run out is most loaded."""
    return max(verdicts, key=lambda verdict: verdict.first_out.load)
