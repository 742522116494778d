"""The page of values: the sheet comes when looked at."""

from typing import get_args

from iron_gulp.core.model import ControllerTable, Told

from ...parts.page import Page


class View(Page):
    """What is entered in the controller, what has changed since it was given out, and what its own tables say."""

    told_kinds: tuple[str, ...] = get_args(Told)

    @property
    def pasted(self) -> str:
        """The table that was refused, as it was pasted."""
        return self.outcome.typed if self.outcome is not None and self.outcome.path == "tables" else ""

    def table_words(self, table: ControllerTable) -> str:
        """For whom it holds, and which targets it does not reach."""
        targets = [one for one in self.build.targets if table.target in ("", one.id)]
        holds = "every target" if not table.target else ", ".join(one.name for one in targets) or "a target removed since"
        beyond = [one.name for one in targets if not table.covers(one.rpm, one.boost_kpa)]
        told = f"for {holds}, {len(table.load_kpa)} × {len(table.rpm)} cells"
        return told + (f"; does not reach {', '.join(beyond)}, where the assumption stays" if beyond else "")
