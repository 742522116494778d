"""Sweeps for charts: one bench's question over a range, computed for whole arrays at once."""

from collections.abc import Iterator
from dataclasses import dataclass
from typing import Literal

import numpy as np

from ..judge import TargetVerdict, judge_many
from ..model import Build, Catalogue, Line, LinePart, PumpGroup, base_fuel, credit_share
from ..physics import GASOLINE, M3_S_PER_L_H, Floats, blend, floats, set_pressure_kpa
from ..physics import demand as dem
from ..physics import injectors as inj
from ..solve import (
    IDLE,
    PEAK,
    FluidState,
    Hydraulics,
    line_loss_kpa,
    outlet_kpa,
    packed,
    reference_kpa,
    return_curve,
    through_feed_m3_s,
)

L_H = 1.0 / M3_S_PER_L_H


@dataclass(frozen=True)
class Series:
    """One curve or set of points; x and y have shape (n,).

    `limit` is a line that must not be crossed, `stack` a layer under the main curve, `off` one that is not at work,
    `faint` points beside the one that is meant; `each` lines of equal standing, `pale` ones behind them.
    """

    label: str
    x: Floats
    y: Floats
    kind: Literal["main", "other", "limit", "point", "stack", "off", "faint", "each", "pale"]


@dataclass(frozen=True)
class Sweep:
    """A chart's data; names end in the unit of the axis. `y_top` cuts off what would dwarf the rest."""

    title: str
    x_label: str
    x_name: str
    y_label: str
    y_name: str
    series: tuple[Series, ...]
    y_top: float | None = None


def fuel_volume(build: Build, verdict: TargetVerdict) -> Sweep:
    """Fuel volume this target needs against ethanol content, by both schools."""
    target, demand = verdict.target, verdict.demand
    ethanol = floats(np.linspace(0.0, 1.0, 51))
    mix = blend(ethanol, target.fuel_temp_c, base_fuel(build, target.base_fuel))
    bsfc = dem.blend_bsfc_kg_kwh(
        demand.gasoline_bsfc_kg_kwh,
        GASOLINE.lhv_mj_kg,
        mix.lhv_mj_kg,
        floats([credit_share(target, float(share)) for share in mix.mass_fraction]),
    )
    by_power = dem.fuel_from_power_kg_s(demand.crank_kw, bsfc) / mix.density_kg_m3 * L_H
    by_air = dem.fuel_from_air_kg_s(demand.air_kg_s, target.lambda_, mix.stoich_afr) / mix.density_kg_m3 * L_H
    here = demand.chosen_kg_s / verdict.fuel.density_kg_m3 * L_H
    return Sweep(
        "Fuel volume for this target against ethanol content",
        "Ethanol",
        "ethanol_pct",
        "Fuel",
        "fuel_l_h",
        (
            Series("By consumption", ethanol * 100, floats(by_power), "main"),
            Series("By air mass", ethanol * 100, floats(by_air), "other"),
            Series("This target", floats([target.ethanol_pct]), floats([here]), "point"),
        ),
    )


def injector_flow(build: Build, verdict: TargetVerdict) -> Sweep:
    """Flow of one injector held open across vacuum and boost, for each regulator reference."""
    fitted, regulator = verdict.option.injectors, verdict.option.regulator
    if fitted is None:
        raise KeyError("a carburettor has no injectors")
    part = fitted.part
    top = max(target.boost_kpa for target in build.targets)
    manifold = floats(np.linspace(min(build.engine.idle_manifold_kpa, -60.0), max(top, 0.0) + 40.0, 81))

    def flow(ratio: float) -> Floats:
        systems = packed(verdict.option)
        set_kpa = set_pressure_kpa(regulator.base_kpa, ratio, reference_kpa(systems, manifold))
        across = floats(set_kpa - outlet_kpa(systems, manifold))
        each = inj.open_flow_kg_s(part.heptane_cc_min, part.rated_pressure_kpa, across, verdict.fuel.density_kg_m3)
        return floats(each * 1e3)

    ratio_now = regulator.reference_ratio
    series = [Series("As referenced now", manifold, flow(ratio_now), "main")]
    if ratio_now != 1.0:
        series.append(Series("Manifold reference", manifold, flow(1.0), "other"))
    if ratio_now != 0.0:
        series.append(Series("Atmospheric reference", manifold, flow(0.0), "other"))
    boost, open_g_s = verdict.target.boost_kpa, float(verdict.points.open_kg_s[PEAK]) * 1e3
    series.append(Series("This target", floats([boost]), floats([open_g_s]), "point"))
    return Sweep(
        "One injector held open, across vacuum and boost",
        "Manifold pressure",
        "manifold_kpa",
        "Flow",
        "flow_g_s",
        tuple(series),
    )


