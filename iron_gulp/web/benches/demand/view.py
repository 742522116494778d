"""The engine bench: demand by the three schools."""

from iron_gulp.core.study import sweeps

from ...parts.page import Page


class View(Page):
    """How much fuel, and what the schools say of each other."""

    charts = {
        "fuel_volume": (
            "Fuel volume for this target against ethanol content",
            lambda v: sweeps.fuel_volume(v.build, v.verdict),
        )
    }

    def agreement(self) -> str:
        """Whether the air can make the power, by what engines are found to burn."""
        load = self.verdict.load("engine")
        if load.status == "ok":
            return f"The air at this boost is enough: the power asked takes about {load.load * 100:.0f} % of it."
        short = f"{(load.load - 1) * 100:.0f} %"
        if load.status == "close":
            return f"Air falls {short} short of what this power is expected to need: within what engines differ by."
        return f"Air falls {short} short of what this power is expected to need: air-limited, not fuel-limited."
