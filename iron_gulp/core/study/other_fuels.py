"""Fuels that are no blend, each on the whole system: gasoline, methanol and one's own (physics §1)."""

from dataclasses import dataclass

import numpy as np

from ..judge import judge_many
from ..model import Build, Component, Option, Target, base_fuel
from ..physics import M3_S_PER_L_H


@dataclass(frozen=True)
class OnFuel:
    """What a fuel carries, as the target quotes its power, and what sets it; None where no power runs anything out.

    `litres_h` burns in an hour at the target's own power, at mixture and efficiency credit of the target; `over` names
    what that power asks too much of.
    """

    fuel_id: str
    name: str
    power_kw: float | None
    component: Component
    litres_h: float
    mixture: float
    credit_pct: float
    over: tuple[Component, ...]


def on_other_fuels(build: Build, option: Option, target: Target) -> tuple[OnFuel, ...]:
    """Gasoline, methanol and every own fuel on the target, most power first; mixture and credit are the target's."""
    ids = ["gasoline", "methanol", *(fuel.id for fuel in build.fuels)]
    asked = [target.model_copy(update={"base_fuel": one, "ethanol_pct": 0.0, "vapour_kpa_abs": None}) for one in ids]
    found = []
    for fuel_id, verdict in zip(ids, judge_many([(build, option, one) for one in asked]), strict=True):
        limit = verdict.power_limit
        found.append(
            OnFuel(
                fuel_id,
                base_fuel(build, fuel_id).name,
                limit.ceiling_kw,
                limit.component,
                float(verdict.demand.chosen_kg_s / verdict.fuel.density_kg_m3 / M3_S_PER_L_H),
                target.lambda_,
                float(verdict.demand.credit) * 100.0,
                tuple(load.component for load in verdict.loads if load.ceiling_kw is not None and not load.load <= 1.0),
            )
        )
    return tuple(sorted(found, key=lambda one: -(np.inf if one.power_kw is None else one.power_kw)))
