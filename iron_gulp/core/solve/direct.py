"""Direct injection at solved operating points: what each side delivers, how the rails stand, what pumps and pulses do."""

from dataclasses import dataclass, replace
from typing import Any

import numpy as np
from numpy.typing import NDArray

from ..model import Build, HighSide, Option, Target, base_fuel
from ..physics import M3_S_PER_L_H, Floats, array, floats, take
from ..physics import high_pressure as hp
from ..physics import injectors as inj
from .demand import Targets
from .fuel_state import blend_state
from .high_side import HighAt, HighPoints, HighRows, RailState, pressures_kpa
from .pipes import FluidState
from .settling import Rails, ceiling_kg_s, settled
from .systems import DeliveryRows, Systems

_BLOCK = 8_192  # points worked out together: small enough for the processor's cache


@dataclass(frozen=True)
class Direct:
    """The fuel in the high side on a target, and how many injectors there are; of shape (systems,)."""

    count: Floats
    density_kg_m3: Floats
    viscosity_mpa_s: Floats
    density_15c_kg_m3: Floats
    vapour_kpa_abs: Floats


def direct_of(build: Build, option: Option, target: Target) -> Direct | None:
    """The high side's fuel as a set of one; None without a high side at work."""
    high = option.high_side
    if high is None or option.mode == "port only":
        return None
    warm = high_fuel(build, high, target)
    return Direct(
        array(build.engine.cylinders if high.injectors.count is None else high.injectors.count),
        array(warm.density_kg_m3),
        array(warm.viscosity_mpa_s),
        array(warm.density_15c_kg_m3),
        array(warm.vapour_kpa_abs if target.vapour_kpa_abs is None else target.vapour_kpa_abs),
    )


def high_fuel(build: Build, high: HighSide, target: Target) -> Any:
    """A target's fuel as warm as it is in the high-pressure pump and rail."""
    return blend_state(base_fuel(build, target.base_fuel), target.ethanol_pct, target.fuel_temp_c + high.fuel_rise_k)


@dataclass(frozen=True)
class DirectPumps:
    """One high-pressure pump at points: efficiency and capacity are at the target and the inlet found."""

    inlet_kpa: Floats
    head_kpa: Floats
    head_needed_kpa: Floats
    fill: Floats
    efficiency: Floats
    capacity_kg_s: Floats
    delivered_kg_s: Floats
    delivered_m3_s: Floats
    capacity_m3_s: Floats
    branch_m3_s: Floats
    power_w: Floats
    mean_torque_nm: Floats
    peak_torque_nm: Floats
    stroke_hz: Floats
    speed_m_s: Floats
    acceleration_m_s2: Floats
    limit_rpm: Floats


@dataclass(frozen=True)
class DirectRails:
    """One direct rail at points; `lambda_factor` is that of its cylinders, port part included."""

    state: NDArray[np.int64]
    rail_kpa: Floats
    delivered_kg_s: Floats
    lambda_factor: Floats
    window_used: Floats
    open_kg_s: Floats
    effective_ms: Floats


@dataclass(frozen=True)
class DirectSolution:
    """Direct injection at operating points; arrays of shape (points,), or (points, systems)."""

    direct_kg_s: Floats
    port_kg_s: Floats
    delivered_kg_s: Floats
    port_delivered_kg_s: Floats
    target_kpa: Floats
    floor_kpa: Floats
    cylinder_kpa: Floats
    node_kpa: Floats
    borne_kpa: Floats
    density_kg_m3: Floats
    viscosity_mpa_s: Floats
    above_vapour_kpa: Floats
    window_ms: Floats
    window_kg_s: Floats
    ceiling_kg_s: Floats
    open_at_target_kg_s: Floats
    dead_ms: Floats
    min_pulse_ms: Floats
    pump_load: Floats
    inlet_load: Floats
    rails: tuple[DirectRails, ...]
    pumps: tuple[DirectPumps, ...]

    def at(self, index: Any) -> "DirectSolution":
        """Only some of the last axis."""
        found: DirectSolution = _last(self, index)
        return found

    @property
    def worst(self) -> DirectRails:
        """The rail with the worst state and mixture at each point."""
        return self.rails[0] if len(self.rails) == 1 else _worst(self.rails)


