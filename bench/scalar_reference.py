"""A plain scalar solution of one operating point by root finding, written independently of the core's curves.

It serves as the baseline of the benchmark and as the oracle of the tests: pumps from their tables by hand, friction by
the `fluids` package's own pressure-drop function, scipy's brentq for every unknown.
"""

from itertools import pairwise
from math import pi, sqrt

from fluids import dP_from_K, one_phase_dP
from fluids.fittings import Hooper2K, K_branch_diverging_Crane, entrance_sharp, exit_normal
from scipy.optimize import brentq

from iron_gulp.core.model import Line, Option, PumpCurve, PumpGroup, Split

M3_S = 1e-3 / 3600.0


HOOPER = {
    "swept elbow, 45°": "Elbow, 45°, Long-radius (R/D 1.5), All types",
    "swept elbow, 90°": "Elbow, 90°, Long-radius (R/D = 1.5), All types",
    "sharp elbow, 90°": "Elbow, 90°, Standard (R/D = 1), Screwed",
    "drilled block, 90°": "Elbow, 90°, Mitered (R/D = 1.5), 1 weld (90° angle)",
    "tee, into the branch": "Elbow, Used as, Standard, Screwed",
    "check valve, lift": "Valve, Check, Lift",
}
PLAIN = {"entry from a tank, sharp": entrance_sharp(), "exit into a tank": exit_normal()}
# The leg of a Y at an equal split: published for the combined velocity, twice that of the leg.
PLAIN["Y, into a leg"] = 4 * K_branch_diverging_Crane(D_run=1.0, D_branch=1.0, Q_run=1.0, Q_branch=1.0, angle=45.0)


def tube_kpa(
    flow_m3_s: float, bore_m: float, length_m: float, k_sum: float, rough_m: float, rho: float, mu_mpa_s: float
) -> float:
    """The package's one-phase friction loss plus its loss from K."""
    if flow_m3_s <= 0:
        return 0.0
    friction = one_phase_dP(m=flow_m3_s * rho, rho=rho, mu=mu_mpa_s * 1e-3, D=bore_m, roughness=rough_m, L=length_m)
    return (friction + dP_from_K(K=k_sum, rho=rho, V=flow_m3_s / (pi / 4 * bore_m**2))) / 1000.0


def fitting_kpa(kind: str, bore_mm: float, flow_m3_s: float, rho: float, mu_mpa_s: float) -> float:
    """One fitting by the package's own two-K function, or a plain K, on its own bore."""
    if flow_m3_s <= 0:
        return 0.0
    speed = flow_m3_s / (pi / 4 * (bore_mm * 1e-3) ** 2)
    reynolds = rho * speed * bore_mm / mu_mpa_s
    k = PLAIN[kind] if kind in PLAIN else Hooper2K(Di=bore_mm / 25.4, Re=reynolds, name=HOOPER[kind])
    return dP_from_K(K=k, rho=rho, V=speed) / 1000.0


def line_kpa(line: Line, flow_m3_s: float, rho: float, mu_mpa_s: float) -> float:
    """Drop of a line with its fittings, each on its own bore."""
    part = line.part
    lost = tube_kpa(flow_m3_s, part.bore_mm * 1e-3, line.length_m, line.k_sum, part.roughness_um * 1e-6, rho, mu_mpa_s)
    for one in line.fittings:
        lost += one.count * fitting_kpa(one.kind, one.bore_mm or part.bore_mm, flow_m3_s, rho, mu_mpa_s)
    return lost


def split_kpa(split: Split | None, flow_m3_s: float, rho: float, mu_mpa_s: float) -> float:
    """Common drop of the branches of a split whose rails meet again: the drop at which their flows add up."""
    if split is None or flow_m3_s <= 0:
        return 0.0

    def branch(line: Line, flow: float) -> float:
        return line_kpa(line, flow, rho, mu_mpa_s) + fitting_kpa(split.fitting, line.part.bore_mm, flow, rho, mu_mpa_s)

    def flow_at(line: Line, drop: float) -> float:
        if branch(line, flow_m3_s) <= drop:
            return flow_m3_s
        return brentq(lambda flow: branch(line, flow) - drop, 0.0, flow_m3_s, xtol=1e-14)

    most = min(branch(one.line, flow_m3_s) for one in split.branches)
    return brentq(lambda drop: sum(flow_at(one.line, drop) for one in split.branches) - flow_m3_s, 0.0, most)


def table_value(xs: tuple[float, ...], ys: tuple[float, ...], x: float) -> float:
    """Linear inside the table, the outer slopes beyond it."""
    index = 0
    while index < len(xs) - 2 and x > xs[index + 1]:
        index += 1
    slope = (ys[index + 1] - ys[index]) / (xs[index + 1] - xs[index])
    return max(ys[index] + slope * (x - xs[index]), 0.0)


