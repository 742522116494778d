"""The page of comparisons: the options beside each other come as a piece."""

from collections.abc import Sequence

from iron_gulp.services.comparing import WEIGHED, Compared

from ...parts.page import Page


class View(Page):
    """Which of these systems, and why?"""

    @property
    def chosen_name(self) -> str:
        """The option chosen; "" while none is."""
        return next((one.name for one in self.build.options if one.id == self.build.chosen), "")

    @property
    def weighs(self) -> str:
        """What this use weighs."""
        return WEIGHED[self.build.car.use]

    def figures_then(self) -> list[str]:
        """The figures the choice was made on."""
        return self.build.chosen_says.splitlines()

    def left_out(self, shown: Sequence[Compared]) -> int:
        """How many options do not stand beside the others."""
        return len(self.build.options) - len(shown)