def _last(rows: Any, index: Any) -> Any:
    """A system of many, all the way down."""
    if isinstance(rows, np.ndarray):
        return rows[..., index]
    if isinstance(rows, tuple):
        return tuple(_last(one, index) for one in rows)
    return replace(rows, **{name: _last(getattr(rows, name), index) for name in rows.__dataclass_fields__})


def _worst(rails: tuple[DirectRails, ...]) -> DirectRails:
    """The rail that stands worst: by mixture, then by state, then by pressure."""
    keys = np.array([rail.lambda_factor * 1e3 + rail.state - rail.rail_kpa * 1e-9 for rail in rails])
    at = np.argmax(np.where(np.isnan(keys), np.inf, keys), axis=0)[None]

    def pick(name: str) -> Any:
        return np.take_along_axis(np.array([getattr(rail, name) for rail in rails]), at, axis=0)[0]

    return DirectRails(**{name: pick(name) for name in DirectRails.__dataclass_fields__})


def high_points(systems: Systems, direct: Direct, targets: Targets, rpm: Floats, idling: NDArray[np.bool_]) -> HighPoints:
    """What the points are like for the high side, nothing asked of it yet."""
    assert systems.high is not None
    target, floor, cylinder = pressures_kpa(systems.high, rpm, idling)
    nothing = floats(0.0)
    return HighPoints(
        nothing,
        nothing,
        direct.density_kg_m3,
        direct.viscosity_mpa_s,
        direct.density_15c_kg_m3,
        floats(targets.barometer_kpa - direct.vapour_kpa_abs),
        target,
        floor,
        cylinder,
        direct.count,
    )


def shared_out(
    systems: Systems,
    targets: Targets,
    at: HighPoints,
    rpm: Floats,
    manifold_kpa: Floats,
    set_kpa: Floats,
    wanted_kg_s: Floats,
) -> tuple[HighPoints, Floats]:
    """The points with what the direct and the port side are commanded, and the direct side's ceiling, kg/s."""
    told = systems.delivery
    assert told is not None
    most = floats(np.full(np.shape(wanted_kg_s), np.inf))
    if told.mode == "ceiling":
        most = ceiling_at(systems, targets, at, rpm, set_kpa)
    share = _direct_share(told, targets, rpm, manifold_kpa, wanted_kg_s)
    direct = floats(np.minimum(wanted_kg_s * share, told.use * most)) if told.mode == "ceiling" else wanted_kg_s * share
    return replace(at, direct_kg_s=floats(direct), port_kg_s=floats(wanted_kg_s - direct)), most


def ceiling_at(systems: Systems, targets: Targets, at: HighPoints, rpm: Floats, set_kpa: Floats) -> Floats:
    """What the direct side holds at its target with the node at its set pressure, kg/s; any shape of points."""
    high, fluid = systems.high, FluidState(targets.density_kg_m3, targets.viscosity_mpa_s)
    assert high is not None
    flat, shape = _flat(high, at, rpm, fluid)
    node = floats(np.broadcast_to(set_kpa, shape).ravel())
    blocks = [slice(start, start + _BLOCK) for start in range(0, node.size, _BLOCK)]
    return np.concatenate([ceiling_kg_s(take(flat, one), node[one]) for one in blocks]).reshape(shape)


def _flat(high: HighRows, at: HighPoints, rpm: Floats, fluid: FluidState) -> tuple[HighAt, tuple[int, ...]]:
    """The high side at points in one row, and the shape they came in."""
    shape = np.broadcast_shapes(rpm.shape, *(np.shape(one) for one in at.fields()))
    many = shape[-1] if len(shape) > 1 else 1
    of = np.broadcast_to(np.arange(many), shape).ravel()

    def row(one: Any) -> Floats:
        return floats(np.broadcast_to(one, shape).ravel()) if np.ndim(one) else floats(one)

    rows = take(high, of) if many > 1 else high
    points = HighPoints(*(row(one) for one in at.fields()))
    fluid = FluidState(row(fluid.density_kg_m3), row(fluid.viscosity_mpa_s))
    return HighAt.of(rows, points, floats(np.broadcast_to(rpm, shape).ravel()), fluid), shape


