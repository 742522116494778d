"""Staging over the whole operating field: which pumps run where, what the rail and the return see, the step at each
switch, what happens if a stage does not come, and where to switch.
"""

from collections.abc import Hashable, Sequence
from dataclasses import dataclass, replace

import numpy as np
from numpy.typing import NDArray

from ..judge import overrun_bypass_m3_s
from ..model import WATCHED, Build, Option, PumpGroup, Shared, Target, remembered, shared_by
from ..physics import M3_S_PER_L_H, Floats, air_kg_s, floats, fuel_from_air_kg_s, join, shape_of, take
from ..solve import (
    Hydraulics,
    PointSolution,
    State,
    demand,
    enriched_at,
    fuel_state,
    meters_of,
    mixture_at,
    packed,
    running_at,
    solve_at,
    solve_points,
    targets_of,
)

L_H = 1.0 / M3_S_PER_L_H
CONDITIONS = ("on_above_kpa", "on_above_rpm", "on_above_l_h", "on_above_duty_pct", "on_below_lambda")
SWEEP = 300  # points of a look along boost or speed for the place where a stage switches
JUST_ABOVE_KPA = 1e-3
COMFORTABLE_SHARE = 0.80  # a stage should join before the pumps already running pass this share of their supply


@dataclass(frozen=True)
class Field:
    """The operating field: `rpm` (n,), `manifold_kpa` (m,); every other array (m, n).

    `stages` is the number of pumps running coming up, `stages_leaving` on the way down, where hysteresis holds them on.
    """

    rpm: Floats
    manifold_kpa: Floats
    demand_l_h: Floats
    stages: NDArray[np.int64]
    stages_leaving: NDArray[np.int64]
    rail_error_kpa: Floats
    bypass_l_h: Floats
    return_kpa: Floats
    current_a: Floats
    lambda_factor: Floats
    state: NDArray[np.int64]


@dataclass(frozen=True)
class Place:
    """Where something switches: engine speed and manifold pressure."""

    rpm: float
    manifold_kpa: float


@dataclass(frozen=True)
class Switch:
    """One group's switch on the way to a target's peak: pressure and return load before and after it joins.

    `leaves` is where it drops out on the way down (None where it stays on all the way). At lift-off the throttle shuts
    while the minimum on-time still holds the group on.
    """

    group: PumpGroup
    joins: Place
    leaves: Place | None
    before_rail_kpa: float
    after_rail_kpa: float
    before_bypass_l_h: float
    after_bypass_l_h: float
    spill_limit_l_h: float
    share_before: float
    lift_off_rail_kpa: float
    lift_off_set_kpa: float

    @property
    def step_kpa(self) -> float:
        """Rail pressure step as the group joins."""
        return self.after_rail_kpa - self.before_rail_kpa


@dataclass(frozen=True)
class Missing:
    """A target's peak with something silent: one stage, or all groups (by position) that go with what it shares."""

    groups: tuple[int, ...]
    shared: Shared | None
    rail_kpa: float
    lambda_factor: float
    safe_power_kw: float


@dataclass(frozen=True)
class Proposal:
    """Where a group should join: the boost, what the others carry there, and whether the regulator copes."""

    group: PumpGroup
    on_above_kpa: float
    share_before: float
    bypass_after_l_h: float
    spill_limit_l_h: float

    @property
    def copes(self) -> bool:
        return self.bypass_after_l_h <= self.spill_limit_l_h


def field_demand_kg_s(build: Build, option: Option, target: Target, rpm: Floats, manifold_kpa: Floats) -> Floats:
    """Fuel wanted over the field, kg/s (physics §6): air school, scaled so that the target's own point needs what the
    target is sized for, whatever the school. Works on absolute pressure, without a step anywhere. Shapes broadcast."""
    fuel, wanted, engine = fuel_state(build, target), demand(build, target, option), build.engine
    barometer = build.car.barometer_kpa
    pressure = floats(barometer + manifold_kpa)
    enriched = enriched_at(wanted.manifold_kpa_abs, pressure)
    air = air_kg_s(engine.displacement_l, rpm, field_ve(build, target, manifold_kpa), pressure, target.charge_temp_c)
    plain = fuel_from_air_kg_s(air, mixture_at(target, manifold_kpa, barometer), fuel.stoich_afr)
    scale = 1.0 + (wanted.chosen_kg_s / wanted.air_school_kg_s - 1.0) * enriched
    return floats(plain * scale)


