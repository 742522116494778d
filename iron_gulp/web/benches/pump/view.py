"""The pumps bench."""

from iron_gulp.core.study import sweeps

from ...parts.figures import Rows
from ...parts.page import Page


class View(Page):
    """Pump groups with their wiring and tables, and what reaches the rail."""

    charts = {
        "pump_supply": (
            "Supply against pressure, with wiring and lines as fitted",
            lambda v: sweeps.pump_supply(v.build, v.verdict),
        )
    }

    def rows(self) -> Rows:
        """Figures by topic."""
        volts = ("pump.volts_v", "Voltage at the pump, group 1")
        amps = ("pump.current_a", "Current of one pump, group 1")
        supply = ["pump.delivered_l_h", "pump.bypass_l_h", "pump.lambda_factor"]
        return [
            ("Supply", [("pump.supply_at_set_l_h", "", True), *supply]),
            ("Pressure", ["pump.rail_kpa", "pump.rise_kpa"]),
            ("Electrics", [volts, amps, "pump.heat_w"]),
        ]