def line_sizes(
    verdict: TargetVerdict, catalogue: Catalogue, which: Literal["feed", "return_line"], allowed_kpa: float
) -> Sweep:
    """Drop against flow for the line fitted, one size up and one size down."""
    line: Line = getattr(verdict.option, which)
    hyd = verdict.points.hydraulics
    now = float(through_feed_m3_s(verdict.option, hyd)[PEAK]) if which == "feed" else float(hyd.bypass_m3_s[IDLE])
    flow = floats(np.linspace(0.0, max(now * 1.6, 20.0 * M3_S_PER_L_H), 61))

    def drop(one: Line, at: Floats) -> Floats:
        return line_loss_kpa(one, at, verdict.fuel.density_kg_m3, verdict.fuel.viscosity_mpa_s)

    series = [Series(f"Fitted, {_size(line.part)}", flow * L_H, drop(line, flow), "main")]
    for larger in (False, True):
        other = catalogue.line_next(line.part, larger=larger)
        if other is not None:
            changed = line.model_copy(update={"part": other})
            series.append(
                Series(("Up, " if larger else "Down, ") + _size(other), flow * L_H, drop(changed, flow), "other")
            )
    series.append(Series("Allowed", floats([0.0, flow[-1] * L_H]), floats([allowed_kpa, allowed_kpa]), "limit"))
    series.append(Series("This target", floats([now * L_H]), drop(line, floats([now])), "point"))
    top = 1.3 * max(allowed_kpa, float(drop(line, flow)[-1]))
    title = "Feed drop at steady speed, one size up and down" if which == "feed" else "Return drop against bypassed flow"
    return Sweep(title, "Flow", "flow_l_h", "Drop", "drop_kpa", tuple(series), top)


def _size(part: LinePart) -> str:
    return part.size or part.name


def return_floor(build: Build, verdict: TargetVerdict) -> Sweep:
    """Lowest rail pressure against bypassed flow, the set pressures as lines, and idle with each stage in turn on it."""
    option, fuel, hyd = verdict.option, verdict.fuel, verdict.points.hydraulics
    idles = list(_idle_by_stage(build, verdict))
    most = max(float(one.bypass_m3_s[IDLE]) for _, one in idles)
    spill = max(most, float(hyd.supply_at_set_m3_s[IDLE]), 20.0 * M3_S_PER_L_H) * 1.15
    back = return_curve(option, spill, FluidState(fuel.density_kg_m3, fuel.viscosity_mpa_s))
    flow = back.bypass_m3_s * L_H

    def across(label: str, kpa: float, kind: Literal["limit", "other"]) -> Series:
        return Series(label, floats([0.0, flow[-1]]), floats([kpa, kpa]), kind)

    points = [
        Series(
            label,
            floats([float(one.bypass_m3_s[IDLE]) * L_H]),
            floats([float(one.rail_kpa[IDLE])]),
            "point" if number == 0 else "faint",
        )
        for number, (label, one) in enumerate(idles)
    ]
    return Sweep(
        "Lowest rail pressure the return side allows",
        "Bypassed flow",
        "bypass_l_h",
        "Rail pressure",
        "rail_kpa",
        (
            Series("Regulator and return line", flow, back.floor_kpa, "main"),
            Series("Return line alone", flow, back.line_kpa, "other"),
            across("Set pressure at idle", float(hyd.set_kpa[IDLE]), "limit"),
            across("Set pressure at the peak", float(hyd.set_kpa[PEAK]), "other"),
            *points,
        ),
    )


def _idle_by_stage(build: Build, verdict: TargetVerdict) -> Iterator[tuple[str, Hydraulics]]:
    """Idle as it is, and with each further stage running: what a stage that stays on leaves the return to carry."""
    option, hyd = verdict.option, verdict.points.hydraulics
    yield "Idle", hyd
    on = [bool(one) for one in hyd.running[:, IDLE]]
    order = [number for number, running in enumerate(on) if running]
    waiting = [number for number, running in enumerate(on) if not running]
    for number in waiting:
        order.append(number)
        pumps = tuple(_always_on(option.pumps[one]) for one in sorted(order))
        (found,) = judge_many([(build, option.model_copy(update={"pumps": pumps}), verdict.target)], ceilings=False)
        yield f"with group {number + 1}", found.points.hydraulics


def _always_on(group: PumpGroup) -> PumpGroup:
    nothing = ("on_above_kpa", "on_above_rpm", "on_above_l_h", "on_above_duty_pct", "on_below_lambda")
    return group.model_copy(update=dict.fromkeys(nothing))


def demand_l_h(verdict: TargetVerdict) -> float:
    """Fuel volume a target is sized for, L/h at fuel temperature."""
    return verdict.demand.chosen_kg_s / verdict.fuel.density_kg_m3 * L_H
