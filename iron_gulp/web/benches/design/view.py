"""The page of designs: locks, and the front as it is found."""

from typing import get_args

from iron_gulp.core.plan import KEEPS, Locks

from ...parts.page import Page

NOT_HERE = {"high-pressure pumps": "high_side", "direct injectors": "high_side", "injectors": "injectors"}


class View(Page):
    """Which system, and why not a cheaper one? The search itself comes as a piece."""

    def keeps(self) -> list[str]:
        """What can be kept of the option on the bench."""
        return [one for one in KEEPS if one not in NOT_HERE or getattr(self.option, NOT_HERE[one]) is not None]

    def lock_choices(self, name: str) -> list[str]:
        """The choices of a lock."""
        return [str(one) for one in get_args(Locks.model_fields[name].annotation)]
