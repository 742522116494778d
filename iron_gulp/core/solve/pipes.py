"""Losses of lines, passages, pickups, filters and splits, for arrays of systems."""

from dataclasses import dataclass

import numpy as np
from numpy.typing import NDArray

from ..model import Filter, Line, Pickup, Restriction, Split
from ..physics import (
    M3_S_PER_L_H,
    Floats,
    Loss,
    Number,
    Rows,
    array,
    filter_drop_kpa,
    fitting_loss,
    floats,
    line_drop_kpa,
    mapped,
    on_bore,
)

PASSAGE_ROUGHNESS_UM = 1.5
_SHARE_STEPS, _SHARE_SETTLED = 14, 1e-12
_EASED_STEPS, _EASE = 80, 0.92


@dataclass(frozen=True)
class FluidState:
    """Fuel in the lines, and the car's acceleration; scalars or arrays of shape (systems,)."""

    density_kg_m3: Number
    viscosity_mpa_s: Number
    accel_g: Number = 0.0


@dataclass(frozen=True)
class Pipe:
    """A line, passage or pickup: bore, length, loss coefficients on its bore, roughness; each of shape (systems,)."""

    bore_mm: Floats
    length_m: Floats
    k_sum: Floats
    k_per_re: Floats
    roughness_um: Floats


@dataclass(frozen=True)
class Strainer:
    """A filter by its rated point; each of shape (systems,)."""

    rated_m3_s: Floats
    rated_kpa: Floats
    linear_share: Floats
    clogging: Floats


Run = tuple[Pipe, ...]  # one after the other


def fittings_loss(line: Line) -> Loss:
    """All fittings of a line together, referred to its bore."""
    per_re = constant = 0.0
    for fitting in line.fittings:
        own = line.part.bore_mm if fitting.bore_mm is None else fitting.bore_mm
        loss = on_bore(fitting_loss(fitting.kind, own), own, line.part.bore_mm)
        per_re += fitting.count * loss.per_re
        constant += fitting.count * loss.constant
    return Loss(per_re, constant)


def pipe_of(line: Line, more: Loss = Loss(0.0, 0.0)) -> Pipe:  # noqa: B008 - frozen
    """A line of the model with its fittings, and what more is lost on its bore."""
    loss = fittings_loss(line)
    return Pipe(
        array(line.part.bore_mm),
        array(line.length_m),
        array(line.k_sum + loss.constant + more.constant),
        array(loss.per_re + more.per_re),
        array(line.part.roughness_um),
    )


def passage_of(one: Restriction) -> Pipe:
    """A small passage, or whatever else stands in a line."""
    rough = min(PASSAGE_ROUGHNESS_UM, 50.0 * one.bore_mm)
    return Pipe(array(one.bore_mm), array(one.length_m), array(one.k_sum), array(0.0), array(rough))


def pickup_of(one: Pickup) -> Pipe:
    """The pickup in the main tank."""
    return Pipe(array(one.bore_mm), array(one.length_m), array(one.k_sum), array(0.0), array(PASSAGE_ROUGHNESS_UM))


def strainer_of(fitted: Filter) -> Strainer:
    """A filter as fitted."""
    part = fitted.part
    return Strainer(
        array(part.rated_flow_l_h * M3_S_PER_L_H),
        array(part.rated_drop_kpa),
        array(part.linear_share_pct / 100.0),
        array(fitted.clogging),
    )


def branch_pipes(split: Split, in_first: Restriction | None = None) -> tuple[Run, ...]:
    """The branches of a split, each with the split's fitting on its bore, and what else stands in the first."""
    found = [(pipe_of(one.line, fitting_loss(split.fitting, one.line.part.bore_mm)),) for one in split.branches]
    more = () if in_first is None else (passage_of(in_first),)
    return ((*found[0], *more), *found[1:])


