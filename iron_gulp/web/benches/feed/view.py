"""The feed bench."""

from markupsafe import Markup

from iron_gulp.core.physics import M3_S_PER_L_H
from iron_gulp.core.study import legs, sweeps

from ...parts.figures import Rows
from ...parts.page import Page
from .picture import stair


class View(Page):
    """Feed, filter, passages and split, with every leg of the way."""

    charts = {
        "feed_sizes": (
            "Feed drop at steady speed, one size up and down",
            lambda v: sweeps.line_sizes(v.verdict, v.shelf.catalogue, "feed", v.build.rules.feed_drop_kpa),
        )
    }

    def picture(self) -> Markup:
        """The feed as a stair of losses."""
        return stair(self.verdict, self.units)

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

    def rows(self) -> Rows:
        """Figures by topic."""
        split = ["feed.split_kpa"] if self.option.split else []
        cooled = ["cooler.feed_w", "suction.warming_k_h"] if self.option.feed_cooler else []
        return [
            ("Losses", [("feed.drop_kpa", "", True), "feed.filter_kpa", "feed.passages_kpa", *split]),
            ("Flow", ["pump.supply_l_h", "feed.velocity_m_s", "feed.reynolds", *cooled]),
        ]
