"""A second liquid sprayed into the charge: what its nozzles pass, and what its alcohol counts as fuel."""

import numpy as np

from .arrays import Floats, Number, floats
from .fuels import ETHANOL, METHANOL

WATER_KG_M3 = 998.0  # at 20 °C, NIST
NOZZLE_ON_KG_M3 = 998.0  # nozzles are rated on water


def mixture_kg_m3(methanol: Number, ethanol: Number) -> Floats:
    """Density of water, methanol and ethanol by volume shares 0…1, volumes additive, kg/m³."""
    m, e = floats(methanol), floats(ethanol)
    alcohols = m * METHANOL.density_15c_kg_m3 + e * ETHANOL.density_15c_kg_m3
    return floats(alcohols + (1.0 - m - e) * WATER_KG_M3)


def nozzle_kg_s(
    rated_cc_min: Number, rated_kpa: Number, across_kpa: Number, opening_kpa: Number, density_kg_m3: Number
) -> Floats:
    """What a nozzle passes at a pressure across it, kg/s: orifice law, nothing below its opening pressure."""
    across = floats(across_kpa)
    rated = floats(rated_cc_min) * 1e-6 / 60.0 * NOZZLE_ON_KG_M3
    flow = rated * np.sqrt(np.maximum(across, 0.0) / floats(rated_kpa) * floats(density_kg_m3) / NOZZLE_ON_KG_M3)
    return floats(np.where(across > floats(opening_kpa), flow, 0.0))


def air_burnt_kg_kg(methanol: Number, ethanol: Number) -> Floats:
    """Air that a kilogram of the mixture burns, kg; water burns none."""
    m, e = floats(methanol) * METHANOL.density_15c_kg_m3, floats(ethanol) * ETHANOL.density_15c_kg_m3
    burnt = m * METHANOL.stoich_afr + e * ETHANOL.stoich_afr
    return floats(burnt / mixture_kg_m3(methanol, ethanol))


def charge_cooling_k(liquid_kg_s: Number, methanol: Number, ethanol: Number, air_kg_s: Number) -> Floats:
    """Cooling of the charge were all of it to evaporate in it, K: an upper bound (latent heats of NIST at 25 °C)."""
    m, e = floats(methanol) * METHANOL.density_15c_kg_m3, floats(ethanol) * ETHANOL.density_15c_kg_m3
    water = (1.0 - floats(methanol) - floats(ethanol)) * WATER_KG_M3
    latent_kj_kg = (m * 1165.0 + e * 919.0 + water * 2442.0) / mixture_kg_m3(methanol, ethanol)
    return floats(floats(liquid_kg_s) * latent_kj_kg / (floats(air_kg_s) * 1.005))
