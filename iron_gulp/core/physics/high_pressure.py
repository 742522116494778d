"""The high side: cam-driven plunger pumps, their filling and drive, and direct injectors (physics §7).

Pressures are gauge unless a name says `abs`; flows of the pump are counted at the density of the fuel in it.
Sources: H. E. Merritt, *Hydraulic Control Systems* (compression, leakage past a plunger); I. E. Idelchik, *Handbook of
Hydraulic Resistance* (inlet as an orifice); R. L. Norton, *Cam Design and Manufacturing Handbook* (harmonic lobe).
"""

import numpy as np

from .arrays import KPA, Floats, Number, floats

STEADY = 3.0  # so many plungers on one drive overlap
FULL_FILL = 0.7246  # of the plunger's top speed: an inlet that can follow this fills the whole stroke
DAMPER_SHARE = 0.551  # of a stroke, what a harmonic plunger draws above and below the mean flow
UNDAMPED = np.pi**2 / 4.0  # loss of a quadratic feed under pulsing flow, of that at the mean


def stroke_m3(bore_mm: Number, lift_mm: Number) -> Floats:
    """Displacement of one stroke, m³."""
    return floats(np.pi / 4.0 * (floats(bore_mm) * 1e-3) ** 2 * floats(lift_mm) * 1e-3)


def leak_m3_s_per_kpa(bore_mm: Number, clearance_um: Number, seal_mm: Number, plungers: Number = 1.0) -> Floats:
    """Leak past the plunger under 1 kPa in a fluid of 1 mPa·s, m³/s: a concentric gap, half the time under pressure."""
    gap = floats(clearance_um) * 1e-6
    round_m = np.pi * floats(bore_mm) * 1e-3
    per_pa_s = round_m * gap**3 / (12.0 * floats(seal_mm) * 1e-3)
    return floats(0.5 * per_pa_s * KPA / 1e-3 * floats(plungers))


def fill_per_root_kpa(area_mm2: Number, density_15c_kg_m3: Number, swept_m3_s: Number) -> Floats:
    """What the inlet follows of the plunger's top speed for each root of a kilopascal of head."""
    speed = np.sqrt(2.0 * KPA / floats(density_15c_kg_m3))
    return floats(floats(area_mm2) * 1e-6 * speed / (np.pi * floats(swept_m3_s)))


def peak_over_mean(plungers: Number) -> Floats:
    """Highest flow of evenly spaced harmonic plungers on one drive, of their mean.

    π for one, π ÷ 2 for two, from three on (π ÷ m) ÷ sin(π ÷ m), m twice their number where that is odd.
    """
    count = floats(plungers)
    m = np.where(count % 2 == 1, 2.0 * count, count)
    together = (np.pi / np.maximum(m, 3.0)) / np.sin(np.pi / np.maximum(m, 3.0))
    return floats(np.where(count >= STEADY, together, np.pi / np.maximum(count, 1.0)))


def inlet_share(
    area_mm2: Number, density_15c_kg_m3: Number, swept_m3_s: Number, plungers: Number
) -> tuple[Floats, Floats]:
    """(what the inlet follows for each root of a kilopascal of head, from what on the whole stroke fills).

    One plunger, or two that take turns, is followed in its own top speed; from three on they overlap and the common
    passage sees nearly steady flow. `swept_m3_s` is that of all plungers.
    """
    count, swept = floats(plungers), floats(swept_m3_s)
    alone = fill_per_root_kpa(area_mm2, density_15c_kg_m3, swept / np.maximum(count, 1.0))
    speed = np.sqrt(2.0 * KPA / floats(density_15c_kg_m3))
    steady = floats(area_mm2) * 1e-6 * speed / (peak_over_mean(count) * swept)
    return floats(np.where(count >= STEADY, steady, alone)), floats(np.where(count >= STEADY, 1.0, FULL_FILL))


def filled(follows: Number, full: Number) -> Floats:
    """Share of the stroke that fills where the inlet follows so much, and `full` fills all of it."""
    share, whole = np.broadcast_arrays(floats(follows), floats(full))
    return floats(np.where(whole >= 1.0, np.minimum(share, 1.0), fill_factor(floats(share))))


