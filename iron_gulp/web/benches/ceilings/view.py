"""The page of ceilings: the envelope first; its pieces come when looked at."""

from ...parts.page import Page


class View(Page):
    """What this system can do on every blend, and what ends it."""

    @property
    def boosted(self) -> bool:
        """Whether there is boost to permit."""
        return self.build.engine.induction != "naturally aspirated"
