"""The Ask page."""

from markupsafe import Markup

from ...parts.page import Page
from .picture import asked


class View(Page):
    """Car, engine and targets."""

    def picture(self) -> Markup:
        """Targets on power against ethanol."""
        return asked(self.bench.judged.verdicts, self.target.id, self.units)
