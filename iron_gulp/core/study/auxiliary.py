"""What a second liquid does on a target: flow, mixture with it and without, minutes a tank, cooling at most."""

from dataclasses import dataclass

import numpy as np

from ..judge import TargetVerdict
from ..model import Auxiliary
from ..physics import auxiliary as aux

EVAPORATES = {"before the throttle": 0.6, "in the plenum": 0.4, "in each runner": 0.2}  # class figures of a share


@dataclass(frozen=True)
class Sprayed:
    """A second liquid at a target's peak. `lambda_with` has its alcohol in; `lambda_without` is what is left if it fails
    and the controller goes on as if it were there."""

    flow_kg_s: float
    share: float
    across_kpa: float
    lambda_with: float
    lambda_without: float
    energy_share: float
    minutes: float
    cooling_k: float
    dead_above_kpa: float


def sprayed(auxiliary: Auxiliary, verdict: TargetVerdict) -> Sprayed:
    """The liquid on a target. The target's mixture is meant with the liquid's alcohol in it."""
    methanol, ethanol = auxiliary.methanol_pct / 100.0, auxiliary.ethanol_pct / 100.0
    boost = verdict.target.boost_kpa
    across = auxiliary.pump_kpa - boost
    density = float(aux.mixture_kg_m3(methanol, ethanol))
    on = float(np.clip((boost - auxiliary.start_kpa) / (auxiliary.full_kpa - auxiliary.start_kpa), 0.0, 1.0))
    each = float(
        aux.nozzle_kg_s(auxiliary.nozzle_cc_min, auxiliary.nozzle_at_kpa, across, auxiliary.opening_kpa, density)
    )
    flow = each * auxiliary.nozzles * on
    meant = verdict.target.lambda_ * float(verdict.points.hydraulics.lambda_factor[0])
    fuel_air = verdict.demand.chosen_kg_s * verdict.fuel.stoich_afr  # air that all fuel meant could burn
    burnt = flow * float(aux.air_burnt_kg_kg(methanol, ethanol))
    left = max(fuel_air - burnt, 0.0)
    return Sprayed(
        flow_kg_s=flow,
        share=on,
        across_kpa=across,
        lambda_with=meant,
        lambda_without=meant * fuel_air / left if left > 0 else float("inf"),
        energy_share=burnt / fuel_air,
        minutes=auxiliary.tank_l * 1e-3 * density / flow / 60.0 if flow > 0 else float("inf"),
        cooling_k=float(aux.charge_cooling_k(flow, methanol, ethanol, verdict.demand.air_kg_s))
        * EVAPORATES[auxiliary.place],
        dead_above_kpa=auxiliary.pump_kpa - auxiliary.opening_kpa,
    )
