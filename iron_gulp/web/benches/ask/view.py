"""The Ask page."""

import json
from dataclasses import dataclass

from markupsafe import Markup

from iron_gulp.core.model import EditError, value_at
from iron_gulp.core.plan import moved_since
from iron_gulp.core.study import pull_gain

from ...parts.locks import WithLocks
from ..places import address_of
from .picture import asked


@dataclass(frozen=True)
class Taken:
    """An assumption in words, where it is changed ("" for nowhere), and whether it was."""

    words: str
    url: str
    changed: bool


class View(WithLocks):
    """Car, engine and targets."""

    def pulls(self) -> str:
        """What two recorded pulls say, or nothing."""
        found = pull_gain(self.build)
        if found is None:
            return ""
        expected, got, kept = (
            self.quantity(share * 100.0, "gain_pct") for share in (found.expected, found.got, found.kept)
        )
        return f"The pressure ratio promises {expected} more power; {got} came, {kept} of it."

    def why(self) -> list[str]:
        """Why the option on the bench is as it is, a line each."""
        return [line for line in self.option.why.splitlines() if line.strip()]

    def moved(self) -> list[tuple[str, str, str]]:
        """What is another since the account was written: (what, before, after)."""
        text = self.option.why_for
        return moved_since(text, self.option) if self.option.why and text else []

    def assumed(self) -> list[Taken]:
        """What was taken for granted, each with its field; what was changed since is told so."""
        found = []
        for one in self.build.assumed:
            now = self._now(one.field)
            if now is None:  # what it was about is there no more
                found.append(Taken(one.words, "", changed=bool(one.field)))
            else:
                found.append(Taken(one.words, address_of(self.bench, one.field), now[: len(one.was)] != one.was))
        return found

    def _now(self, path: str) -> str | None:
        """The value at a path as it is kept with an assumption; None where there is no such place."""
        try:
            return json.dumps(value_at(self.build, path)) if path else None
        except EditError:
            return None

    def picture(self) -> Markup:
        """Targets on power against ethanol."""
        return asked(self.bench.judged.verdicts, self.target.id, self.units)
