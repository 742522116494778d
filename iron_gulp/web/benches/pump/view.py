"""The pumps bench."""

from iron_gulp.core.study import stacked_supply

from ...parts.figures import Rows
from ...parts.page import Page


class View(Page):
    """Pump groups with their wiring and tables, and what reaches the rail."""

    charts = {
        "pump_supply": (
            "Supply at the rail, pump by pump, with wiring and lines as fitted",
            lambda v: stacked_supply(v.bench.judged.verdicts, v.verdict),
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
