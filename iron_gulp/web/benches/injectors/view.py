"""The injectors bench, or the carburettor's."""

from markupsafe import Markup

from iron_gulp.core.study import sweeps

from ...parts.figures import Rows
from ...parts.page import Page
from .picture import cycle_bars


class View(Page):
    """What meters the fuel."""

    charts = {
        "injector_flow": (
            "One injector held open, across vacuum and boost",
            lambda v: sweeps.injector_flow(v.build, v.verdict),
        )
    }

    def picture(self) -> Markup:
        """The cycle of every target as a bar."""
        if self.option.injectors is None:
            return Markup("")
        return cycle_bars(self.build, self.option.injectors, self.bench.judged.verdicts, self.target.id, self.units)

    def rows(self) -> Rows:
        """Figures by topic."""
        if self.option.injectors is None and self.option.carburettor is None:
            return []
        if self.option.carburettor is not None:
            return [
                ("Pressure", [("pump.rail_kpa", "At the floats", True), ("regulator.idle_rail_kpa", "at idle")]),
                ("Fuel", ["pump.delivered_l_h", "pump.lambda_factor"]),
            ]
        peak = ["injector.pulse_ms", "injector.open_g_s", "injector.differential_kpa"]
        return [
            ("Peak", [("injector.duty_pct", "", True), *peak]),
            ("Idle", ["injector.idle_pulse_ms"]),
            ("Controller", ["injector.required_fuel_ms"]),
            ("Rail", ["injector.rail_drop_kpa", "injector.pulsation_kpa"]),
        ]
