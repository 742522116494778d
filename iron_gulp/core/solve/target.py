"""Targets on systems: the coupled solution at peak and at idle, or at any operating points, with what meters the fuel."""

from dataclasses import dataclass, replace
from typing import Any

import numpy as np
from numpy.typing import NDArray

from ..model import Build, InjectorPart, InjectorSet, Option, Target, remembered_of
from ..physics import Floats, Number, array, floats, set_pressure_kpa
from ..physics import injectors as inj
from .carburettors import needle_area_flow_kg_s
from .demand import Demand, Targets, demand_of, enriched_at, targets_of
from .direct import Direct, DirectSolution, direct_of, direct_solution, high_points, shared_out
from .hydraulics import Hydraulics, Points, State, running_groups, signals_at, solve_systems
from .systems import Systems, outlet_kpa, packed, port_set_kpa, reference_kpa, without_groups

PEAK, IDLE = 0, 1
DEAD_TIME_ERROR = 0.05  # how far off the dead time of a set may be (physics §8)


@dataclass(frozen=True)
class Meter:
    """Injectors on a target's voltage, each array of shape (systems,); dead times at the parts' own pressure.

    A two-way table's pressures and changes of slope are of shape (rows, systems); no rows where there is one pressure.
    """

    rated_cc_min: Floats
    rated_kpa: Floats
    count: Floats
    dead_ms: Floats
    dead_at_kpa: Floats
    dead_ms_per_100_kpa: Floats
    dead_cuts_kpa: Floats
    dead_bends: Floats
    min_pulse_ms: Floats
    squirts: Floats
    second: "SecondMeter | None" = None

    def dead_at_ms(self, differential_kpa: Floats) -> Floats:
        """Dead time at a differential pressure, ms; shapes broadcast, systems last."""
        return inj.dead_time_bent_ms(
            self.dead_ms,
            differential_kpa,
            self.dead_at_kpa,
            self.dead_ms_per_100_kpa,
            self.dead_cuts_kpa,
            self.dead_bends,
        )


@dataclass(frozen=True)
class SecondMeter:
    """A second set of injectors on the same rail: the same of it, and the first set's duty at which it joins."""

    set: Meter
    joins_at: Floats


@dataclass(frozen=True)
class Meters:
    """What meters the fuel on a target: port injectors, direct ones or both; neither for a carburettor's needles."""

    port: Meter | None
    direct: Direct | None


@dataclass(frozen=True)
class PointSolution:
    """Hydraulics and injectors at operating points; arrays of shape (points,), or (points, systems).

    `metered_kg_s` is what port injectors (or needles) are asked for, of `demand_kg_s` in all. Pulses are those of one
    opening; where an injector opens several times a cycle, `duty` counts them all.
    """

    rpm: Floats
    manifold_kpa: Floats
    demand_kg_s: Floats
    hydraulics: Hydraulics
    open_at_set_kg_s: Floats
    open_kg_s: Floats
    dead_ms: Floats
    effective_ms: Floats
    pulse_ms: Floats
    cycle_ms: Floats
    duty: Floats
    metered_kg_s: Floats
    direct: DirectSolution | None
    second: "SecondPoints | None" = None

    def at(self, index: int) -> "PointSolution":
        """One system of many."""
        values: dict[str, Any] = {name: getattr(self, name) for name in self.__dataclass_fields__}
        hydraulics, direct, second = values.pop("hydraulics").at(index), values.pop("direct"), values.pop("second")
        direct = None if direct is None else direct.at(index)
        second = None if second is None else second.at(index)
        own = {name: value[..., index] for name, value in values.items()}
        return PointSolution(hydraulics=hydraulics, direct=direct, second=second, **own)

    @property
    def first_kg_s(self) -> Floats:
        """What the first set of port injectors is asked for: all that is metered without a second one."""
        return self.metered_kg_s if self.second is None else floats(self.metered_kg_s - self.second.metered_kg_s)


