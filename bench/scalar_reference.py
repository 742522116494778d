"""A plain scalar solution of one operating point by root finding, written independently of the core's curves.

It serves as the baseline of the benchmark and as the oracle of the tests: pumps from their tables by hand, friction by
the `fluids` package's own pressure-drop function, scipy's brentq for every unknown.
"""

from itertools import pairwise
from math import pi, sqrt

from fluids import dP_from_K, one_phase_dP
from scipy.optimize import brentq

from iron_gulp.core.elements import Line, PumpGroup
from iron_gulp.core.parts import PumpCurve
from iron_gulp.core.system import Option

M3_S = 1e-3 / 3600.0


def line_kpa(line: Line, flow_m3_s: float, rho: float, mu_mpa_s: float) -> float:
    """Drop of a line: the package's one-phase friction loss plus its loss from K."""
    if flow_m3_s <= 0:
        return 0.0
    bore = line.part.bore_mm * 1e-3
    friction = one_phase_dP(
        m=flow_m3_s * rho, rho=rho, mu=mu_mpa_s * 1e-3, D=bore, roughness=line.part.roughness_um * 1e-6, L=line.length_m
    )
    speed = flow_m3_s / (pi / 4 * bore**2)
    return (friction + dP_from_K(K=line.k_sum, rho=rho, V=speed)) / 1000.0


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


def pump(group: PumpGroup, rise_kpa: float, supply_v: float) -> tuple[float, float]:
    """Flow of a group (m³/s) and terminal voltage."""
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

    volts = brentq(lambda v: v + ohm * at(v)[1] - supply_v, 1e-3, supply_v) if ohm > 0 else supply_v
    return at(volts)[0] * M3_S * group.count * (1 - group.derate_pct / 100), volts


def supply(option: Option, rail_kpa: float, manifold_kpa: float, supply_v: float, rho: float, mu: float) -> float:
    """Flow that reaches the rail, m³/s: the rise at which pumps and losses agree."""
    groups = [g for g in option.pumps if g.on_above_kpa is None or manifold_kpa > g.on_above_kpa]

    def flow(rise: float) -> float:
        return sum(pump(group, rise, supply_v)[0] for group in groups)

    def filter_kpa(m3_s: float) -> float:
        if option.filter is None:
            return 0.0
        part = option.filter.part
        share, linear = m3_s / (part.rated_flow_l_h * M3_S), part.linear_share_pct / 100
        return part.rated_drop_kpa * option.filter.clogging * (linear * share + (1 - linear) * share**2)

    def excess(rise: float) -> float:
        passing = flow(rise)
        return rise + option.tank.pressure_kpa - line_kpa(option.feed, passing, rho, mu) - filter_kpa(passing) - rail_kpa

    if excess(0.0) > 0:
        return flow(0.0)
    return flow(brentq(excess, 0.0, rail_kpa + 3000.0, xtol=1e-9))


def solve_point(
    option: Option, manifold_kpa: float, demand_kg_s: float, supply_v: float, rho: float, mu: float
) -> dict[str, float]:
    """Rail pressure, supply and bypass of one point without injector limits, physics §6."""
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