def field_ve(build: Build, target: Target, manifold_kpa: Floats) -> Floats:
    """Volumetric efficiency over manifold pressure, a share: smoothly from idle's to the target's (physics §6)."""
    engine, wanted = build.engine, demand(build, target)
    pressure = floats(build.car.barometer_kpa + manifold_kpa)
    idle_abs, idle_ve = build.car.barometer_kpa + engine.idle_manifold_kpa, engine.idle_ve_pct / 100.0
    span = wanted.manifold_kpa_abs - idle_abs
    way = np.clip((pressure - idle_abs) / span, 0.0, 1.0) if span > 0 else 1.0 * (pressure >= wanted.manifold_kpa_abs)
    return floats(idle_ve + (wanted.ve - idle_ve) * way * way * (3.0 - 2.0 * way))


def operating_field(build: Build, option: Option, target: Target, rpms: int = 40, boosts: int = 32) -> Field:
    """Solve the option over engine speed × manifold pressure, idle and overrun (no fuel) included."""
    engine = build.engine
    rpm = floats(np.linspace(engine.idle_rpm, engine.max_rpm, rpms))
    lowest = min(engine.idle_manifold_kpa, -20.0)
    manifold = floats(np.linspace(lowest, max(target.boost_kpa, 0.0), boosts))
    grid_rpm, grid_kpa = np.meshgrid(rpm, manifold)
    wanted = field_demand_kg_s(build, option, target, floats(grid_rpm), floats(grid_kpa))
    # Deep vacuum at speed is overrun: fuel is cut.
    wanted = np.where((grid_kpa <= lowest + 1e-9) & (grid_rpm > 2.0 * engine.idle_rpm), 0.0, wanted)
    flat = (grid_rpm.ravel(), grid_kpa.ravel(), wanted.ravel())
    hyd, shape = solve_points(build, option, target, *flat).hydraulics, grid_rpm.shape
    counts = np.array([group.count for group in option.pumps])
    current = (hyd.amps * counts[:, None] * hyd.running).sum(axis=0)
    stages = (hyd.running * counts[:, None]).sum(axis=0)
    stages_leaving = (running_at(build, option, target, *flat, leaving=True) * counts[:, None]).sum(axis=0)
    density = fuel_state(build, target).density_kg_m3

    def on_grid(values: Floats) -> Floats:
        return floats(values.reshape(shape))

    return Field(
        rpm,
        manifold,
        floats(wanted / density * L_H),
        stages.reshape(shape).astype(np.int64),
        stages_leaving.reshape(shape).astype(np.int64),
        on_grid(hyd.rail_kpa - hyd.set_kpa),
        on_grid(hyd.bypass_m3_s * L_H),
        on_grid(hyd.return_kpa),
        on_grid(current),
        on_grid(hyd.lambda_factor),
        hyd.state.reshape(shape),
    )


def _at(
    build: Build,
    option: Option,
    target: Target,
    manifold_kpa: Floats,
    without: frozenset[str] = frozenset(),
    rpm: float | None = None,
) -> PointSolution:
    speed = target.rpm if rpm is None else rpm
    wanted = field_demand_kg_s(build, option, target, floats(speed), manifold_kpa)
    return solve_points(build, option, target, speed, manifold_kpa, wanted, without)


def _spill_limits_l_h(build: Build, option: Option, at: list[tuple[Target, float]]) -> Floats:
    """What the regulator can pass at its set pressure, for targets at manifold pressures, L/h."""
    fuels = [fuel_state(build, target) for target, _ in at]
    regulator = option.regulator
    set_kpa = floats([regulator.base_kpa + regulator.reference_ratio * manifold for _, manifold in at])
    density, viscosity = floats([one.density_kg_m3 for one in fuels]), floats([one.viscosity_mpa_s for one in fuels])
    return floats(overrun_bypass_m3_s(option, set_kpa, density, viscosity) * L_H)