@dataclass(frozen=True)
class SecondPoints:
    """The second set at operating points: what it is asked for, one of it held open, its pulse, dead time and duty.

    `step` is the estimated mixture step as it joins, a share.
    """

    metered_kg_s: Floats
    open_kg_s: Floats
    effective_ms: Floats
    dead_ms: Floats
    duty: Floats
    step: Floats

    def at(self, index: int) -> "SecondPoints":
        """One system of many."""
        return SecondPoints(*(getattr(self, name)[..., index] for name in self.__dataclass_fields__))


def injector_count(build: Build, fitted: InjectorSet) -> int:
    """Injectors fitted: one a cylinder unless a count is given."""
    return build.engine.cylinders if fitted.count is None else fitted.count


def meters_of(build: Build, option: Option, target: Target) -> Meters:
    """What meters the fuel as a set of one; a carburettor's needles are in the system."""
    return Meters(_port_of(build, option, target), direct_of(build, option, target))


def _port_of(build: Build, option: Option, target: Target) -> Meter | None:
    fitted = option.injectors
    if fitted is None or option.mode == "direct only":
        return None
    return remembered_of(
        fitted, (build.engine.cylinders, target.supply_v), "meter", lambda: _port_meter(build, fitted, target)
    )


def _port_meter(build: Build, fitted: InjectorSet, target: Target) -> Meter:
    second = fitted.second
    if second is None:
        return _meter(fitted.part, injector_count(build, fitted), fitted.squirts, target, None)
    count = build.engine.cylinders if second.count is None else second.count
    joining = SecondMeter(_meter(second.part, count, second.squirts, target, None), array(second.joins_pct / 100.0))
    return _meter(fitted.part, injector_count(build, fitted), fitted.squirts, target, joining)


def _meter(part: InjectorPart, count: int, squirts: int, target: Target, second: SecondMeter | None) -> Meter:
    cuts, bends = part.dead_rows_at(target.supply_v)
    return Meter(
        array(part.heptane_cc_min),
        array(part.rated_pressure_kpa),
        array(count),
        array(float(np.interp(target.supply_v, part.dead_time_v, part.dead_time_ms))),
        array(part.dead_time_at_kpa),
        array(part.dead_time_ms_per_100_kpa),
        cuts[:, None],
        bends[:, None],
        array(part.smallest_pulse_ms),
        array(squirts),
        second,
    )


def mixture_at(target: Target, manifold_kpa: Floats, barometer_kpa: Number) -> Floats:
    """λ over the operating field: 1 up to half the target's absolute pressure, from there on going over to its λ."""
    barometer = floats(barometer_kpa)
    return floats(1.0 + (target.lambda_ - 1.0) * enriched_at(barometer + target.boost_kpa, barometer + manifold_kpa))


def _open_kg_s(systems: Systems, meters: Meters, targets: Targets, differential_kpa: Floats) -> Floats:
    """What one port injector (or all needles) passes held open at a differential pressure, kg/s; else nothing."""
    meter = meters.port
    if meter is not None:
        return inj.open_flow_kg_s(meter.rated_cc_min, meter.rated_kpa, differential_kpa, targets.density_kg_m3)
    if systems.needles_m2 is None:
        return floats(np.zeros(np.broadcast_shapes(differential_kpa.shape, targets.density_kg_m3.shape)))
    return needle_area_flow_kg_s(systems.needles_m2, differential_kpa, targets.density_kg_m3)


def _set_open_kg_s(meter: Meter, targets: Targets, differential_kpa: Floats) -> Floats:
    """What a whole set passes held open at a differential pressure, kg/s, its second set not counted."""
    one = inj.open_flow_kg_s(meter.rated_cc_min, meter.rated_kpa, differential_kpa, targets.density_kg_m3)
    return floats(one * meter.count)


