"""The tank and fuel bench."""

from iron_gulp.core.study import sweeps

from ...parts.page import Page
from .calculators import CalculatorView, calculator_view


class View(Page):
    """Fuel, tank, suction and lift stage, with the bench calculators."""

    charts = {
        "fuel_volume": (
            "Fuel volume for this target against ethanol content",
            lambda v: sweeps.fuel_volume(v.build, v.verdict),
        )
    }

    def calculators(self) -> list[CalculatorView]:
        """The bench calculators, starting from this tank and target."""
        mixing = {"tank_l": self.option.tank.volume_l, "wanted_pct": self.target.ethanol_pct}
        return [calculator_view("mixing", {}, self.units, mixing), calculator_view("sensor", {}, self.units)]