def _direct_share(told: DeliveryRows, targets: Targets, rpm: Floats, manifold_kpa: Floats, wanted_kg_s: Floats) -> Floats:
    """Share of the fuel the direct side is commanded."""
    if told.mode == "share":
        return floats(told.direct_share + 0.0 * wanted_kg_s)
    if told.mode != "threshold":
        return floats(np.ones_like(wanted_kg_s))
    flow = wanted_kg_s / targets.density_kg_m3 / M3_S_PER_L_H
    signal = {"manifold_kpa": manifold_kpa, "rpm": rpm, "flow_l_h": flow}[told.signal]
    over = signal - told.start
    with np.errstate(divide="ignore", invalid="ignore"):
        faded = np.where(told.width > 0, np.clip(over / told.width, 0.0, 1.0), over > 0)
    return floats(1.0 - told.port_share * faded)


def direct_solution(
    systems: Systems,
    targets: Targets,
    at: HighPoints,
    most_kg_s: Floats,
    rpm: Floats,
    node_kpa: Floats,
    asked_kpa: Floats,
    port_delivered_kg_s: Floats,
) -> DirectSolution:
    """The high side where the node was found to stand; every array of the points' shape."""
    high = systems.high
    assert high is not None
    flat, shape = _flat(high, at, floats(rpm), FluidState(targets.density_kg_m3, targets.viscosity_mpa_s))
    rows = take(high, np.broadcast_to(np.arange(shape[-1]), shape).ravel()) if len(shape) > 1 else high
    speed = flat.rpm
    node, asked, port = (
        floats(np.broadcast_to(one, shape).ravel()) for one in (node_kpa, asked_kpa, port_delivered_kg_s)
    )
    rails = settled(flat, node)
    points = [floats(np.broadcast_to(one, shape).ravel()) for one in at.fields()]
    wanted_direct, wanted_port, density = points[0], points[1], points[2]
    count = len(flat.rails)
    each = floats((wanted_direct + wanted_port) / count)
    injectors = points[9]
    found_rails = []
    for state, rail, delivered in zip(rails.state, rails.rail_kpa, rails.delivered_kg_s, strict=True):
        window = flat.window_kg_s(rail) / count
        opened = inj.open_flow_kg_s(rows.rated_cc_min, rows.rated_kpa, floats(rail - flat.cylinder_kpa), density)
        found_rails.append(
            DirectRails(
                state,
                rail,
                delivered,
                _over(each, floats(delivered + port / count)),
                floats(np.where(delivered > 0, delivered / np.maximum(window, 1e-30), 0.0)),
                floats(opened + 0.0 * speed),
                inj.effective_pulse_ms(delivered, injectors / count, speed, opened),
            )
        )
    pumps = tuple(_pump(flat, rows, rails, number, speed, density) for number in range(len(flat.pumps)))
    able = [floats(sum(pumps[number].capacity_kg_s for number in rail)) for rail in flat.rails]
    pump_load = np.maximum.reduce([_share(wanted_direct / count, one) for one in able])
    inlets = flat.inlets_kpa(asked, flat.by_displacement([wanted_direct / count] * count))
    heads = [np.maximum(inlet + flat.above_vapour_kpa, 0.0) for inlet in inlets]
    inlet_load = np.maximum.reduce([_share(pump.head_needed_kpa, head) for pump, head in zip(pumps, heads, strict=True)])
    inlet_load = np.where(wanted_direct > 0, inlet_load, 0.0)
    found = DirectSolution(
        direct_kg_s=wanted_direct,
        port_kg_s=wanted_port,
        delivered_kg_s=rails.total_kg_s,
        port_delivered_kg_s=port,
        target_kpa=flat.target_kpa,
        floor_kpa=flat.floor_kpa,
        cylinder_kpa=flat.cylinder_kpa,
        node_kpa=node,
        borne_kpa=floats(rows.borne_kpa + 0.0 * speed),
        density_kg_m3=density,
        viscosity_mpa_s=points[3],
        above_vapour_kpa=flat.above_vapour_kpa,
        window_ms=floats(rows.window * inj.cycle_ms(speed)),
        window_kg_s=flat.window_kg_s(flat.target_kpa),
        ceiling_kg_s=floats(np.broadcast_to(most_kg_s, shape).ravel()),
        open_at_target_kg_s=floats(
            inj.open_flow_kg_s(rows.rated_cc_min, rows.rated_kpa, floats(flat.target_kpa - flat.cylinder_kpa), density)
            + 0.0 * speed
        ),
        dead_ms=floats(rows.dead_ms + 0.0 * speed),
        min_pulse_ms=floats(rows.min_pulse_ms + 0.0 * speed),
        pump_load=floats(pump_load),
        inlet_load=floats(inlet_load),
        rails=tuple(found_rails),
        pumps=pumps,
    )
    return found if len(shape) == 1 else _reshaped(found, shape)


