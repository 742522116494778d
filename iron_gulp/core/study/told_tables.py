"""The controller's own tables against the targets, and over the operating field: where demand passes what runs."""

from dataclasses import dataclass

import numpy as np
from numpy.typing import NDArray

from ..judge import judge_many
from ..model import Build, ControllerTable, Option, Target
from ..physics import Floats, floats
from ..solve import State, mixture_at, solve_points
from .staging import field_demand_kg_s, field_ve


def table_for(build: Build, target: Target, what: str) -> ControllerTable | None:
    """The table of a kind that holds on a target: its own before one for all, the one read last of several."""
    found = [one for one in build.tables if one.what == what and one.target in ("", target.id)]
    return max(found, key=lambda one: (one.target == target.id, one.day), default=None)


def told_at(build: Build, target: Target, what: str) -> float | None:
    """What the controller's table says at a target's point; None without one, or where it does not reach."""
    table = table_for(build, target, what)
    if table is None or not table.covers(target.rpm, target.boost_kpa):
        return None
    return float(table.at(target.rpm, target.boost_kpa))


@dataclass(frozen=True)
class TableCells:
    """A table's cells on an option; arrays of shape (pressures, speeds). `short` where what runs brings too little."""

    table: ControllerTable
    demand_kg_s: Floats
    running: NDArray[np.int64]
    short: NDArray[np.bool_]


def table_cells(build: Build, option: Option, target: Target, table: ControllerTable) -> TableCells:
    """Fuel that each cell asks for on a target's fuel, with the mixture and efficiency the controller's tables say there.

    A table over speed alone is looked at along the target's boost; cells above it are the table's all the same.
    """
    loads = table.load_kpa if len(table.load_kpa) > 1 else (target.boost_kpa,)
    rpm, kpa = np.meshgrid(floats(table.rpm), floats(loads))
    wanted = field_demand_kg_s(build, option, target, floats(rpm), floats(kpa))
    mixture = table_for(build, target, "mixture")
    if mixture is not None:
        assumed = mixture_at(target, floats(kpa), build.car.barometer_kpa)
        wanted = floats(wanted * assumed / mixture.at(rpm, kpa))
    breathing = table_for(build, target, "volumetric efficiency")
    if breathing is not None:
        wanted = floats(wanted * breathing.at(rpm, kpa) / 100.0 / field_ve(build, target, floats(kpa)))
    flat = (np.maximum(rpm.ravel(), 1.0), kpa.ravel(), wanted.ravel())
    counts = np.array([group.count for group in option.pumps])
    running, short = np.zeros(rpm.size, dtype=np.int64), np.zeros(rpm.size, dtype=bool)
    duties = table.rows.ravel() if table.what == "pump duty" else np.full(rpm.size, 100.0)
    for duty in np.unique(duties):
        here = duties == duty
        points = [one[here] for one in flat]
        found = solve_points(build, option, at_duty(target, float(duty)), *points).hydraulics
        running[here] = (found.running * counts[:, None]).sum(axis=0)
        short[here] = found.state == State.STARVED
    return TableCells(table, wanted, running.reshape(rpm.shape), short.reshape(rpm.shape))


LEAST_V = 4.0  # pumps stand still below it; no table of theirs reaches lower
DUTIES = floats(np.arange(5.0, 100.1, 5.0))


def at_duty(target: Target, duty_pct: float) -> Target:
    """A target with its pumps at a duty: a driver that switches gives them that share of the system voltage.

    An estimate: the mean voltage counts, as of a motor whose current the switching does not break.
    """
    return target.model_copy(update={"supply_v": max(target.supply_v * duty_pct / 100.0, LEAST_V)})


@dataclass(frozen=True)
class PumpDuty:
    """What a pump-duty table asks for at a target's point, the pumps' load there, and the least duty that carries it."""

    told_pct: float
    load: float
    needed_pct: float


def pump_duty(build: Build, option: Option, target: Target) -> PumpDuty | None:
    """The controller's pump-duty table at a target; None without one there, or where full duty does not carry it."""
    told = told_at(build, target, "pump duty")
    if told is None or option.carburettor is not None:
        return None
    duties = [told, *map(float, DUTIES)]
    judged = judge_many([(build, option, at_duty(target, one)) for one in duties], ceilings=False)
    loads = floats([one.load("pumps").load for one in judged])
    fine = loads[1:] <= 1.0
    if not fine[-1]:
        return None
    short = np.flatnonzero(~fine)
    return PumpDuty(told, float(loads[0]), float(DUTIES[short[-1] + 1 if short.size else 0]))
