"""A plain scalar solution of the high side at one point, written independently of the core: brentq for every unknown.

Pumps are solved at full command for their own inlet first, rails by looking along their pressure, the node last; the
core goes the other way round. Fuel properties and the low side come from the scalar low-side reference.
"""

from collections.abc import Callable
from dataclasses import dataclass
from math import acos, pi, sin, sqrt

from scipy.optimize import brentq

from bench.scalar_reference import line_kpa, supply
from iron_gulp.core.model import HighPump, HighSide, Option


@dataclass(frozen=True)
class Fuel:
    """Fuel in the pump and rail (`rho`, `mu`, `rho15`, vapour pressure) and in the low side's lines."""

    rho: float
    mu: float
    rho15: float
    vapour_kpa_abs: float
    low_rho: float
    low_mu: float
    barometer_kpa: float = 101.325


@dataclass(frozen=True)
class Ask:
    """One point: engine speed, direct and port fuel kg/s, injectors, rail target, floor and cylinder pressure."""

    rpm: float
    direct: float
    port: float
    count: int
    target: float
    floor: float
    cylinder: float


def capacity(pump: HighPump, high: HighSide, fuel: Fuel, rpm: float, rail: float, inlet: float) -> float:
    """What one pump brings at full command, kg/s."""
    part = pump.part
    area = pi / 4 * (part.plunger_mm * 1e-3) ** 2
    stroke = area * part.stroke_mm * 1e-3
    hertz = part.strokes_a_turn * pump.cam_ratio * pump.drive_factor * rpm / 60
    head = inlet + fuel.barometer_kpa - fuel.vapour_kpa_abs
    if head <= 0:
        return 0.0
    plungers = part.plungers if part.driven == "several plungers" else 1
    inlet_m3_s = part.inlet_area_mm2 * 1e-6 * sqrt(2000 * head / fuel.rho15)
    if plungers < 3:
        follows = inlet_m3_s / (pi * hertz / plungers * stroke)
        # The plunger outruns its inlet between these two angles; the rest of the stroke follows the cosine.
        fill = 1.0 if follows >= 0.7246 else (1 - sqrt(1 - follows**2)) / 2 + follows * (pi / 2 + acos(follows)) / 2
    else:
        fill = min(1.0, inlet_m3_s / (highest_over_mean(plungers) * hertz * stroke))
    if part.efficiency is not None:
        return fuel.rho * stroke * hertz * fill * measured(part.efficiency, rail, rpm)
    rise = rail - inlet
    gap = (part.clearance_um + pump.worn_um) * 1e-6
    leak = plungers / 2 * pi * part.plunger_mm * 1e-3 * gap**3 * rise * 1000
    leak /= 12 * fuel.mu * 1e-3 * part.seal_mm * 1e-3
    bracket = 1 - (1 + part.dead_ratio) * rise / (high.bulk_modulus_mpa * 1000) - leak / (stroke * hertz)
    return fuel.rho * stroke * hertz * fill * part.valve_factor * max(bracket, 0.0)


def highest_over_mean(plungers: int) -> float:
    """Highest suction of evenly spaced plungers, of their mean, by going round."""
    round_ = [2 * pi * one / 20_000 for one in range(20_000)]
    drawn = [sum(max(sin(angle + 2 * pi * one / plungers), 0.0) for one in range(plungers)) for angle in round_]
    return max(drawn) / (sum(drawn) / len(drawn))


def measured(table: object, rail: float, rpm: float) -> float:
    """A measured efficiency, bilinear, level beyond its edges."""

    def place(axis: tuple[float, ...], value: float) -> tuple[int, int, float]:
        if value <= axis[0]:
            return 0, 0, 0.0
        for low in range(len(axis) - 1):
            if value <= axis[low + 1]:
                return low, low + 1, (value - axis[low]) / (axis[low + 1] - axis[low])
        return len(axis) - 1, len(axis) - 1, 0.0

    p0, p1, p = place(table.pressure_kpa, rail)
    r0, r1, r = place(table.rpm, rpm)
    rows = table.efficiency_pct
    below = rows[p0][r0] * (1 - r) + rows[p0][r1] * r
    above = rows[p1][r0] * (1 - r) + rows[p1][r1] * r
    return (below * (1 - p) + above * p) / 100


def window(high: HighSide, fuel: Fuel, ask: Ask, rail: float) -> float:
    """What all injectors pass in their window, kg/s."""
    part = high.injectors.part
    differential = max(rail - ask.cylinder, 0.0)
    one = part.rated_flow_cc_min / 60e6 * sqrt(684 * fuel.rho * differential / part.rated_pressure_kpa)
    return ask.count * one * high.window_deg / 720


def banks_of(high: HighSide) -> list[list[int]]:
    """Positions of the pumps of each rail."""
    if high.rails == "common":
        return [list(range(len(high.pumps)))]
    return [[n for n, pump in enumerate(high.pumps) if pump.bank == bank + 1] for bank in range(high.banks)]


def inlets(high: HighSide, fuel: Fuel, node: float, flows: list[float]) -> list[float]:
    """Inlet of every pump at its flow, kg/s."""
    found, before = [], node
    for number in range(len(high.pumps)):
        carried = sum(flows[number:]) if high.feed == "series" else flows[number]
        lost = (
            line_kpa(high.branches[number], carried / fuel.low_rho, fuel.low_rho, fuel.low_mu) if high.branches else 0.0
        )
        start = before if high.feed == "series" else node
        before = start - lost
        found.append(before)
    return found


