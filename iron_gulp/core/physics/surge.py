"""A surge tank between a lift stage that fills it and the pumps that draw from it: how long it lasts, when it is full.

Flows in m³/s, volumes in L, times in s; shapes broadcast. A balance of volumes; nothing else is in it.
"""

import numpy as np

from .arrays import Floats, Number, floats

L_PER_M3 = 1e3


def mean_drawn_m3_s(drawn_m3_s: Number, cruise_m3_s: Number, share: Number) -> Floats:
    """What is drawn over a `share` of the time at full load and the rest at cruise; cruise alone where that is more."""
    mean = floats(share) * floats(drawn_m3_s) + (1.0 - floats(share)) * floats(cruise_m3_s)
    return floats(np.maximum(mean, floats(cruise_m3_s)))


def taken_l(drawn_m3_s: Number, lifted_m3_s: Number, seconds: Number) -> Floats:
    """Litres that a time at load takes out of the tank; none where as much is lifted."""
    return floats(np.maximum(floats(drawn_m3_s) - floats(lifted_m3_s), 0.0) * floats(seconds) * L_PER_M3)


def surge_load(
    drawn_m3_s: Number, cruise_m3_s: Number, lifted_m3_s: Number, share: Number, seconds: Number, volume_l: Number
) -> Floats:
    """Load of a lift stage with its tank: mean drawn over lifted, or what a time at load takes of it: the larger."""
    with np.errstate(divide="ignore", invalid="ignore"):
        mean = mean_drawn_m3_s(drawn_m3_s, cruise_m3_s, share)
        lifts = np.where(floats(lifted_m3_s) > 0, mean / floats(lifted_m3_s), np.where(mean > 0, np.inf, 0.0))
    return floats(np.maximum(lifts, taken_l(drawn_m3_s, lifted_m3_s, seconds) / floats(volume_l)))


def lasts_s(drawn_m3_s: Number, lifted_m3_s: Number, volume_l: Number) -> Floats:
    """Seconds a full tank lasts; infinite where what is lifted suffices."""
    short = floats(drawn_m3_s) - floats(lifted_m3_s)
    with np.errstate(divide="ignore"):
        return floats(np.where(short > 0, floats(volume_l) / L_PER_M3 / np.maximum(short, 1e-300), np.inf))


def refill_s(missing_l: Number, cruise_m3_s: Number, lifted_m3_s: Number) -> Floats:
    """Seconds at cruise until what is missing is back; infinite where cruise draws as much as is lifted."""
    spare, missing = floats(lifted_m3_s) - floats(cruise_m3_s), floats(missing_l)
    with np.errstate(divide="ignore"):
        found = np.where(spare > 0, missing / L_PER_M3 / np.maximum(spare, 1e-300), np.inf)
    return floats(np.where(missing <= 0, 0.0, found))
