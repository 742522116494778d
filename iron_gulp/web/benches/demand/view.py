"""The engine bench: demand by the three schools."""

from iron_gulp.core.judge import AIR_TOLERANCE
from iron_gulp.core.study import sweeps

from ...parts.page import Page


class View(Page):
    """How much fuel, and what the schools say of each other."""

    charts = {
        "fuel_volume": (
            "Fuel volume for this duty against ethanol content",
            lambda v: sweeps.fuel_volume(v.build, v.verdict),
        )
    }

    def agreement(self) -> str:
        """What the schools say of each other."""
        off = self.verdict.demand.disagreement * 100
        if abs(off) <= AIR_TOLERANCE * 100:
            return f"Consumption and air agree within {abs(off):.0f} %: this boost and this power belong together."
        if off < 0:
            return f"Air falls {-off:.0f} % short of the power asked: air-limited, not fuel-limited."
        return f"Air could burn {off:.0f} % more than the power asked needs."
