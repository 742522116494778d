"""A claimed power, "good for so much", as the flow it implies over all that it leaves unsaid (physics §2)."""

from dataclasses import dataclass

from ..physics import GASOLINE, volume_ratio_same_energy

KG_KWH_PER_LB_HP_H = 0.45359237 / 0.74569987
LOWEST_LB_HP_H, HIGHEST_LB_HP_H = 0.45, 0.60  # expected of a naturally aspirated engine, sized for of a boosted one
LEAST_LOSS, MOST_LOSS = 0.14, 0.21  # of drivelines: the front wheels driven, all four
STRONGEST = 0.85  # the strong blend


@dataclass(frozen=True)
class Said:
    """What a claimed power says of itself; None where it does not: whether at the crank, boosted, and its ethanol (a
    share)."""

    at_crank: bool | None = None
    boosted: bool | None = None
    ethanol: float | None = None


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


def claim(power_kw: float, flow_l_h: float, said: Said | None = None) -> Claim:
    """A claimed power against what the parts together really move, L/h. Raises ValueError without power."""
    if not power_kw > 0:
        raise ValueError("a claim is of some power")
    said = said or Said()
    density = float(GASOLINE.density_15c_kg_m3)
    lowest = HIGHEST_LB_HP_H if said.boosted else LOWEST_LB_HP_H
    least = power_kw * lowest * KG_KWH_PER_LB_HP_H / density * 1000.0
    by_engine = HIGHEST_LB_HP_H / LOWEST_LB_HP_H if said.boosted is None else 1.0
    by_place = 1.0 if said.at_crank else 1.0 / (1.0 - MOST_LOSS)
    by_fuel = float(volume_ratio_same_energy(STRONGEST)) if said.ethanol is None else 1.0
    if said.at_crank is False:  # some loss there is in any case
        least, by_place = least / (1.0 - LEAST_LOSS), by_place * (1.0 - LEAST_LOSS)
    if said.ethanol is not None:
        least *= float(volume_ratio_same_energy(said.ethanol))
    return Claim(least, least * by_engine * by_place * by_fuel, flow_l_h >= least, by_fuel, by_place, by_engine)
