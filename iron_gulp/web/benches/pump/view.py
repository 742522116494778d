"""The pumps bench."""

from iron_gulp.core.study import sweeps

from ...parts.page import Page


class View(Page):
    """Pump groups with their wiring and tables, and what reaches the rail."""

    charts = {
        "pump_supply": (
            "Supply against pressure, with wiring and lines as fitted",
            lambda v: sweeps.pump_supply(v.build, v.verdict),
        )
    }
