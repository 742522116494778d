"""The page of ceilings: the envelope first; its pieces come when looked at."""

from ...parts.figures import Rows
from ...parts.page import Page


class View(Page):
    """What this system can do on every blend, and what ends it."""

    def rows(self) -> Rows:
        """Figures by topic."""
        fuel = ["ceiling.first_pct", "ceiling.next_pct", "ceiling.left_pct"]
        return [("Fuel system", fuel), ("Air", ["demand.air_power_kw", "demand.air_kg_h"])]

    @property
    def boosted(self) -> bool:
        """Whether there is boost to permit."""
        return self.build.engine.induction != "naturally aspirated"
