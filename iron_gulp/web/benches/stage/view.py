"""The staging page."""

from ...parts.page import Page
from .staging import LAYERS, StagingView, field_json, staging_view


class View(Page):
    """Which pumps run where; the field and the tables come when looked at."""

    layers = tuple((key, label) for key, label, _ in LAYERS)

    def chart(self, name: str) -> str:
        """The operating field. Raises KeyError for another chart."""
        if name != "field":
            raise KeyError(name)
        return field_json(self.bench, self.units)

    def staging(self) -> StagingView:
        """Switches, missing stages and proposals."""
        return staging_view(self.bench, self.units)