def sets_open_kg_s(meter: Meter, targets: Targets, differential_kpa: Floats) -> Floats:
    """What all port injectors pass held open at a differential pressure, kg/s."""
    first = _set_open_kg_s(meter, targets, differential_kpa)
    if meter.second is None:
        return first
    return floats(first + _set_open_kg_s(meter.second.set, targets, differential_kpa))


def _second_at(
    meter: Meter, targets: Targets, metered: Floats, meant_kpa: Floats, actual_kpa: Floats, starved: Any, rpm: Floats
) -> SecondPoints | None:
    """The second set at points, where there is one."""
    if meter.second is None:
        return None
    own = meter.second.set
    dead_first, dead = _dead_ms(meter, actual_kpa), _dead_ms(own, actual_kpa)
    # A starved system keeps what was meant for the set pressure: the controller does not know the rail has sunk.
    seen_kpa = floats(np.where(starved, meant_kpa, actual_kpa))
    first, second = (_set_open_kg_s(one, targets, seen_kpa) for one in (meter, own))
    least_ms = floats(own.min_pulse_ms * own.squirts)
    carried = inj.second_set_kg_s(
        metered,
        first,
        second,
        floats(dead_first * meter.squirts),
        floats(dead * own.squirts),
        least_ms,
        rpm,
        meter.second.joins_at,
        targets.duty_limit,
    )
    opened = floats(second / own.count)
    whole = inj.effective_pulse_ms(carried, own.count, rpm, opened)
    held = inj.flow_at_duty_kg_s(first, 1.0, rpm, floats(dead_first * meter.squirts), meter.second.joins_at)
    least = floats(second * least_ms / inj.cycle_ms(rpm))
    return SecondPoints(
        carried,
        opened,
        floats(whole / own.squirts),
        dead,
        inj.duty(whole, floats(dead * own.squirts * (carried > 0)), rpm),
        inj.hand_over_step(least, np.maximum(held, least), dead, own.min_pulse_ms, DEAD_TIME_ERROR),
    )


def _dead_ms(meter: Meter | None, differential_kpa: Floats) -> Floats:
    if meter is None:
        return floats(np.zeros_like(differential_kpa))
    return meter.dead_at_ms(differential_kpa)


def _at_floats(systems: Systems, manifold_kpa: Floats) -> Floats:
    """Pressure over the fuel in float chambers: the air's, and that of the charge where they are blown through.

    A regulator referenced to the charge says that they are; vacuum never reaches them.
    """
    return floats(np.where(systems.reference_ratio > 0, np.maximum(manifold_kpa, 0.0), 0.0))


def open_at_set_kg_s(systems: Systems, meters: Meters, targets: Targets) -> Floats:
    """What all injectors (or needles) pass held open at the set pressure of peaks, kg/s; infinite without any."""
    if meters.port is None and systems.needles_m2 is None:
        return floats(np.full_like(targets.boost_kpa, np.inf))
    manifold = targets.boost_kpa if systems.needles_m2 is None else _at_floats(systems, targets.boost_kpa)
    set_kpa = set_pressure_kpa(systems.base_kpa, systems.reference_ratio, reference_kpa(systems, manifold))
    outlet = outlet_kpa(systems, manifold)
    across = floats(port_set_kpa(systems, set_kpa, outlet) - outlet)
    if meters.port is None:
        return _open_kg_s(systems, meters, targets, across)
    return sets_open_kg_s(meters.port, targets, across)


@dataclass(frozen=True)
class AskedPoints:
    """Points to solve, what one injector (or the needles) passes at the set pressure, and the direct side's ceiling."""

    points: Points
    at_set_kg_s: Floats
    ceiling_kg_s: Floats


