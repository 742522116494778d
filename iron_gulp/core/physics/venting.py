"""Air through a tank's vent."""

import numpy as np

from .arrays import Floats, Number, floats

AIR_KG_M3 = 1.2
DISCHARGE = 0.6


def vent_drop_kpa(flow_m3_s: Number, bore_mm: Number) -> Floats:
    """Pressure it takes to move a volume flow of air through a vent, kPa; infinite through a closed one with any flow.

    Sharp-edged orifice, discharge coefficient 0.6 (Idelchik, *Handbook of Hydraulic Resistance*), air of 1.2 kg/m³,
    incompressible. `flow_m3_s` and `bore_mm` broadcast.
    """
    flow, area = floats(flow_m3_s), floats(np.pi / 4.0 * (floats(bore_mm) / 1000.0) ** 2)
    with np.errstate(divide="ignore", invalid="ignore"):
        speed = np.where(flow == 0, 0.0, flow / (DISCHARGE * area))
    return floats(0.5 * AIR_KG_M3 * speed**2 / 1000.0)
