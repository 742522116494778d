"""The regulator and return bench."""

from functools import partial

from iron_gulp.core.study import Sweep, flow_over_manifold, sweeps

from ...parts.figures import Rows
from ...parts.page import Page


def over_manifold(v: Page, needed: bool, per_cent: bool) -> Sweep:
    """Injector flow over manifold pressure under every arrangement."""
    return flow_over_manifold(v.build, v.option, v.target, v.shelf.catalogue, needed, per_cent)


class View(Page):
    """Regulator, return line and passages."""

    charts = {
        "return_floor": (
            "Lowest rail pressure the return side allows, idle with each stage on it",
            lambda v: sweeps.return_floor(v.build, v.verdict),
        ),
        "return_sizes": (
            "Return drop against bypassed flow",
            lambda v: sweeps.line_sizes(v.verdict, v.shelf.catalogue, "return_line", v.build.rules.return_drop_kpa),
        ),
        "flow_needed": (
            "One injector held open, each arrangement at the base it needs",
            partial(over_manifold, needed=True, per_cent=False),
        ),
        "flow_same": (
            "One injector held open, all at the base fitted",
            partial(over_manifold, needed=False, per_cent=False),
        ),
        "share_needed": (
            "Of the unboosted flow, each at the base it needs",
            partial(over_manifold, needed=True, per_cent=True),
        ),
        "share_same": (
            "Of the unboosted flow, all at the base fitted",
            partial(over_manifold, needed=False, per_cent=True),
        ),
    }

    def rows(self) -> Rows:
        """Figures by topic."""
        cooled = ["cooler.return_w", "suction.warming_k_h"] if self.option.return_cooler else []
        back = ["regulator.idle_bypass_l_h", "regulator.idle_return_kpa", "regulator.return_velocity_m_s"]
        return [
            ("Setting", [("regulator.set_kpa", "", True), "regulator.idle_set_kpa", "regulator.idle_rail_kpa"]),
            ("Lowest", ["regulator.idle_floor_kpa", "regulator.wide_open_kpa"]),
            ("Return", [*back, *cooled]),
        ]
