"""The tank and fuel bench."""

from markupsafe import Markup

from iron_gulp.core.study import sweeps

from ...parts.figures import Rows
from ...parts.page import Page
from .calculators import CalculatorView, calculator_view
from .lap import surge_level
from .picture import head_stair


class View(Page):
    """Fuel, tank, suction and lift stage, with the bench calculators."""

    charts = {
        "fuel_volume": (
            "Fuel volume for this target against ethanol content",
            lambda v: sweeps.fuel_volume(v.build, v.verdict),
        )
    }

    def picture(self) -> Markup:
        """From the tank to the pump inlet, against boiling."""
        return head_stair(self.build, self.verdict, self.units)

    def lap(self) -> Markup | None:
        """The surge tank over a lap; None without one."""
        return surge_level(self.verdict, self.units)

    def calculators(self) -> list[CalculatorView]:
        """The bench calculators, starting from this tank and target."""
        mixing = {"tank_l": self.option.tank.volume_l, "wanted_pct": self.target.ethanol_pct}
        return [calculator_view("mixing", {}, self.units, mixing), calculator_view("sensor", {}, self.units)]

    def rows(self) -> Rows:
        """Figures by topic."""
        blend = ["fuel.vapour_kpa_abs", "fuel.same_air_ratio", "fuel.same_energy_ratio"]
        properties = ["fuel.density_kg_m3", "fuel.stoich_afr", "fuel.lhv_mj_kg", "fuel.viscosity_mpa_s"]
        lift: Rows = [("Lift", list(one.kind.figures)) for one in self.fitted("fuel") if one.kind.key == "lift"]
        return [
            ("Fuel", [*properties, "fuel.mass_fraction_pct"]),
            ("Blend", blend),
            ("Suction", ["suction.inlet_kpa", "suction.available_kpa", "suction.warming_k_h"]),
            *lift,
        ]