def points_asked(
    systems: Systems,
    meters: Meters,
    targets: Targets,
    rpm: Number,
    manifold_kpa: Number,
    demand_kg_s: Number,
    idling: NDArray[np.bool_] | None = None,
) -> AskedPoints:
    """The points to solve, all of one shape."""
    # Systems of one target and of parts alike may say all of that as one number: there are as many points as systems.
    every = np.broadcast_arrays(floats(rpm), floats(manifold_kpa), floats(demand_kg_s), systems.base_kpa)
    speed, manifold, wanted = (floats(np.atleast_1d(one)) for one in every[:3])
    barometer = targets.barometer_kpa
    mixture = 1.0 + (targets.mixture - 1.0) * enriched_at(barometer + targets.boost_kpa, barometer + manifold)
    # The car accelerates when it pulls, not when it idles.
    pull_g = (manifold >= targets.boost_kpa - 1e-9) * targets.accel_g
    if systems.needles_m2 is not None:
        manifold = _at_floats(systems, manifold)
    set_kpa = set_pressure_kpa(systems.base_kpa, systems.reference_ratio, reference_kpa(systems, manifold))
    outlet = outlet_kpa(systems, manifold)
    across = floats(port_set_kpa(systems, set_kpa, outlet) - outlet)
    at_set = _open_kg_s(systems, meters, targets, across)
    high, most = None, floats(np.full_like(wanted, np.inf))
    if meters.direct is not None:
        # Idle has a rail target and cylinder pressure of its own.
        idles = speed <= targets.idle_rpm if idling is None else idling
        bare = high_points(systems, meters.direct, targets, speed, np.asarray(idles))
        high, most = shared_out(systems, targets, bare, speed, manifold, set_kpa, wanted)
    held_open = np.inf if systems.needles_m2 is None and meters.port is None else at_set
    points = Points(
        manifold,
        wanted,
        targets.supply_v,
        targets.density_kg_m3,
        targets.viscosity_mpa_s,
        held_open if meters.port is None else sets_open_kg_s(meters.port, targets, across),
        speed,
        pull_g,
        floats(mixture),
        high,
    )
    return AskedPoints(points, at_set, most)


def solve_at(
    systems: Systems,
    meters: Meters,
    targets: Targets,
    rpm: Number,
    manifold_kpa: Number,
    demand_kg_s: Number,
    idling: NDArray[np.bool_] | None = None,
    silent: NDArray[np.bool_] | None = None,
    held: NDArray[np.bool_] | None = None,
) -> PointSolution:
    """Solve systems at operating points on their targets' fuel and voltage.

    The three arrays broadcast to (points,) for one system, to (points, systems) for many; so does `idling`, which says
    where direct injection idles (by default up to idle speed). Groups `silent` or `held` on at a point, each (groups, …),
    are so whatever their conditions say.
    """
    asked = points_asked(systems, meters, targets, rpm, manifold_kpa, demand_kg_s, idling)
    points, meter = asked.points, meters.port
    hydraulics = solve_systems(systems, points, silent, held)
    speed, manifold, wanted = floats(points.rpm), floats(points.manifold_kpa), floats(points.demand_kg_s)
    metered = wanted if points.high is None else floats(points.high.port_kg_s)
    actual_dp = hydraulics.differential_kpa
    actual = _open_kg_s(systems, meters, targets, actual_dp)
    # A starved system keeps the pulse meant for the set pressure: the controller does not know the rail has sunk.
    meant = asked.at_set_kg_s if meter is None else _open_kg_s(systems, meters, targets, hydraulics.meant_kpa)
    opened = actual if meter is None else np.where(hydraulics.state == State.STARVED, meant, actual)
    squirts = 1.0 if meter is None else meter.squirts
    starved = hydraulics.state == State.STARVED
    second = (
        None if meter is None else _second_at(meter, targets, metered, hydraulics.meant_kpa, actual_dp, starved, speed)
    )
    own = metered if second is None else floats(metered - second.metered_kg_s)
    whole = inj.effective_pulse_ms(own, 1.0 if meter is None else meter.count, speed, floats(opened))
    effective = floats(whole / squirts)
    dead = _dead_ms(meter, actual_dp)
    solution = PointSolution(
        rpm=speed,
        manifold_kpa=manifold,
        demand_kg_s=wanted,
        hydraulics=hydraulics,
        open_at_set_kg_s=meant,
        open_kg_s=actual,
        dead_ms=dead,
        effective_ms=effective,
        pulse_ms=floats(effective + dead * (metered > 0)),
        cycle_ms=inj.cycle_ms(speed),
        duty=inj.duty(whole, floats(dead * squirts * (metered > 0)), speed),
        metered_kg_s=metered,
        direct=None,
        second=second,
    )
    if points.high is None:
        return solution
    return replace(solution, direct=direct_at(systems, targets, asked, hydraulics, speed))