def _crossing(build: Build, option: Option, target: Target, index: int, leaving: bool) -> Place | None:
    """Where a group starts to run: with boost at the target's speed, else with speed at its boost; None if nowhere."""
    engine = build.engine
    low = min(engine.idle_manifold_kpa, target.boost_kpa)
    group = option.pumps[index]
    if not leaving and [name for name in CONDITIONS if getattr(group, name) is not None] == ["on_above_kpa"]:
        # By boost alone nothing has to be looked for.
        at = (group.on_above_kpa or 0.0) + JUST_ABOVE_KPA
        return Place(target.rpm, at) if low < at <= target.boost_kpa else None
    by_boost = (np.full(SWEEP, target.rpm), np.linspace(low, target.boost_kpa, SWEEP))
    by_speed = (np.linspace(engine.idle_rpm, target.rpm, SWEEP), np.full(SWEEP, target.boost_kpa))
    for rpm, manifold in (by_boost, by_speed):
        for _ in range(2):  # the second pass looks closely between the two points where it starts
            wanted = field_demand_kg_s(build, option, target, floats(rpm), floats(manifold))
            runs = running_at(build, option, target, rpm, manifold, wanted, leaving)[index]
            if not runs[-1] or runs[0]:
                break
            first = int(np.flatnonzero(~runs)[-1]) + 1
            rpm = np.linspace(rpm[first - 1], rpm[first], SWEEP)
            manifold = np.linspace(manifold[first - 1], manifold[first], SWEEP)
        else:
            return Place(float(rpm[-1]), float(manifold[-1]))
    return None


@dataclass(frozen=True)
class _Ask:
    """A point of one target, with groups silent or held on whatever their conditions say, by position."""

    target: Target
    rpm: float
    manifold_kpa: float
    demand_kg_s: float
    silent: frozenset[int] = frozenset()
    held: frozenset[int] = frozenset()


@dataclass(frozen=True)
class _Questions:
    """What must be solved to tell about the stages of one option: asks in the order they are read in."""

    build: Build
    option: Option
    targets: tuple[Target, ...]
    losses: list[tuple[tuple[int, ...], Shared | None]]
    joining: list[tuple[int, int, Place]]
    asks: list[_Ask]
    whole: bool

    @property
    def each(self) -> int:
        """Asks for each stage that joins."""
        return 3 if self.whole else 2


def _questions(build: Build, option: Option, targets: tuple[Target, ...], whole: bool) -> _Questions:
    """Asks for each stage that joins: before, after and, of the whole, throttle shut; then peaks with stages silent."""
    staged = [index for index, group in enumerate(option.pumps) if group.staged]
    asks: list[_Ask] = []
    joining: list[tuple[int, int, Place]] = []
    for number, target in enumerate(targets):
        for index in staged:
            joins = _crossing(build, option, target, index, leaving=False)
            if joins is None:
                continue
            joining.append((number, index, joins))
            wanted = float(field_demand_kg_s(build, option, target, floats(joins.rpm), floats(joins.manifold_kpa)))
            here = _Ask(target, joins.rpm, joins.manifold_kpa, wanted)
            # Throttle shut from the target's speed, no fuel wanted, the group still on because of its minimum on-time.
            shut = _Ask(target, target.rpm, build.engine.idle_manifold_kpa, 0.0, held=frozenset({index}))
            asks += [replace(here, silent=frozenset({index})), here, *([shut] if whole else [])]
    # What goes silent is a check where nothing watches the rail: it is asked for then in any case.
    losses = _losses(option, staged) if whole or option.calibration.rail_watch != WATCHED else []
    for target in targets if losses else ():
        wanted = float(field_demand_kg_s(build, option, target, floats(target.rpm), floats(target.boost_kpa)))
        peak = _Ask(target, target.rpm, target.boost_kpa, wanted)
        asks += [replace(peak, silent=frozenset(groups)) for groups, _ in losses]
    return _Questions(build, option, targets, losses, joining, asks, whole)


