"""From a name's unit suffix to its quantity: `rail_kpa` is a pressure kept in kPa.

Stored names always end in the unit they are kept in; this table is the only place that says what that means.
"""

from dataclasses import dataclass
from functools import lru_cache


@dataclass(frozen=True)
class Quantity:
    """A quantity: its dimension (key of bench choices, or "" when it has one unit only), kept unit, shown symbol.

    `decimals` is as fine as a bench instrument shows it in the kept unit; `exact` figures are set or counted, and keep
    every digit before the point, where estimates have three significant ones.
    """

    dimension: str
    kept: str
    symbol: str
    decimals: int = 1
    exact: bool = False


_BY_SUFFIX: dict[str, Quantity] = {
    "kpa_abs": Quantity("pressure", "kPa", "kPa", 1),
    "kpa": Quantity("pressure", "kPa", "kPa", 1),
    "cc_min": Quantity("injector flow", "cc/min", "cc/min", 0, True),
    "l_h": Quantity("flow", "L/h", "L/h", 1),
    "kg_h": Quantity("fuel mass", "kg/h", "kg/h", 1),
    "kg_s": Quantity("air flow", "kg/s", "kg/s", 3),
    "kg_kwh": Quantity("consumption", "kg/kWh", "kg/kWh", 3),
    "kg_m3": Quantity("", "kg/m³", "kg/m³", 0),
    "mj_kg": Quantity("", "MJ/kg", "MJ/kg", 2),
    "mpa_s": Quantity("", "mPa·s", "mPa·s", 3),
    "idle_air_g_s": Quantity("", "g/s", "g/s", 2),
    "g_s": Quantity("fuel mass", "g/s", "g/s", 2),  # of this fuel, so by weight: a rating's fluid is another
    "m_s": Quantity("", "m/s", "m/s", 2),
    "inlet_area_mm2": Quantity("", "mm²", "mm²", 2),  # an opening is no wire, and has no gauge
    "mm2": Quantity("wire", "mm²", "mm²", 1),
    "mm3": Quantity("", "mm³", "mm³", 0),
    "mm": Quantity("bore", "mm", "mm", 1),
    "um": Quantity("", "µm", "µm", 1),
    "kw": Quantity("power", "kW", "kW", 0),
    "w": Quantity("", "W", "W", 0),
    "nm": Quantity("", "N·m", "N·m", 1),
    "n": Quantity("", "N", "N", 0),
    "deg": Quantity("", "°", "°", 0),
    "cc": Quantity("", "cm³", "cm³", 2),
    "mpa": Quantity("", "MPa", "MPa", 0),
    "ohm": Quantity("", "Ω", "Ω", 1),
    "mohm": Quantity("", "mΩ", "mΩ", 1),
    "rpm": Quantity("", "rpm", "rpm", 0, True),
    "pct_per_kpa": Quantity("", "%/kPa", "%/kPa", 3),
    "ms_per_100_kpa": Quantity("", "ms per 100 kPa", "ms/100 kPa", 3),
    "ms": Quantity("", "ms", "ms", 2),
    "pct": Quantity("", "%", "%", 1),
    "ratio": Quantity("", "×", "×", 3),
    "afr": Quantity("", "", "", 2),
    "factor": Quantity("", "×", "×", 3),
    "reynolds": Quantity("", "", "", 0),
    "lambda": Quantity("mixture", "λ", "λ", 3),
    "c": Quantity("temperature", "°C", "°C", 1),
    "l": Quantity("volume", "L", "L", 2),
    "m": Quantity("length", "m", "m", 2),
    "v": Quantity("", "V", "V", 1),
    "a": Quantity("", "A", "A", 1),
    "s": Quantity("", "s", "s", 1),
    "per_k": Quantity("", "1/K", "1/K", 5),
    "k": Quantity("", "K", "K", 1),
    "w_k": Quantity("", "W/K", "W/K", 1),
    "a_h": Quantity("", "A·h", "A·h", 2),
    "minutes": Quantity("", "min", "min", 1),
    "k_h": Quantity("", "K/h", "K/h", 1),
    "kj_kg_k": Quantity("", "kJ/(kg K)", "kJ/(kg K)", 2),
    "mg": Quantity("", "mg", "mg", 2),
    "g": Quantity("", "g", "g", 2),
    "hz": Quantity("", "Hz", "Hz", 1),
}
_BY_NAME = {"displacement_l": Quantity("displacement", "L", "L", 2)}
PLAIN = Quantity("", "", "", 2)
COUNT = Quantity("", "", "", 0, True)


@lru_cache(maxsize=4096)
def quantity_of(name: str) -> Quantity:
    """The quantity of a name by its longest known suffix; a plain number when there is none."""
    words = name.rstrip("_").split("_")
    if name in _BY_NAME:
        return _BY_NAME[name]
    for start in range(len(words)):
        found = _BY_SUFFIX.get("_".join(words[start:]))
        if found is not None and (start > 0 or name in _BY_SUFFIX or len(words) == 1):
            return found
    return COUNT if words[-1] in {"count", "cylinders"} else PLAIN