def direct_at(
    systems: Systems, targets: Targets, asked: AskedPoints, hydraulics: Hydraulics, rpm: Floats
) -> DirectSolution:
    """The high side fed from where the low side was found to stand; the port side passes what its sunk rail lets it."""
    high = asked.points.high
    assert high is not None
    outlet = outlet_kpa(systems, floats(asked.points.manifold_kpa))
    across, meant = floats(port_set_kpa(systems, hydraulics.set_kpa, outlet) - outlet), hydraulics.meant_kpa
    with np.errstate(divide="ignore", invalid="ignore"):
        most = asked.points.open_limit_kg_s * np.sqrt(np.maximum(meant, 0.0) / across)
        left = np.sqrt(np.maximum(hydraulics.differential_kpa / meant, 0.0))
    port = floats(np.fmin(high.port_kg_s, most))
    # Below the pressure meant the pulse stays, above it injectors held open pass more, up to what is asked.
    moved = (hydraulics.state == State.STARVED) | (left > 1.0)
    port = floats(np.where(meant > 0, np.where(moved, np.minimum(port * left, high.port_kg_s), port), 0.0))
    return direct_solution(
        systems, targets, high, asked.ceiling_kg_s, rpm, hydraulics.rail_kpa, hydraulics.asked_kpa, port
    )


def solve_targets(systems: Systems, meters: Meters, targets: Targets) -> tuple[Demand[Floats], PointSolution]:
    """Demand of targets (arrays) and the coupled solution of each at two points: index PEAK (0) and IDLE (1)."""
    wanted = demand_of(targets)
    both = (
        (targets.rpm, targets.boost_kpa, wanted.chosen_kg_s),
        (targets.idle_rpm, targets.idle_manifold_kpa, wanted.idle_kg_s),
    )
    rpm, manifold, fuel = (floats(np.array(np.broadcast_arrays(*column))) for column in zip(*both, strict=True))
    idling = np.array([[False], [True]])
    return wanted, solve_at(systems, meters, targets, rpm, manifold, fuel, idling)


def solve_points(
    build: Build,
    option: Option,
    target: Target,
    rpm: Number,
    manifold_kpa: Number,
    demand_kg_s: Number,
    without: frozenset[str] = frozenset(),
) -> PointSolution:
    """Solve the option at operating points on the target's fuel and voltage; the three arrays broadcast.

    Pump groups named in `without` do not come. Acceleration counts from the target's boost on.
    """
    systems = packed(option)
    if without:
        silent = frozenset(index for index, group in enumerate(option.pumps) if group.id in without)
        systems = without_groups(systems, silent)
    meters, targets = meters_of(build, option, target), targets_of(build, target, option)
    return solve_at(systems, meters, targets, rpm, manifold_kpa, demand_kg_s)


def running_at(
    build: Build,
    option: Option,
    target: Target,
    rpm: Number,
    manifold_kpa: Number,
    demand_kg_s: Number,
    leaving: bool = False,
) -> NDArray[np.bool_]:
    """Which pump groups run at operating points, shape (groups, points), coming up or (`leaving`) on the way down."""
    systems, meters, targets = packed(option), meters_of(build, option, target), targets_of(build, target, option)
    points = points_asked(systems, meters, targets, rpm, manifold_kpa, demand_kg_s).points
    return running_groups(systems, signals_at(points), leaving)