def _losses(option: Option, staged: list[int]) -> list[tuple[tuple[int, ...], Shared | None]]:
    """What can go silent unseen: each stage, or all that share what it hangs on; then all stages, where no one thing
    takes them all."""
    found: dict[tuple[int, ...], Shared | None] = {}
    for index in staged:
        shared = [one for one in shared_by(option) if index in one.groups and len(one.groups) > 1]
        for one in shared:
            found.setdefault(one.groups, one)
        if not shared:
            found[(index,)] = None
    if len(staged) > 1 and not any(set(staged) <= set(groups) for groups in found):
        found[tuple(staged)] = None
    return list(found.items())


def _answers(several: Sequence[_Questions]) -> list[Hydraulics | None]:
    """All asks of options built alike solved together, one a system: for each its answers, of shape (asks,)."""
    found: list[Hydraulics | None] = [None] * len(several)
    alike: dict[Hashable, list[int]] = {}
    for position, one in enumerate(several):
        if one.asks:
            shape = (remembered(packed(one.option), "shape", shape_of), one.option.port_sets)
            alike.setdefault(shape, []).append(position)
    for positions in alike.values():
        every = [(several[position], ask) for position in positions for ask in several[position].asks]
        pairs = [(position, target) for position in positions for target in several[position].targets]
        of_pair = np.array([_place(pairs, position, ask) for position in positions for ask in several[position].asks])
        of_option = np.array([at for at, position in enumerate(positions) for _ in several[position].asks])
        systems = join([packed(several[position].option) for position in positions])
        meters = join([meters_of(several[at].build, several[at].option, target) for at, target in pairs])
        targets = join([targets_of(several[at].build, target, several[at].option) for at, target in pairs])
        rpm, manifold, wanted = (
            floats([[getattr(ask, name) for _, ask in every]]) for name in ("rpm", "manifold_kpa", "demand_kg_s")
        )
        groups = range(len(every[0][0].option.pumps))
        silent, held = (
            np.array([[[group in getattr(ask, name) for _, ask in every]] for group in groups])
            for name in ("silent", "held")
        )
        rows = take(systems, of_option), take(meters, of_pair), take(targets, of_pair)
        solved = solve_at(*rows, rpm, manifold, wanted, silent=silent, held=held).hydraulics
        start = 0
        for position in positions:
            end = start + len(several[position].asks)
            found[position] = solved.at((0, slice(start, end)))
            start = end
    return found


def _place(pairs: list[tuple[int, Target]], position: int, ask: _Ask) -> int:
    """Which of the pairs of option and target an ask belongs to."""
    return next(at for at, (of, target) in enumerate(pairs) if of == position and target is ask.target)


def switches(build: Build, option: Option, target: Target) -> list[Switch]:
    """The step as each staged group joins on the way to a target's peak; only those that join before it."""
    found = []
    for one in stages_of(build, option, (target,)).switches[0]:
        index = [group.id for group in option.pumps].index(one.group.id)
        found.append(replace(one, leaves=_crossing(build, option, target, index, leaving=True)))
    return found


@dataclass(frozen=True)
class Stages:
    """What staging does on every target, by target: switches on the way to the peak, and the peak with a group silent.

    `out` is the peak with every stage silent, None where there are fewer than two or one thing takes them all.
    """

    switches: list[list[Switch]]
    missing: list[list[Missing]]
    out: list[Missing | None]


def stages_of(build: Build, option: Option, targets: tuple[Target, ...]) -> Stages:
    """Switches and silent stages of every target, all worked out together; where stages leave is not looked for."""
    return stages_of_each([(build, option, targets)])[0]


def stages_of_each(asked: Sequence[tuple[Build, Option, tuple[Target, ...]]], whole: bool = True) -> list[Stages]:
    """What staging does in several builds or options, those built alike solved together.

    Not the `whole`: only what happens as stages join; shut throttles, spill limits (NaN) and, where the rail is watched,
    silent stages are left out.
    """
    questions = [_questions(*one, whole) for one in asked]
    return [_told(one, hyd) for one, hyd in zip(questions, _answers(questions), strict=True)]


