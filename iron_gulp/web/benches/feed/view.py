"""The feed bench."""

from iron_gulp.core.physics import M3_S_PER_L_H
from iron_gulp.core.study import legs, sweeps

from ...parts.page import Page


class View(Page):
    """Feed, filter, passages and split, with every leg of the way."""

    charts = {
        "feed_sizes": (
            "Feed drop at steady speed, one size up and down",
            lambda v: sweeps.line_sizes(v.verdict, v.shelf.catalogue, "feed", v.build.rules.feed_drop_kpa),
        )
    }

    def legs(self) -> list[list[str]]:
        """Every leg on this target: name, flow, velocity, drop, pressure behind it."""
        return [
            [
                leg.name,
                self.quantity(leg.flow_m3_s / M3_S_PER_L_H, "flow_l_h"),
                "" if leg.velocity_m_s is None else self.quantity(leg.velocity_m_s, "velocity_m_s"),
                self.quantity(round(leg.drop_kpa, 2), "drop_kpa"),
                self.quantity(round(leg.after_kpa, 2), "after_kpa"),
            ]
            for leg in legs(self.verdict)
        ]
