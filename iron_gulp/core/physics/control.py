"""A pump's speed controller on a line: a first-order lag with a PI on it, and where its loop crosses over. Estimates."""

import numpy as np

from .arrays import Floats, Number, floats

HOSE_STIFFNESS_PA = 150e6  # fuel and hose together, a class figure: fuel alone is some 1.1 GPa, the hose gives way first


def lag_s(volume_m3: Number, stiffness_pa: Number, slope_m3_s_pa: Number) -> Floats:
    """Time constant of a line's pressure, s: τ = V ÷ (K × dQ/dp), of the pump's own slope against pressure."""
    return floats(floats(volume_m3) / (floats(stiffness_pa) * np.abs(floats(slope_m3_s_pa))))


def crossover_rad_s(gain: Number, reset_s: Number, plant: Number, lag: Number) -> Floats:
    """Angular frequency at which a PI on a first-order lag has a loop gain of 1, rad/s.

    |k (1 + 1 ÷ (j ω T))| × |g ÷ (1 + j ω τ)| = 1, with A = (k g)²: τ² w² + (1 − A) w − A ÷ T² = 0 for w = ω².
    `gain` × `plant` is without unit.
    """
    a, t, tau = floats(gain) ** 2 * floats(plant) ** 2, floats(reset_s), floats(lag)
    product = 4.0 * tau**2 * a / t**2
    root = np.sqrt((a - 1.0) ** 2 + product)
    # The same sum without the difference of two nearly equal numbers where the gain is low.
    total = np.where(a < 1.0, product / (root + np.abs(1.0 - a)), a - 1.0 + root)
    return floats(np.sqrt(total / (2.0 * tau**2)))