def affine(curve: PumpCurve, volts: float, rise_kpa: float) -> tuple[float, float]:
    """Flow and current of a table taken to another voltage; current holds where the pump stalls."""
    ratio = volts / curve.voltage_v
    equal = rise_kpa / ratio**2
    slope = (curve.flow_l_h[-2] - curve.flow_l_h[-1]) / (curve.pressure_kpa[-1] - curve.pressure_kpa[-2])
    stall = curve.pressure_kpa[-1] + (curve.flow_l_h[-1] / slope if slope > 0 else 0.0)
    flow = table_value(curve.pressure_kpa, curve.flow_l_h, equal) * ratio
    return flow, table_value(curve.pressure_kpa, curve.current_a, min(equal, stall)) * ratio**2


def pump(group: PumpGroup, rise_kpa: float, supply_v: float, speed: float | None = None) -> tuple[float, float]:
    """Flow of a group (m³/s) and terminal voltage; at a share of its speed behind a controller that passes on 95 %."""
    curves = sorted(group.part.curves, key=lambda curve: curve.voltage_v)
    wiring = group.wiring
    warm = 1 + 0.00393 * (wiring.copper_temp_c - 20)
    ohm = 1.724e-8 * wiring.loop_m / (wiring.area_mm2 * 1e-6) * warm + wiring.connectors_mohm * 1e-3

    def at(volts: float) -> tuple[float, float]:
        """Flow and current at a terminal voltage: linear between tables, affinity outside them."""
        for low, high in pairwise(curves):
            if low.voltage_v <= volts <= high.voltage_v:
                share = (volts - low.voltage_v) / (high.voltage_v - low.voltage_v)
                pairs = zip(affine(low, low.voltage_v, rise_kpa), affine(high, high.voltage_v, rise_kpa), strict=True)
                flow, amps = (one + share * (other - one) for one, other in pairs)
                return flow, amps
        return affine(curves[0] if volts < curves[0].voltage_v else curves[-1], volts, rise_kpa)

    share, through = (1.0, 1.0) if speed is None else (speed, speed / 0.95)
    before = brentq(lambda v: v + ohm * through * at(share * v)[1] - supply_v, 1e-3, supply_v) if ohm > 0 else supply_v
    return at(share * before)[0] * M3_S * group.count * (1 - group.derate_pct / 100), share * before


def feed_kpa(option: Option, passing: float, rho: float, mu: float) -> float:
    """What stands between the filter and the engine: feed, passages, split."""
    lost = line_kpa(option.feed, passing, rho, mu) + split_kpa(option.split, passing, rho, mu)
    for hole in option.feed_passages:
        lost += tube_kpa(passing, hole.bore_mm * 1e-3, hole.length_m, hole.k_sum, 1.5e-6, rho, mu)
    return lost


def supply(
    option: Option,
    rail_kpa: float,
    manifold_kpa: float,
    supply_v: float,
    rho: float,
    mu: float,
    feed: bool = True,
    speed: float | None = None,
) -> float:
    """Flow that reaches the rail (without `feed` a node before it), m³/s: the rise at which pumps and losses agree."""
    groups = [g for g in option.pumps if g.on_above_kpa is None or manifold_kpa > g.on_above_kpa]

    def flow(rise: float) -> float:
        return sum(pump(group, rise, supply_v, speed)[0] for group in groups)

    def filter_kpa(m3_s: float) -> float:
        if option.filter is None:
            return 0.0
        part = option.filter.part
        share, linear = m3_s / (part.rated_flow_l_h * M3_S), part.linear_share_pct / 100
        return part.rated_drop_kpa * option.filter.clogging * (linear * share + (1 - linear) * share**2)

    def lost_kpa(passing: float) -> float:
        lost = filter_kpa(passing) + (feed_kpa(option, passing, rho, mu) if feed else 0.0)
        if option.suction.line is not None:
            lost += line_kpa(option.suction.line, passing, rho, mu)
        hole = option.pickup if not option.lift else None
        if hole is not None:
            lost += tube_kpa(passing, hole.bore_mm * 1e-3, hole.length_m, hole.k_sum, 1.5e-6, rho, mu)
        return lost

    level_kpa = rho * 9.80665 * option.suction.head_m / 1000.0

    def excess(rise: float) -> float:
        return rise + option.tank.pressure_kpa + level_kpa - lost_kpa(flow(rise)) - rail_kpa

    if excess(0.0) > 0:
        return flow(0.0)
    return flow(brentq(excess, 0.0, rail_kpa + 3000.0, xtol=1e-9))


