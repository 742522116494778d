"""The pumps bench."""

from markupsafe import Markup

from iron_gulp.core.model import PumpGroup
from iron_gulp.core.physics import M3_S_PER_L_H
from iron_gulp.core.study import stacked_supply

from ...parts.calculators import CalculatorView, answered
from ...parts.claims import CLAIM, of_claim
from ...parts.figures import Rows
from ...parts.page import Page
from ...parts.rendering import kept_piece


class View(Page):
    """Pump groups with their wiring and tables, and what reaches the rail."""

    charts = {
        "pump_supply": (
            "Supply at the rail, pump by pump, with wiring and lines as fitted",
            lambda v: stacked_supply(v.bench.judged.verdicts, v.verdict),
        )
    }

    def table(self, group: PumpGroup) -> Markup:
        """The tables of a group's pump: most fields of the page, which few edits touch."""
        place = self.at(f"pumps/{group.id}")
        refused = self.outcome is not None and self.outcome.path.startswith(f"{place}/part")
        shows = (self.url, place, group.part, self._shelf_part(place), tuple(self.units.chosen.items()))
        return kept_piece("pump/table.html", None if refused else shows, v=self, group=group)

    def calculators(self) -> list[CalculatorView]:
        """A power on a pump's box, starting from what the first group brings here, and a flow on any part's."""
        flow = float(self.verdict.points.hydraulics.supply_at_set_m3_s[0]) / M3_S_PER_L_H
        count = sum(group.count for group in self.option.pumps)
        starts = {**of_claim(self.verdict), "pieces": float(count), "flow_l_h": float(f"{max(flow / count, 1.0):.3g}")}
        return [answered("claim", CLAIM, {}, self.units, starts), self.flow_claim()]

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
