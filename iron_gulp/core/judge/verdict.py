"""The verdict: each component's load as a share of its own ceiling on a duty, and the first to run out.

Ceilings are taken one component at a time with the others as they are, at the duty's engine speed and boost, where
demand is proportional to power. Idle is judged as well: a system that cannot idle has not passed.
"""

from dataclasses import dataclass
from functools import lru_cache
from typing import Literal

import numpy as np
from scipy.optimize import brentq

from ..model import Build, Duty, Line, Option, Passage, Split, Wiring
from ..physics import ATM_KPA, ampacity_a, floats, smallest_fuse_a
from ..physics import injectors as inj
from ..solve import (
    IDLE,
    PEAK,
    Demand,
    FluidState,
    FuelState,
    LiftSolution,
    PointSolution,
    State,
    fuel_state,
    injector_count,
    line_loss_kpa,
    passages_loss_kpa,
    rails_joined,
    return_curve,
    solve_duty,
    solve_lift,
    split_loss_kpa,
    switch_carries_a,
)

Status = Literal["ok", "close", "over"]
Component = Literal[
    "engine",
    "injectors",
    "injector idle",
    "needles",
    "float",
    "pumps",
    "wiring",
    "suction",
    "lift",
    "feed",
    "regulator",
    "return",
]

TITLES: dict[Component, str] = {
    "engine": "Engine air",
    "injectors": "Injectors",
    "injector idle": "Injectors at idle",
    "needles": "Float needles",
    "float": "Float pressure",
    "pumps": "Pumps",
    "wiring": "Pump wiring",
    "suction": "Pump suction",
    "lift": "Lift pump",
    "feed": "Feed line",
    "regulator": "Regulator at idle",
    "return": "Return line at idle",
}
POWER_LIMITS: tuple[Component, ...] = ("injectors", "needles", "pumps", "lift", "feed")
LIMITS: tuple[Component, ...] = (*POWER_LIMITS, "wiring", "suction", "injector idle", "float", "regulator")
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
        """The load of a component; an unloaded one where this system has no such component."""
        none = Load(component, TITLES[component], 0.0, "ok", None, "not fitted")
        return next((load for load in self.loads if load.component == component), none)

    @property
    def first_out(self) -> Load:
        """The fuel-system component with the highest load.

        Return back-pressure is a design rule, not a ceiling: what it does to the rail counts under the regulator.
        """
        return max((load for load in self.loads if load.component in LIMITS), key=lambda load: load.load)

    @property
    def power_limit(self) -> Load:
        """The component that limits power first."""
        return max((load for load in self.loads if load.component in POWER_LIMITS), key=lambda load: load.load)

    @property
    def status(self) -> Status:
        return self.first_out.status


def status_of(load: float, headroom: float) -> Status:
    """Words for a load: over its ceiling, within the wanted headroom of it, or ok."""
    if not load <= 1.0:
        return "over"
    return "close" if load > 1.0 - headroom else "ok"


@lru_cache(maxsize=1024)
def flow_at_drop_m3_s(
    line: Line,
    passages: tuple[Passage, ...],
    drop_kpa: float,
    fluid: FluidState,
    split: Split | None = None,
    joined: bool = False,
) -> float:
    """Flow at which a line, its passages and the split behind it reach a drop, m³/s; infinite without resistance."""

    def excess(log_flow: float) -> float:
        flow = floats(np.exp(log_flow))
        lost = line_loss_kpa(line, flow, fluid.density_kg_m3, fluid.viscosity_mpa_s)
        lost = lost + passages_loss_kpa(passages, flow, fluid)
        return float(lost) + float(split_loss_kpa(split, flow, fluid, joined)[0]) - drop_kpa

    low, high = float(np.log(1e-15)), float(np.log(10.0))
    if excess(high) < 0:
        return float("inf")
    return float(np.exp(brentq(excess, low, high, xtol=1e-9)))


def overrun_bypass_m3_s(option: Option, set_kpa: float, density: float, viscosity: float) -> float:
    """Bypass flow at which the wide-open regulator and return line alone hold `set_kpa`, m³/s."""
    most = 1e-3
    while True:
        back = return_curve(option, most, FluidState(density, viscosity))
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

    share = _share
    lift = None if option.lift is None else solve_lift(option, duty, fuel)
    fluid = FluidState(fuel.density_kg_m3, fuel.viscosity_mpa_s)
    feed_limit = flow_at_drop_m3_s(
        option.feed, option.feed_passages, rules.feed_drop_kpa, fluid, option.split, rails_joined(option)
    )
    return_limit = flow_at_drop_m3_s(option.return_line, option.return_passages, rules.return_drop_kpa, fluid)
    spill_limit = overrun_bypass_m3_s(
        option,
        float(hyd.set_kpa[IDLE]),
        fuel.density_kg_m3,
        fuel.viscosity_mpa_s,
    )
    shares: list[tuple[Component, float, str]] = [
        *metering_loads(build, option, duty, wanted.chosen_kg_s, points),
        (
            "pumps",
            share(need_m3_s, float(hyd.supply_at_set_m3_s[PEAK])),
            "fuel asked of what the pumps bring at the set pressure",
        ),
        ("wiring", wiring_load(option, points, lift), "current of what fuse, wire and switch carry"),
        ("suction", suction_load(option, points, fuel, lift), "head the pump needs of the head above vapour pressure"),
        ("feed", share(need_m3_s, feed_limit), "fuel asked of the flow at the drop allowed"),
    ]
    if option.lift is not None and lift is not None:
        draws = need_m3_s if option.lift.return_to == "surge tank" else float(hyd.supply_m3_s[PEAK])
        shares.append(("lift", share(draws, lift.flow_m3_s), "what is drawn from the surge tank of what is lifted"))
    if option.regulator.arrangement == "carburettor, deadhead":
        pass  # nothing returns: there is nothing to dump
    elif option.regulator.arrangement == "returnless, speed-controlled":
        over = int(hyd.state[IDLE]) == State.OVERRUN
        excess = share(float(hyd.rail_kpa[IDLE]), float(hyd.set_kpa[IDLE])) if over else 0.0
        shares.append(("regulator", excess, "rail at idle of the set pressure, at the slowest speed"))
    else:
        shares.append(("regulator", share(idle_bypass, spill_limit), "bypass of what it can pass at the set pressure"))
        shares.append(("return", share(idle_bypass, return_limit), "bypass of the flow at the back-pressure allowed"))
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