def pipe_kpa(pipe: Pipe, flow_m3_s: Floats, fluid: FluidState) -> Floats:
    """Drop of a pipe, kPa; shapes broadcast."""
    return line_drop_kpa(
        flow_m3_s,
        pipe.bore_mm,
        pipe.length_m,
        pipe.k_sum,
        fluid.density_kg_m3,
        fluid.viscosity_mpa_s,
        pipe.roughness_um,
        pipe.k_per_re,
    )


def pipes_kpa(pipes: tuple[Pipe, ...], flow_m3_s: Floats, fluid: FluidState) -> Floats:
    """Drop of pipes one after the other, kPa."""
    if not pipes:
        return floats(np.zeros_like(flow_m3_s))
    total = pipe_kpa(pipes[0], flow_m3_s, fluid)
    for pipe in pipes[1:]:
        total = floats(total + pipe_kpa(pipe, flow_m3_s, fluid))
    return total


def strainer_kpa(fitted: Strainer | None, flow_m3_s: Floats) -> Floats:
    """Drop of a filter, kPa; zero when none is fitted."""
    if fitted is None:
        return floats(np.zeros_like(flow_m3_s))
    return filter_drop_kpa(flow_m3_s, fitted.rated_m3_s, fitted.rated_kpa, fitted.linear_share, fitted.clogging)


def branch_flows_m3_s(branches: tuple[Run, ...], flow_m3_s: Floats, fluid: FluidState, joined: bool) -> Floats:
    """Flow of each branch, shape (branches, …).

    Joined behind the rails, flow parts so that every branch loses the same: each takes a share by the root of its
    conductance, which moves little with flow. Dead-ended, each rail takes its injectors' equal share.
    """
    count = len(branches)
    flows = np.repeat(flow_m3_s[None] / count, count, axis=0)
    if not joined or count == 1:
        return floats(flows)
    some = floats(np.maximum(flow_m3_s, 1e-12))
    shares = np.full(flows.shape, 1.0 / count)
    for _ in range(_SHARE_STEPS):
        moved = _moved(branches, shares, some, fluid)
        off = np.max(np.abs(moved - shares), axis=0)
        shares = moved
        if np.max(off, initial=0.0) < _SHARE_SETTLED:
            return floats(shares * flow_m3_s)
    left = off >= _SHARE_SETTLED
    shares[:, left] = _eased(branches, floats(shares[:, left]), left, some, fluid)
    return floats(shares * flow_m3_s)


def _moved(branches: tuple[Run, ...], shares: Floats, flow_m3_s: Floats, fluid: FluidState) -> Floats:
    """Shares by the conductance that branches have at these shares."""
    drops = [pipes_kpa(run, floats(share * flow_m3_s), fluid) for run, share in zip(branches, shares, strict=True)]
    ease = shares / np.sqrt(np.maximum(np.array(drops), 1e-300))
    return floats(ease / ease.sum(axis=0))


def _eased(
    branches: tuple[Run, ...], shares: Floats, left: NDArray[np.bool_], flow_m3_s: Floats, fluid: FluidState
) -> Floats:
    """Shares of the few points `left` that step to and fro over where a branch turns turbulent: by ever shorter steps."""

    def of_them(rows: Rows) -> Rows:
        return mapped(rows, lambda array: np.broadcast_to(array, left.shape)[left])

    weight = 0.5
    some, branches, fluid = floats(flow_m3_s[left]), of_them(branches), of_them(fluid)
    for _ in range(_EASED_STEPS):
        moved = _moved(branches, shares, some, fluid)
        shares = floats(shares + weight * (moved - shares))
        weight *= _EASE
    return shares


def branches_kpa(branches: tuple[Run, ...], flow_m3_s: Floats, fluid: FluidState, joined: bool) -> Floats:
    """Drop from the split to the rails, kPa, at the total flow; of the worst branch where the rails are dead ends."""
    if not branches:
        return floats(np.zeros_like(flow_m3_s))
    flows = branch_flows_m3_s(branches, flow_m3_s, fluid, joined)
    drops = np.array([pipes_kpa(run, floats(flow), fluid) for run, flow in zip(branches, flows, strict=True)])
    return floats(drops.mean(axis=0) if joined else drops.max(axis=0))
