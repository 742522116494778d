"""The drawing page: plumbing diagram and parts list."""

from ...parts.page import Page
from .diagram import DiagramView, diagram_view
from .parts_list import ItemView, parts_list_view


class View(Page):
    """The diagram at the target's own point, and every part."""

    def diagram(self) -> DiagramView:
        """The plumbing diagram at the target's own point."""
        return diagram_view(self.bench, self.units, {})

    def parts_list(self) -> list[tuple[str, list[ItemView]]]:
        """Every part of the option, by section."""
        return parts_list_view(self.bench, self.units)
