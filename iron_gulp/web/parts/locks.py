"""Locks of a search as a form: what stays, and the rest of the list; the same on every page that searches."""

from typing import Annotated

from fastapi import Depends, Request

from iron_gulp.core.plan import KEEPS, Lock, Locks, locks_of

from .page import Page

NOT_HERE = {"high-pressure pumps": "high_side", "direct injectors": "high_side", "injectors": "injectors"}
MOST_FIELDS, MOST_LETTERS = 60, 40


class WithLocks(Page):
    """A page that offers the locks of its option."""

    def keeps(self) -> list[str]:
        """What can be kept of the option on the bench."""
        return [one for one in KEEPS if one not in NOT_HERE or getattr(self.option, NOT_HERE[one]) is not None]

    def locks(self) -> list[Lock]:
        """The locks that say anything of the option on the bench."""
        return locks_of(self.option)

    def empty(self, name: str) -> str:
        """What an empty lock means."""
        return f"{self.build.rules.headroom_pct:g}" if name == "headroom_pct" else Locks.when_empty.get(name, "")


async def _typed(request: Request) -> tuple[dict[str, str], list[str]]:
    """What was typed of the locks, by name, and what is to be kept."""
    form = await request.form(max_fields=MOST_FIELDS)
    told = {name: str(form.get(name, ""))[:MOST_LETTERS] for name in Locks.model_fields if name != "keep"}
    return told, [str(one)[:MOST_LETTERS] for one in form.getlist("keep")][: len(KEEPS)]


TypedLocks = Annotated[tuple[dict[str, str], list[str]], Depends(_typed)]
