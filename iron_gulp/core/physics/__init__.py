"""Physics on plain arrays: one topic a module, knowing no model. This face says what other rooms may use."""

from . import demand, fuels, injectors, lines
from .arrays import ATM_KPA, G_M_S2, KPA, M3_S_PER_L_H, Floats, Number, floats, level
from .demand import (
    KG_KWH_PER_LB_HPH,
    air_kg_s,
    blend_bsfc_kg_kwh,
    crank_power_kw,
    fuel_from_air_kg_s,
    fuel_from_measured_kg_s,
    fuel_from_power_kg_s,
)
from .electrical import AMPACITY_MM2, ampacity_a, drop_v, loop_resistance_ohm, next_fuse_a, smallest_fuse_a
from .fittings import TIGHT, FittingKind, Loss, fitting_loss, on_bore
from .fuels import (
    ETHANOL,
    GASOLINE,
    KPA_PER_PSI,
    METHANOL,
    BaseFuel,
    blend,
    ethanol_mass_fraction,
    volume_ratio_same_air,
    volume_ratio_same_energy,
)
from .injectors import TEST_FLUID_KG_M3, blend_lambda, dead_time_ms, open_flow_kg_s, swap_lambda
from .lines import acceleration_head_kpa, filter_drop_kpa, line_drop_kpa, velocity_m_s
from .lookup import Lookup
from .mixing import fill_to_blend, read_ethanol_sensor
from .pumps import Bends, PumpTable, current_a, flow_and_current, flow_l_h, relief_share, shutoff_kpa, terminal_voltage_v
from .regulators import set_pressure_kpa, wide_open_drop_kpa, wide_open_k
from .roots import power_law_root, rising_root
from .rows import Stack, array, beside, join, key_of, mapped, shape_of, size_of, take
from .venting import vent_drop_kpa

__all__ = [
    "AMPACITY_MM2",
    "ATM_KPA",
    "ETHANOL",
    "GASOLINE",
    "G_M_S2",
    "KG_KWH_PER_LB_HPH",
    "KPA",
    "KPA_PER_PSI",
    "M3_S_PER_L_H",
    "METHANOL",
    "TEST_FLUID_KG_M3",
    "TIGHT",
    "BaseFuel",
    "Bends",
    "FittingKind",
    "Floats",
    "Lookup",
    "Loss",
    "Number",
    "PumpTable",
    "Stack",
    "acceleration_head_kpa",
    "air_kg_s",
    "ampacity_a",
    "array",
    "beside",
    "blend",
    "blend_bsfc_kg_kwh",
    "blend_lambda",
    "crank_power_kw",
    "current_a",
    "dead_time_ms",
    "demand",
    "drop_v",
    "ethanol_mass_fraction",
    "fill_to_blend",
    "filter_drop_kpa",
    "fitting_loss",
    "floats",
    "flow_and_current",
    "flow_l_h",
    "fuel_from_air_kg_s",
    "fuel_from_measured_kg_s",
    "fuel_from_power_kg_s",
    "fuels",
    "injectors",
    "join",
    "key_of",
    "level",
    "line_drop_kpa",
    "lines",
    "loop_resistance_ohm",
    "mapped",
    "next_fuse_a",
    "on_bore",
    "open_flow_kg_s",
    "power_law_root",
    "read_ethanol_sensor",
    "relief_share",
    "rising_root",
    "set_pressure_kpa",
    "shape_of",
    "shutoff_kpa",
    "size_of",
    "smallest_fuse_a",
    "swap_lambda",
    "take",
    "terminal_voltage_v",
    "velocity_m_s",
    "vent_drop_kpa",
    "volume_ratio_same_air",
    "volume_ratio_same_energy",
    "wide_open_drop_kpa",
    "wide_open_k",
]
