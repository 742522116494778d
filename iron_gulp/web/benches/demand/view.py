"""The engine bench: demand by the three schools."""

from markupsafe import Markup

from iron_gulp.core.study import reserve, sprayed, sweeps

from ...parts.figures import Rows
from ...parts.page import Page
from .picture import schools


class View(Page):
    """How much fuel, and what the schools say of each other."""

    charts = {
        "fuel_volume": (
            "Fuel volume for this target against ethanol content",
            lambda v: sweeps.fuel_volume(v.build, v.verdict),
        )
    }

    def picture(self) -> Markup:
        """The schools on one axis."""
        return schools(self.verdict, self.units)

    def agreement(self) -> str:
        """Whether the air can make the power, by what engines are found to burn."""
        load = self.verdict.load("engine")
        if load.status == "ok":
            return f"The air at this boost is enough: the power asked takes about {load.load * 100:.0f} % of it."
        short = f"{(load.load - 1) * 100:.0f} %"
        if load.status == "close":
            return f"Air falls {short} short of what this power is expected to need: within what engines differ by."
        return f"Air falls {short} short of what this power is expected to need: air-limited, not fuel-limited."

    def reserve(self) -> str:
        """What the sizing figure holds over what is expected, and why."""
        if self.target.school != "consumption":
            return ""
        over = reserve(self.build, self.option, self.target)
        if over < 0:
            return (
                f"It is sized for {-over * 100:.0f}\u00a0% less than the engine is expected to burn: no reserve is held."
            )
        return (
            f"It is sized for {over * 100:.0f}\u00a0% more than is expected to be burnt: a reserve on purpose, for "
            "pumps that age, hot fuel and an engine that burns more than most."
        )

    def sprayed(self) -> list[list[str]]:
        """What a second liquid does on every target."""
        told = self.option.auxiliary
        assert told is not None
        rows = []
        for verdict in self.bench.judged.verdicts:
            one = sprayed(told, verdict)
            lasts = "–" if one.flow_kg_s <= 0 else f"{one.minutes:.0f}\u00a0min"
            rows.append(
                [
                    verdict.target.name,
                    self.quantity(one.flow_kg_s * 3600.0, "flow_kg_h"),
                    self.quantity(one.lambda_with, "with_lambda"),
                    self.quantity(one.lambda_without, "without_lambda"),
                    self.quantity(one.energy_share * 100.0, "share_pct"),
                    lasts,
                    self.quantity(one.cooling_k, "cooling_k"),
                ]
            )
        return rows

    def rows(self) -> Rows:
        """Figures by topic."""
        logged: Rows = [("Logged run", [("demand.measured_kg_h", "Fuel")])] if self.build.measured else []
        return [
            ("Sized for", [("demand.volume_l_h", "This target is sized for", True), "demand.idle_kg_h"]),
            ("Expected", [("demand.expected_kg_h", "The engine is expected to burn")]),
            ("Consumption", [("demand.consumption_kg_h", "Fuel, sizing"), "demand.crank_kw", "demand.blend_bsfc_kg_kwh"]),
            ("Air mass", [("demand.air_school_kg_h", "Fuel"), "demand.air_kg_h", "demand.air_power_kw"]),
            *logged,
        ]
