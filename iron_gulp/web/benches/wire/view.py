"""The wiring page."""

from ...parts.page import Page
from .circuits import CircuitView, circuit_views


class View(Page):
    """Every pump's circuit."""

    def circuits(self) -> list[CircuitView]:
        """The circuits of the option."""
        return circuit_views(self.bench, self.units)
