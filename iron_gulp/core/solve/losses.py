"""Losses of the model's elements in SI-near units: lines with their fittings, passages, filters, suction, splits."""

from dataclasses import dataclass
from functools import lru_cache

import numpy as np

from ..model import Branch, Filter, Line, Passage, Pickup, Split, Suction
from ..physics import KPA, M3_S_PER_L_H, Floats, Loss, filter_drop_kpa, fitting_loss, floats, line_drop_kpa, on_bore

G_M_S2 = 9.80665
PASSAGE_ROUGHNESS_UM = 1.5
_SPLIT_NODES = 4000
_SPLIT_FLOWS_M3_S = (1e-9, 1e-2)


@dataclass(frozen=True)
class FluidState:
    """Fuel in the lines, and the car's acceleration, scalars."""

    density_kg_m3: float
    viscosity_mpa_s: float
    accel_g: float = 0.0


def fittings_loss(line: Line) -> Loss:
    """All fittings of a line together, referred to its bore."""
    per_re = constant = 0.0
    for fitting in line.fittings:
        own = line.part.bore_mm if fitting.bore_mm is None else fitting.bore_mm
        loss = on_bore(fitting_loss(fitting.kind, own), own, line.part.bore_mm)
        per_re += fitting.count * loss.per_re
        constant += fitting.count * loss.constant
    return Loss(per_re, constant)


def line_loss_kpa(line: Line, flow_m3_s: Floats, density_kg_m3: float, viscosity_mpa_s: float) -> Floats:
    """Drop of a line of the model with its fittings, kPa, at flows in m³/s."""
    part, loss = line.part, fittings_loss(line)
    return line_drop_kpa(
        flow_m3_s,
        part.bore_mm,
        line.length_m,
        line.k_sum + loss.constant,
        density_kg_m3,
        viscosity_mpa_s,
        part.roughness_um,
        loss.per_re,
    )


def passage_loss_kpa(passage: Passage, flow_m3_s: Floats, density_kg_m3: float, viscosity_mpa_s: float) -> Floats:
    """Drop of one small passage, kPa, at flows in m³/s."""
    return line_drop_kpa(
        flow_m3_s,
        passage.bore_mm,
        passage.length_m,
        passage.k_sum,
        density_kg_m3,
        viscosity_mpa_s,
        min(PASSAGE_ROUGHNESS_UM, 50.0 * passage.bore_mm),
    )


def passages_loss_kpa(passages: tuple[Passage, ...], flow_m3_s: Floats, fluid: FluidState) -> Floats:
    """Drop of small passages in series, kPa."""
    total = floats(np.zeros_like(flow_m3_s))
    for passage in passages:
        total = floats(total + passage_loss_kpa(passage, flow_m3_s, fluid.density_kg_m3, fluid.viscosity_mpa_s))
    return total


def filter_loss_kpa(fitted: Filter | None, flow_m3_s: Floats) -> Floats:
    """Drop of a filter, kPa; zero when none is fitted."""
    if fitted is None:
        return floats(np.zeros_like(flow_m3_s))
    part = fitted.part
    rated = part.rated_flow_l_h * M3_S_PER_L_H
    return filter_drop_kpa(flow_m3_s, rated, part.rated_drop_kpa, part.linear_share_pct / 100.0, fitted.clogging)


def inlet_pressure_kpa(suction: Suction, tank_kpa: float, flow_m3_s: Floats, fluid: FluidState) -> Floats:
    """Gauge pressure at the pump inlets: tank pressure and level, less pre-filter and suction line, kPa."""
    level = fluid.density_kg_m3 * G_M_S2 * suction.head_m / KPA
    loss = filter_loss_kpa(suction.filter, flow_m3_s)
    if suction.line is not None:
        loss = floats(loss + line_loss_kpa(suction.line, flow_m3_s, fluid.density_kg_m3, fluid.viscosity_mpa_s))
    return floats(tank_kpa + level - loss)


def pickup_loss_kpa(pickup: Pickup | None, flow_m3_s: Floats, fluid: FluidState) -> Floats:
    """Drop of the pickup in the main tank, kPa; zero when none is entered."""
    if pickup is None:
        return floats(np.zeros_like(flow_m3_s))
    drop = line_drop_kpa(
        flow_m3_s, pickup.bore_mm, pickup.length_m, pickup.k_sum, fluid.density_kg_m3, fluid.viscosity_mpa_s
    )
    return drop


def branch_loss_kpa(split: Split, branch: Branch, flow_m3_s: Floats, fluid: FluidState) -> Floats:
    """Drop of one branch and of the split's fitting on its bore, kPa, at that branch's own flow."""
    line = branch.line
    fitted = fitting_loss(split.fitting, line.part.bore_mm)
    through = line.model_copy(update={"k_sum": line.k_sum + fitted.constant})
    speed = flow_m3_s * 4e6 / (np.pi * line.part.bore_mm**2)
    viscous = fitted.per_re * fluid.viscosity_mpa_s * speed / (2.0 * line.part.bore_mm) / KPA
    return floats(line_loss_kpa(through, flow_m3_s, fluid.density_kg_m3, fluid.viscosity_mpa_s) + viscous)


@lru_cache(maxsize=256)
def _parallel(split: Split, fluid: FluidState) -> tuple[Floats, Floats, Floats]:
    """Branches joined again behind their rails: log of total flow, of the common drop, and of each branch's flow.

    Each branch's drop rises with its flow, so its flow at a drop is read backwards off a dense table.
    """
    flows = floats(np.geomspace(*_SPLIT_FLOWS_M3_S, _SPLIT_NODES))
    drops = np.array([np.maximum.accumulate(branch_loss_kpa(split, one, flows, fluid)) for one in split.branches])
    common = np.linspace(np.log(drops[:, 0].max()), np.log(drops[:, -1].min()), _SPLIT_NODES)
    logs = np.array([np.interp(common, np.log(row), np.log(flows)) for row in drops])
    return floats(np.log(np.exp(logs).sum(axis=0))), floats(common), floats(logs)


def split_flows_m3_s(split: Split, flow_m3_s: Floats, fluid: FluidState, joined: bool) -> Floats:
    """Flow of each branch, shape (branches, points).

    Joined behind the rails, flow parts so that every branch loses the same; dead-ended, each rail takes its injectors'
    equal share.
    """
    if not joined:
        return floats(np.repeat(flow_m3_s[None, :] / len(split.branches), len(split.branches), axis=0))
    total, common, logs = _parallel(split, fluid)
    at = np.interp(np.log(np.maximum(flow_m3_s, np.exp(total[0]))), total, common)
    shares = np.array([np.exp(np.interp(at, common, row)) for row in logs])
    return floats(shares / shares.sum(axis=0) * flow_m3_s)


def split_loss_kpa(split: Split | None, flow_m3_s: Floats, fluid: FluidState, joined: bool) -> Floats:
    """Drop from the split to the rails, kPa, at the total flow; of the worst branch where the rails are dead ends."""
    flow = floats(np.atleast_1d(flow_m3_s))
    if split is None:
        return floats(np.zeros_like(flow))
    if not joined:
        each = flow / len(split.branches)
        return floats(np.max([branch_loss_kpa(split, one, floats(each), fluid) for one in split.branches], axis=0))
    total, common, _ = _parallel(split, fluid)
    lost = np.exp(np.interp(np.log(np.maximum(flow, np.exp(total[0]))), total, common))
    return floats(np.where(flow > 0, lost, 0.0))