def _share(part: float, whole: float) -> float:
    if part <= 0:
        return 0.0
    return part / whole if whole > 0 else float("inf")


def metering_loads(
    build: Build, option: Option, duty: Duty, wanted_kg_s: float, points: PointSolution
) -> list[tuple[Component, float, str]]:
    """Loads of what meters the fuel: injectors at peak and idle, or float needles and the floats."""
    if option.carburettor is not None:
        rail = points.hydraulics.rail_kpa
        hottest = float(rail.max()) + option.regulator.part.drift_kpa
        passes = float(points.open_kg_s[PEAK])
        return [
            ("needles", _share(wanted_kg_s, passes), "fuel asked of what the needles pass wide open"),
            ("float", hottest / option.carburettor.highest_kpa, "inlet pressure of what the floats hold against"),
        ]
    assert option.injectors is not None
    passes = float(
        inj.flow_at_duty_kg_s(
            points.open_at_set_kg_s[PEAK],
            injector_count(build, option.injectors),
            duty.rpm,
            points.dead_ms[PEAK],
            build.rules.duty_limit_pct / 100.0,
        )
    )
    return [
        ("injectors", _share(wanted_kg_s, passes), "fuel asked of what passes at the duty limit"),
        (
            "injector idle",
            _share(option.injectors.part.min_pulse_ms, float(points.effective_ms[IDLE])),
            "smallest repeatable pulse of the pulse idle needs",
        ),
    ]


def circuit_load(wiring: Wiring, amps: float) -> float:
    """Highest share a current takes of the fuse (at 1.25 times it), of the wire and of the switch where it sits."""
    # A wire too hot for its insulation carries nothing at all.
    wire = float(ampacity_a(wiring.area_mm2, wiring.copper_temp_c))
    shares = [_share(amps, wire), _share(amps, switch_carries_a(wiring))]
    if wiring.fuse_a is not None:
        shares.append(float(smallest_fuse_a(amps)) / wiring.fuse_a)
    return max(shares)


def wiring_load(option: Option, points: PointSolution, lift: LiftSolution | None = None) -> float:
    """Highest load of any pump's circuit, the lift stage's included."""
    amps = points.hydraulics.amps
    loads = [circuit_load(group.wiring, float(amps[index].max())) for index, group in enumerate(option.pumps)]
    if option.lift is not None and lift is not None:
        loads.append(circuit_load(option.lift.wiring, lift.amps))
    return max(loads)


def suction_heads_kpa(
    option: Option, points: PointSolution, fuel: FuelState, lift: LiftSolution | None = None
) -> list[tuple[float, float]]:
    """(available, needed) suction head of the main pumps and of the lift stage, kPa above the vapour pressure."""
    hyd = points.hydraulics
    needed = max(
        (group.part.needed_head_kpa for index, group in enumerate(option.pumps) if hyd.running[index].any()), default=0.0
    )
    heads = [(ATM_KPA + float(hyd.inlet_kpa.min()) - fuel.vapour_kpa_abs, needed)]
    if option.lift is not None and lift is not None:
        heads.append((ATM_KPA + lift.inlet_kpa - fuel.vapour_kpa_abs, option.lift.part.needed_head_kpa))
    return heads


def suction_load(option: Option, points: PointSolution, fuel: FuelState, lift: LiftSolution | None = None) -> float:
    """Highest share of the available suction head (inlet pressure above vapour pressure) that a running pump needs."""
    return max(_share(needed, available) for available, needed in suction_heads_kpa(option, points, fuel, lift))


def judge_all(build: Build, option: Option) -> list[DutyVerdict]:
    """Every duty of a build on one option, in the build's order."""
    return [judge(build, option, duty) for duty in build.duties]


def worst(verdicts: list[DutyVerdict]) -> DutyVerdict:
    """The duty whose first component to run out is most loaded."""
    return max(verdicts, key=lambda verdict: verdict.first_out.load)