def fill_factor(follows: Number) -> Floats:
    """Share of the stroke that fills, 0…1, where the inlet follows a share of the plunger's top speed.

    The inlet chokes while the plunger is faster than it; from FULL_FILL on what is missed is caught up.
    """
    share = np.atleast_1d(floats(follows))
    filled = np.ones_like(share)
    short = share < FULL_FILL
    if short.any():
        some = np.maximum(share[short], 0.0)
        angle = np.arcsin(some)
        filled[short] = np.minimum((1.0 - np.cos(angle)) / 2.0 + some * (np.pi - angle) / 2.0, 1.0)
    return floats(filled.reshape(np.shape(follows)))


def head_needed_kpa(area_mm2: Number, density_15c_kg_m3: Number, swept_m3_s: Number, plungers: Number = 1.0) -> Floats:
    """Head above vapour pressure at which the whole stroke still fills, kPa."""
    follows, full = inlet_share(area_mm2, density_15c_kg_m3, swept_m3_s, plungers)
    return floats((full / follows) ** 2)


def loss_per_kpa(
    dead_ratio: Number, bulk_modulus_mpa: Number, leak_per_kpa: Number, viscosity_mpa_s: Number, swept_m3_s: Number
) -> Floats:
    """Share of a stroke lost a kilopascal of pressure rise: re-expansion, compression and leak."""
    squeezed = (1.0 + floats(dead_ratio)) / (floats(bulk_modulus_mpa) * 1e3)
    return floats(squeezed + floats(leak_per_kpa) / (floats(viscosity_mpa_s) * floats(swept_m3_s)))


def drive_power_w(rise_kpa: Number, delivered_m3_s: Number, mech_efficiency: Number) -> Floats:
    """Power a pump takes from its cam, W; spilled strokes are free."""
    return floats(floats(rise_kpa) * KPA * floats(delivered_m3_s) / floats(mech_efficiency))


def peak_torque_nm(
    rise_kpa: Number, bore_mm: Number, lift_mm: Number, lobes: Number, mech_efficiency: Number, plungers: Number = 1.0
) -> Floats:
    """Highest torque on the pump's cam, N·m: one plunger on a harmonic lobe at its steepest, or several together."""
    stroke = floats(np.pi / 4.0 * (floats(bore_mm) * 1e-3) ** 2 * floats(lift_mm) * 1e-3)
    mean = floats(rise_kpa) * KPA * stroke * floats(plungers) / (2.0 * np.pi)
    return floats(mean * peak_over_mean(plungers) * floats(lobes) / floats(mech_efficiency))


def follower_speed_m_s(stroke_hz: Number, lift_mm: Number) -> Floats:
    """Top speed of the follower of a harmonic lobe, m/s."""
    return floats(np.pi * floats(stroke_hz) * floats(lift_mm) * 1e-3)


def follower_acceleration_m_s2(stroke_hz: Number, lift_mm: Number) -> Floats:
    """Top acceleration of the follower of a harmonic lobe, m/s²."""
    return floats(2.0 * np.pi**2 * floats(stroke_hz) ** 2 * floats(lift_mm) * 1e-3)


def follower_limit_hz(follower_g: Number, spring_n: Number, lift_mm: Number) -> Floats:
    """Strokes a second at which the spring no longer keeps the follower on a harmonic lobe; pressure does not help."""
    return floats(np.sqrt(floats(spring_n) / (2.0 * np.pi**2 * floats(follower_g) * 1e-3 * floats(lift_mm) * 1e-3)))


def damper_mm3(stroke_m3_: Number) -> Floats:
    """What a pulsation damper swallows a stroke at full delivery, mm³; at full spill it is the whole stroke."""
    return floats(DAMPER_SHARE * floats(stroke_m3_) * 1e9)


def ripple_kpa(shot_kg: Number, density_kg_m3: Number, bulk_modulus_mpa: Number, rail_cc: Number) -> Floats:
    """What one injection drops a rail by, kPa."""
    volume = floats(shot_kg) / floats(density_kg_m3)
    return floats(floats(bulk_modulus_mpa) * 1e3 * volume / (floats(rail_cc) * 1e-6))


def heat_left(lambda_after: Number, lambda_before: Number) -> Floats:
    """Share of the heat still released after the mixture has changed: lean of stoichiometric the fuel limits."""
    after, before = (np.minimum(1.0, 1.0 / floats(one)) for one in (lambda_after, lambda_before))
    return floats(after / before)
