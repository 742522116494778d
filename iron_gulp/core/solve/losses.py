"""Losses of the model's elements at any flow: lines with their fittings, passages, filters, suction, splits."""

import numpy as np

from ..model import Branch, Filter, Line, Pickup, Restriction, Split, Suction
from ..physics import G_M_S2, KPA, Floats, Number, Rows, floats, mapped
from .pipes import (
    FluidState,
    Strainer,
    branch_flows_m3_s,
    branch_pipes,
    branches_kpa,
    passage_of,
    pickup_of,
    pipe_kpa,
    pipe_of,
    pipes_kpa,
    strainer_kpa,
    strainer_of,
)


def _alone(one: Rows) -> Rows:
    """Pipes of one system as scalars, so that results keep the shape of the flow."""
    return mapped(one, lambda values: values[0])


def line_loss_kpa(line: Line, flow_m3_s: Floats, density_kg_m3: Number, viscosity_mpa_s: Number) -> Floats:
    """Drop of a line of the model with its fittings, kPa, at flows in m³/s."""
    return pipe_kpa(_alone(pipe_of(line)), flow_m3_s, FluidState(density_kg_m3, viscosity_mpa_s))


def passage_loss_kpa(passage: Restriction, flow_m3_s: Floats, density_kg_m3: Number, viscosity_mpa_s: Number) -> Floats:
    """Drop of one passage or whatever else stands in a line, kPa, at flows in m³/s."""
    return pipe_kpa(_alone(passage_of(passage)), flow_m3_s, FluidState(density_kg_m3, viscosity_mpa_s))


def passages_loss_kpa(passages: tuple[Restriction, ...], flow_m3_s: Floats, fluid: FluidState) -> Floats:
    """Drop of small passages in series, kPa."""
    total = floats(np.zeros_like(flow_m3_s))
    for passage in passages:
        total = floats(total + pipe_kpa(_alone(passage_of(passage)), flow_m3_s, fluid))
    return total


def filter_loss_kpa(fitted: Filter | None, flow_m3_s: Floats) -> Floats:
    """Drop of a filter, kPa; zero when none is fitted."""
    one: Strainer | None = None if fitted is None else mapped(strainer_of(fitted), lambda values: values[0])
    return strainer_kpa(one, flow_m3_s)


def inlet_pressure_kpa(suction: Suction, tank_kpa: float, flow_m3_s: Floats, fluid: FluidState) -> Floats:
    """Gauge pressure at the pump inlets: tank pressure and level, less pre-filter and suction line, kPa."""
    level = floats(fluid.density_kg_m3) * G_M_S2 * suction.head_m / KPA
    loss = filter_loss_kpa(suction.filter, flow_m3_s)
    if suction.line is not None:
        loss = floats(loss + pipe_kpa(_alone(pipe_of(suction.line)), flow_m3_s, fluid))
    return floats(tank_kpa + level - loss)


def pickup_loss_kpa(pickup: Pickup | None, flow_m3_s: Floats, fluid: FluidState) -> Floats:
    """Drop of the pickup in the main tank, kPa; zero when none is entered."""
    if pickup is None:
        return floats(np.zeros_like(flow_m3_s))
    return pipe_kpa(_alone(pickup_of(pickup)), flow_m3_s, fluid)


def branch_loss_kpa(
    split: Split, branch: Branch, flow_m3_s: Floats, fluid: FluidState, in_first: Restriction | None = None
) -> Floats:
    """Drop of one branch and of the split's fitting on its bore, kPa, at that branch's own flow."""
    run = branch_pipes(split, in_first)[[one.id for one in split.branches].index(branch.id)]
    return pipes_kpa(_alone(run), flow_m3_s, fluid)


def split_flows_m3_s(
    split: Split, flow_m3_s: Floats, fluid: FluidState, joined: bool, in_first: Restriction | None = None
) -> Floats:
    """Flow of each branch, shape (branches, points): equal losses where the rails are joined, else equal shares."""
    return branch_flows_m3_s(_alone(branch_pipes(split, in_first)), floats(flow_m3_s), fluid, joined)


def split_loss_kpa(split: Split | None, flow_m3_s: Floats, fluid: FluidState, joined: bool) -> Floats:
    """Drop from the split to the rails, kPa, at the total flow; of the worst branch where the rails are dead ends."""
    flow = floats(np.atleast_1d(flow_m3_s))
    pipes = () if split is None else _alone(branch_pipes(split))
    return branches_kpa(pipes, flow, fluid, joined)
