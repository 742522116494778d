"""A claim on a box, "good for so much power", as the flow it implies over all that it leaves unsaid (physics §2)."""

from dataclasses import dataclass

from ..physics import GASOLINE, volume_ratio_same_energy

KG_KWH_PER_LB_HP_H = 0.45359237 / 0.74569987
LOWEST_LB_HP_H, HIGHEST_LB_HP_H = 0.45, 0.60  # expected of a naturally aspirated engine, sized for of a boosted one
MOST_LOSS, STRONGEST = 0.21, 0.85  # all four wheels driven; the strong blend


@dataclass(frozen=True)
class Claim:
    """Flow that a claimed power needs, L/h: at the least and at the most that its words leave open.

    `possible` is false where the part's own flow is below the least: no fuel and no engine could meet it. `by_fuel`,
    `by_place` and `by_engine` are how much each unsaid condition alone multiplies the flow.
    """

    least_l_h: float
    most_l_h: float
    possible: bool
    by_fuel: float
    by_place: float
    by_engine: float


def claim(power_kw: float, flow_l_h: float) -> Claim:
    """A claimed power against what the parts together really move, L/h. Raises ValueError without power."""
    if not power_kw > 0:
        raise ValueError("a claim is of some power")
    density = float(GASOLINE.density_15c_kg_m3)
    least = power_kw * LOWEST_LB_HP_H * KG_KWH_PER_LB_HP_H / density * 1000.0
    by_engine = HIGHEST_LB_HP_H / LOWEST_LB_HP_H
    by_place, by_fuel = 1.0 / (1.0 - MOST_LOSS), float(volume_ratio_same_energy(STRONGEST))
    return Claim(least, least * by_engine * by_place * by_fuel, flow_l_h >= least, by_fuel, by_place, by_engine)