def _reshaped(rows: Any, shape: tuple[int, ...]) -> Any:
    if isinstance(rows, np.ndarray):
        return rows.reshape(shape)
    if isinstance(rows, tuple):
        return tuple(_reshaped(one, shape) for one in rows)
    return replace(rows, **{name: _reshaped(getattr(rows, name), shape) for name in rows.__dataclass_fields__})


def _over(wanted: Floats, delivered: Floats) -> Floats:
    with np.errstate(divide="ignore", invalid="ignore"):
        lean = np.where(delivered > 0, wanted / delivered, np.inf)
    return floats(np.where(wanted > 0, lean, 1.0))


def _share(part: Floats, whole: Floats) -> Floats:
    with np.errstate(divide="ignore", invalid="ignore"):
        found = np.where(whole > 0, part / whole, np.inf)
    return floats(np.where(part > 0, found, 0.0))


def _pump(flat: HighAt, rows: HighRows, rails: Rails, number: int, rpm: Floats, density: Floats) -> DirectPumps:
    pump, row, inlet = flat.pumps[number], rows.pumps[number], rails.inlet_kpa[number]
    rail = next(one for one, members in enumerate(flat.rails) if number in members)
    head = floats(inlet + flat.above_vapour_kpa)
    fill, filled = flat.fill(number, inlet), flat.efficiency(number, flat.target_kpa, inlet)
    valves = 1.0 if row.measured is not None else row.valve_factor
    efficiency = floats(fill * filled * valves)
    delivered = rails.flow_kg_s[number]
    volume = floats(delivered / density)
    power = hp.drive_power_w(floats(rails.rail_kpa[rail] - inlet), volume, row.mech_efficiency)
    hertz = floats(row.strokes * rpm / 60.0)
    each = floats(hertz / row.plungers)  # of one follower: plungers on one drive have one each
    limit = hp.follower_limit_hz(row.follower_g, row.spring_n, row.lift_mm)
    capacity = flat.capacity_kg_s(number, flat.target_kpa, inlet)
    after = flat.pumps[number:] if flat.series else (pump,)
    carried = sum(rails.flow_kg_s[number : number + len(after)]) if flat.series else delivered
    return DirectPumps(
        inlet_kpa=inlet,
        head_kpa=head,
        head_needed_kpa=flat.head_needed_kpa(number),
        fill=fill,
        efficiency=efficiency,
        capacity_kg_s=capacity,
        delivered_kg_s=delivered,
        delivered_m3_s=volume,
        capacity_m3_s=floats(capacity / density),
        branch_m3_s=floats(carried / flat.low_density),
        power_w=power,
        mean_torque_nm=floats(power / (2.0 * np.pi * row.turns * rpm / 60.0)),
        peak_torque_nm=hp.peak_torque_nm(
            floats(rails.rail_kpa[rail] - inlet),
            row.bore_mm,
            row.lift_mm,
            row.lobes,
            row.mech_efficiency,
            row.plungers,
        ),
        stroke_hz=hertz,
        speed_m_s=hp.follower_speed_m_s(each, row.lift_mm),
        acceleration_m_s2=hp.follower_acceleration_m_s2(each, row.lift_mm),
        limit_rpm=floats(limit / row.strokes * row.plungers * 60.0 + 0.0 * rpm),
    )


__all__ = [
    "Direct",
    "DirectPumps",
    "DirectRails",
    "DirectSolution",
    "RailState",
    "ceiling_at",
    "direct_of",
    "direct_solution",
    "high_fuel",
    "high_points",
    "shared_out",
]