def _told(asked: _Questions, hyd: Hydraulics | None) -> Stages:
    """Stages read off the answers."""
    build, option, targets = asked.build, asked.option, asked.targets
    found = Stages([[] for _ in targets], [[] for _ in targets], [None] * len(targets))
    if hyd is None:
        return found
    joining = asked.joining
    spills = floats(np.full(len(joining), np.nan))
    if asked.whole:
        joined = [(targets[number], joins.manifold_kpa) for number, _, joins in joining]
        spills = _spill_limits_l_h(build, option, joined)
    for position, (number, index, joins) in enumerate(joining):
        before = asked.each * position
        asked_m3_s = asked.asks[before].demand_kg_s / fuel_state(build, targets[number]).density_kg_m3
        shut = before + 2 if asked.whole else None
        switch = _switch(option.pumps[index], joins, hyd, (before, shut), asked_m3_s, float(spills[position]))
        found.switches[number].append(switch)
    at = asked.each * len(joining)
    for number, target in enumerate(targets):
        need = demand(build, target, option).chosen_kg_s / fuel_state(build, target).density_kg_m3

        for groups, shared in asked.losses:
            share = float(hyd.supply_at_set_m3_s[at]) / need
            lean, rail = float(hyd.lambda_factor[at]), float(hyd.rail_kpa[at])
            lost = Missing(groups, shared, rail, lean, target.power_kw * min(share, 1.0))
            at += 1
            if shared is None and len(groups) > 1:
                found.out[number] = lost
            else:
                found.missing[number].append(lost)
    return found


def _switch(
    group: PumpGroup, joins: Place, hyd: Hydraulics, at: tuple[int, int | None], wanted: float, spill_l_h: float
) -> Switch:
    """A switch from its answers: before it, after it (the next), and with the throttle shut, where that was asked."""
    before, shut = at
    after = before + 1
    supply = float(hyd.supply_at_set_m3_s[before])
    return Switch(
        group,
        joins,
        None,
        float(hyd.rail_kpa[before]),
        float(hyd.rail_kpa[after]),
        float(hyd.bypass_m3_s[before]) * L_H,
        float(hyd.bypass_m3_s[after]) * L_H,
        spill_l_h,
        wanted / supply if supply > 0 else float("inf"),
        float("nan") if shut is None else float(hyd.rail_kpa[shut]),
        float("nan") if shut is None else float(hyd.set_kpa[shut]),
    )


def missing_stages(build: Build, option: Option, target: Target) -> list[Missing]:
    """What each staged group's silence does at the target's peak, with all that goes with it."""
    return stages_of(build, option, (target,)).missing[0]


def propose(build: Build, option: Option, target: Target) -> list[Proposal]:
    """For each staged group: the highest boost at which those before it still have headroom, at the target's speed.

    The step stays small because the running pumps still hold the set pressure; the regulator copes when what must be
    dumped right after the switch is within what it passes there.
    """
    boosts = floats(np.linspace(0.0, max(target.boost_kpa, 1.0), 60))
    staged = [group for group in option.pumps if group.staged]
    found = []
    for position, group in enumerate(staged):
        later = frozenset(other.id for other in staged[position:])
        always_on = option.model_copy(
            update={"pumps": tuple(one.model_copy(update=dict.fromkeys(CONDITIONS)) for one in option.pumps)}
        )
        hyd = _at(build, always_on, target, boosts, later).hydraulics
        wanted = hyd.delivered_m3_s * np.where(np.isfinite(hyd.lambda_factor), hyd.lambda_factor, 1.0)
        share = wanted / np.maximum(hyd.supply_at_set_m3_s, 1e-12)
        fits = np.flatnonzero((share <= COMFORTABLE_SHARE) & (hyd.state != State.STARVED))
        index = int(fits[-1]) if fits.size else 0
        at = float(round(boosts[index]))
        joined = _at(build, always_on, target, floats([at]), later - {group.id}).hydraulics
        found.append(
            Proposal(
                group,
                at,
                float(share[index]),
                (float(joined.supply_at_set_m3_s[0]) - float(joined.delivered_m3_s[0])) * L_H,
                float(_spill_limits_l_h(build, option, [(target, at)])[0]),
            )
        )
    return found
