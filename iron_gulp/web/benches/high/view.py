"""The high-side bench: rail, pumps, their feed, direct injectors, and who delivers where port injectors help."""

from functools import cached_property
from math import isfinite

from markupsafe import Markup

from iron_gulp.core.model import HighPumpPart
from iron_gulp.core.plan import calibration_of
from iron_gulp.core.solve import IDLE, PEAK, STATE_WORDS, DirectRails, RailState
from iron_gulp.core.study import HighLimits, high_limits

from ...parts.figures import Rows
from ...parts.page import Page
from .picture import limits_picture, words_of


class View(Page):
    """What the high side carries at every speed, and what it takes to."""

    @property
    def works(self) -> bool:
        """Whether direct injection is fitted and delivers."""
        return self.verdict.points.direct is not None

    @cached_property
    def limits(self) -> HighLimits:
        """The limits over engine speed on the target chosen."""
        return high_limits(self.build, self.verdict)

    def picture(self) -> Markup:
        """Three limits and the demand over engine speed."""
        return limits_picture(self.limits, self.target, self.units)

    def sentence(self) -> str:
        """What gives in first, and at what speed, in words."""
        return words_of(self.limits, self.target, self.quantity)

    def state(self) -> str:
        """The worst rail's state at peak."""
        return _words(self._worst, PEAK)

    @property
    def _worst(self) -> DirectRails:
        direct = self.verdict.points.direct
        assert direct is not None
        return direct.worst

    def banks(self) -> list[list[str]]:
        """Each rail at peak: state, pressure, fuel, mixture against the target's, window used."""
        direct = self.verdict.points.direct
        assert direct is not None
        return [
            [
                f"Bank {number}" if len(direct.rails) > 1 else "Rail",
                _words(rail, PEAK),
                self.quantity(float(rail.rail_kpa[PEAK]), "rail_kpa"),
                self.quantity(float(rail.delivered_kg_s[PEAK]) * 3600.0, "fuel_kg_h"),
                self._lean(float(rail.lambda_factor[PEAK])),
                f"{float(rail.window_used[PEAK]) * 100:.0f}\u00a0%",
            ]
            for number, rail in enumerate(direct.rails, start=1)
        ]

    def _lean(self, factor: float) -> str:
        return self.quantity(factor, "lean_factor") if isfinite(factor) else "no fuel"

    def pumps(self) -> list[list[str]]:
        """Each pump at peak: inlet, head and what a full stroke needs, filled, brings at the target, delivers, drive."""
        direct = self.verdict.points.direct
        assert direct is not None
        return [
            [
                f"Pump {number}",
                self.quantity(float(pump.inlet_kpa[PEAK]), "inlet_kpa"),
                self.quantity(float(pump.head_kpa[PEAK]), "head_kpa"),
                self.quantity(float(pump.head_needed_kpa[PEAK]), "head_kpa"),
                f"{float(pump.fill[PEAK]) * 100:.0f}\u00a0%",
                self.quantity(float(pump.capacity_kg_s[PEAK]) * 3600.0, "fuel_kg_h"),
                self.quantity(float(pump.delivered_kg_s[PEAK]) * 3600.0, "fuel_kg_h"),
                self.quantity(float(pump.power_w[PEAK]), "power_w"),
            ]
            for number, pump in enumerate(direct.pumps, start=1)
        ]

    def implied(self, part: HighPumpPart) -> str:
        """The plunger that what was entered comes to; empty where it was entered itself."""
        bore, lift = self.quantity(part.plunger_mm, "bore_mm"), self.quantity(part.stroke_mm, "bore_mm")
        if part.driven == "several plungers":
            return f"That is {part.plungers} plungers of {bore}, with a lift of {lift}."
        return f"At the same lift that is a plunger of {bore}." if part.over_stock_pct else ""

    def feed_title(self, number: int) -> str:
        """What the line to a pump is called."""
        assert self.option.high_side is not None
        linked = self.option.high_side.feed == "series" and number > 0
        return f"Link from pump {number} to {number + 1}" if linked else f"Line to pump {number + 1}"

    def calibration(self) -> tuple[str, ...]:
        """What calibrating both sides involves; nothing where one alone delivers."""
        return calibration_of(self.build, self.option)

    def idle(self) -> str:
        """The rail at idle in words."""
        return _words(self._worst, IDLE)

    def rows(self) -> Rows:
        """Figures by topic."""
        if not self.works:
            return []
        both = [("Direct and port", ["high.share_pct", "high.port_kg_h"])] if self.option.injectors else []
        return [
            ("Rail", [("high.rail_kpa", "", True), "high.target_kpa", "high.floor_kpa"]),
            ("Pump", ["high.capacity_kg_h", "high.delivered_kg_h", "high.efficiency_pct", "high.fill_pct"]),
            ("Feed", ["high.node_kpa", "high.inlet_kpa", "high.head_kpa", "high.head_needed_kpa"]),
            ("Injectors", ["high.window_used_pct", "high.effective_ms", "high.window_ms", "high.idle_effective_ms"]),
            ("Drive", ["high.drive_power_w", "high.drive_mean_nm", "high.drive_peak_nm", "high.follower_limit_rpm"]),
            *both,
        ]


def _words(rail: DirectRails, index: int) -> str:
    return STATE_WORDS[RailState(int(rail.state[index]))]