def solve_point(
    option: Option, manifold_kpa: float, demand_kg_s: float, supply_v: float, rho: float, mu: float
) -> dict[str, float]:
    """Rail pressure, supply and bypass of one point without injector limits, physics §6, by its arrangement."""
    if option.regulator.arrangement == "bypass near the tank":
        return near_tank_point(option, manifold_kpa, demand_kg_s, supply_v, rho, mu)
    if option.regulator.arrangement == "returnless, speed-controlled":
        return returnless_point(option, manifold_kpa, demand_kg_s, supply_v, rho, mu)
    regulator = option.regulator
    target = regulator.base_kpa + regulator.reference_ratio * manifold_kpa
    wanted = demand_kg_s / rho
    part = regulator.part
    k_pa = part.capacity_drop_kpa * 1000 / (part.capacity_l_h * M3_S) ** 2
    creep = part.creep_kpa / (100 * M3_S)

    def brought(rail: float) -> float:
        return supply(option, rail, manifold_kpa, supply_v, rho, mu)

    def asked(rail: float) -> float:
        bypass = max(brought(rail) - wanted, 0.0)
        floor = option.tank.pressure_kpa + line_kpa(option.return_line, bypass, rho, mu) + k_pa * bypass**2 / 1000
        return max(target + creep * bypass, floor)

    if brought(target) >= wanted:
        top = asked(target) + 1.0
        rail = brentq(lambda p: p - asked(p), min(target, 0.0) - 1.0, top, xtol=1e-7)
        return {"rail_kpa": rail, "supply_m3_s": brought(rail), "delivered_m3_s": wanted}

    def short(rail: float) -> float:
        return wanted * sqrt(max(rail - manifold_kpa, 0.0) / (target - manifold_kpa)) - brought(rail)

    rail = brentq(short, manifold_kpa, target, xtol=1e-7)
    return {"rail_kpa": rail, "supply_m3_s": brought(rail), "delivered_m3_s": brought(rail)}


def near_tank_point(
    option: Option, manifold_kpa: float, demand_kg_s: float, supply_v: float, rho: float, mu: float
) -> dict[str, float]:
    """Regulator before the feed: its node is what is held, the feed's drop on what the engine burns comes after it."""
    regulator, wanted = option.regulator, demand_kg_s / rho
    held = regulator.base_kpa + regulator.reference_ratio * manifold_kpa
    part = regulator.part
    k_pa = part.capacity_drop_kpa * 1000 / (part.capacity_l_h * M3_S) ** 2

    def brought(node: float) -> float:
        return supply(option, node, manifold_kpa, supply_v, rho, mu, feed=False)

    def asked(node: float) -> float:
        bypass = max(brought(node) - wanted, 0.0)
        floor = option.tank.pressure_kpa + line_kpa(option.return_line, bypass, rho, mu) + k_pa * bypass**2 / 1000
        return max(held + part.creep_kpa / (100 * M3_S) * bypass, floor)

    drop = feed_kpa(option, wanted, rho, mu)
    if brought(held) >= wanted:
        node = brentq(lambda p: p - asked(p), min(held, 0.0) - 1.0, asked(held) + 1.0, xtol=1e-7)
        return {"rail_kpa": node - drop, "supply_m3_s": brought(node), "delivered_m3_s": wanted}
    meant = held - drop - manifold_kpa

    def short(node: float) -> float:
        """Pumps shut against the regulator: what they bring through the feed against what the injectors take there."""
        flow = brought(node)
        left = node - feed_kpa(option, flow, rho, mu) - manifold_kpa
        return wanted * sqrt(max(left, 0.0) / meant) - flow

    node = brentq(short, manifold_kpa, held, xtol=1e-7)
    flow = brought(node)
    return {"rail_kpa": node - feed_kpa(option, flow, rho, mu), "supply_m3_s": flow, "delivered_m3_s": flow}


def returnless_point(
    option: Option, manifold_kpa: float, demand_kg_s: float, supply_v: float, rho: float, mu: float
) -> dict[str, float]:
    """Pumps on as much of the supply voltage as brings what is burnt at the set pressure, within their limits."""
    regulator, wanted = option.regulator, demand_kg_s / rho
    target = regulator.base_kpa + regulator.reference_ratio * manifold_kpa
    slowest = regulator.slowest_pct / 100

    def brought(rail: float, speed: float = 1.0) -> float:
        return supply(option, rail, manifold_kpa, supply_v, rho, mu, speed=speed)

    if brought(target) < wanted:

        def short(rail: float) -> float:
            return wanted * sqrt(max(rail - manifold_kpa, 0.0) / (target - manifold_kpa)) - brought(rail)

        rail = brentq(short, manifold_kpa, target, xtol=1e-7)
        return {"rail_kpa": rail, "supply_m3_s": brought(rail), "delivered_m3_s": brought(rail)}
    rail = target
    if brought(target, slowest) > wanted:
        rail = brentq(lambda p: brought(p, slowest) - wanted, target, target + 3000.0, xtol=1e-7)
    return {"rail_kpa": rail, "supply_m3_s": wanted, "delivered_m3_s": wanted}