def most(high: HighSide, fuel: Fuel, ask: Ask, node: float, rail: int, pressure: float, others: list[float]) -> float:
    """What one rail's pumps bring at a pressure while the other rails take theirs, kg/s."""
    banks = banks_of(high)

    def bring(total: float) -> float:
        """At a total flow of this rail, shared by capacity: what its pumps would bring at full command, less that."""
        flows = spread(high, fuel, ask, node, rail, pressure, total, others)
        here = inlets(high, fuel, node, flows)
        return sum(capacity(high.pumps[n], high, fuel, ask.rpm, pressure, here[n]) for n in banks[rail]) - total

    free = bring(0.0)
    return 0.0 if free <= 0 else brentq(bring, 0.0, free * 1.001, xtol=1e-14)


def spread(
    high: HighSide, fuel: Fuel, ask: Ask, node: float, rail: int, pressure: float, total: float, others: list[float]
) -> list[float]:
    """Flow of every pump: the other rails' (a pump each), and this one's shared by what each could bring."""
    banks = banks_of(high)
    flows = [0.0] * len(high.pumps)
    for number, members in enumerate(banks):
        for n in members:
            flows[n] = (total if number == rail else others[number]) / len(members)
    if len(banks[rail]) == 1:
        return flows
    for _ in range(200):
        here = inlets(high, fuel, node, flows)
        able = {n: capacity(high.pumps[n], high, fuel, ask.rpm, pressure, here[n]) for n in banks[rail]}
        whole = sum(able.values())
        new = [total * able[n] / whole if n in able and whole > 0 else flows[n] for n in range(len(flows))]
        if max(abs(a - b) for a, b in zip(new, flows, strict=True)) < 1e-15:
            break
        flows = new
    return flows


def one_rail(high: HighSide, fuel: Fuel, ask: Ask, node: float, rail: int, others: list[float]) -> tuple[float, float]:
    """(delivered kg/s, rail pressure): the most of the least over pressures from floor to target, as high as it goes."""
    count = len(banks_of(high))
    wanted = ask.direct / count

    def brings(pressure: float) -> float:
        return most(high, fuel, ask, node, rail, pressure, others)

    def passes(pressure: float) -> float:
        return window(high, fuel, ask, pressure) / count

    top = min(wanted, passes(ask.target))
    if brings(ask.target) >= top:
        return top, ask.target
    if brings(ask.floor) <= min(wanted, passes(ask.floor)):
        return brings(ask.floor), ask.floor
    # Where pumps and window meet, and where pumps meet what is wanted: the higher pressure that carries the most.
    if brings(ask.target) < passes(ask.target) and brings(ask.floor) > passes(ask.floor):
        meets = brentq(lambda p: brings(p) - passes(p), ask.floor, ask.target, xtol=1e-7)
        if passes(meets) < wanted:
            return passes(meets), meets
    pressure = brentq(lambda p: brings(p) - wanted, ask.floor, ask.target, xtol=1e-7)
    return wanted, pressure


def high_side(high: HighSide, fuel: Fuel, ask: Ask, node: float) -> list[tuple[float, float]]:
    """(delivered, rail pressure) of every rail with the node at a pressure; rails in series are found in turns."""
    count = len(banks_of(high))
    found = [(ask.direct / count, ask.target)] * count
    for _ in range(60):
        before = list(found)
        for rail in range(count):
            found[rail] = one_rail(high, fuel, ask, node, rail, [delivered for delivered, _ in found])
        if max(abs(a[0] - b[0]) for a, b in zip(before, found, strict=True)) < 1e-13:
            break
    return found


def fed_point(
    option: Option, fuel: Fuel, ask: Ask, manifold_kpa: float, supply_v: float
) -> tuple[float, list[tuple[float, float]], float]:
    """(node pressure, rails, port kg/s) of a bypass regulator after the rail that holds or a node that sinks.

    Creep and overrun are left out: they are the low side's own and have their reference.
    """
    high, regulator = option.high_side, option.regulator
    assert high is not None
    set_kpa = regulator.base_kpa + regulator.reference_ratio * manifold_kpa

    def port(node: float) -> float:
        return ask.port * sqrt(max(node - manifold_kpa, 0.0) / (set_kpa - manifold_kpa)) if ask.port else 0.0

    def rails(node: float) -> list[tuple[float, float]]:
        return high_side(high, fuel, ask, node)

    def taken(node: float) -> float:
        return (sum(one for one, _ in rails(node)) + port(node)) / fuel.low_rho

    def brought(node: float) -> float:
        return supply(option, node, manifold_kpa, supply_v, fuel.low_rho, fuel.low_mu)

    node = set_kpa
    if brought(set_kpa) < taken(set_kpa):
        node = _root(lambda p: brought(p) - taken(p), fuel.vapour_kpa_abs - fuel.barometer_kpa, set_kpa)
    return node, rails(node), port(node)


def _root(function: Callable[[float], float], low: float, high: float) -> float:
    return brentq(function, low, high, xtol=1e-7)
