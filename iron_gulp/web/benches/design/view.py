"""The page of designs: locks, and the front as it is found."""

from iron_gulp.core.plan import KEEPS, Lock, Locks, locks_of

from ...parts.page import Page

NOT_HERE = {"high-pressure pumps": "high_side", "direct injectors": "high_side", "injectors": "injectors"}


class View(Page):
    """Which system, and why not a cheaper one? The search itself comes as a piece."""

    def keeps(self) -> list[str]:
        """What can be kept of the option on the bench."""
        return [one for one in KEEPS if one not in NOT_HERE or getattr(self.option, NOT_HERE[one]) is not None]

    def locks(self) -> list[Lock]:
        """The locks that say anything of the option on the bench."""
        return locks_of(self.option)

    def empty(self, name: str) -> str:
        """What an empty lock means."""
        return f"{self.build.rules.headroom_pct:g}" if name == "headroom_pct" else Locks.when_empty.get(name, "")
