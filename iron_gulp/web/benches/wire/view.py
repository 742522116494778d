"""The wiring page."""

from functools import cached_property

from markupsafe import Markup

from iron_gulp.core.judge import Circuit, circuits

from ...parts.page import Page
from .circuits import CircuitView, circuit_views
from .picture import rungs


class View(Page):
    """Every pump's circuit."""

    @cached_property
    def _found(self) -> list[Circuit]:
        return circuits(self.option, self.bench.judged.verdicts, self.build.rules)

    def picture(self) -> Markup | None:
        """The circuits as rungs; None where no pump is electric."""
        return rungs(self._found, self.build.rules.wire_drop_v, self.units) if self._found else None

    def circuits(self) -> list[CircuitView]:
        """The circuits of the option."""
        return circuit_views(self._found, self.bench, self.units)
