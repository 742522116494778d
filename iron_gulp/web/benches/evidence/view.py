"""The page of evidence: what was measured, what is assumed, and the files that show it."""

from dataclasses import dataclass
from functools import cached_property

from markupsafe import Markup

from iron_gulp.core.model import KeptFile, Pull, Reading
from iron_gulp.core.study import Use, can_be_read, fitted_part, fuel_twice, in_use, measures, members, pull_gain, uses

from ...parts.page import Page
from .picture import known_and_assumed
from .words import dated, pull_words

NAMES = {"lift": "lift pump", "": "first set", "second": "second set", "direct": "direct injectors"}


@dataclass(frozen=True)
class ReadingRow:
    """A reading: its edit path, what it is of, whether it is used and why not, its files."""

    path: str
    title: str
    says: str
    used: bool
    id: str


class View(Page):
    """What is known, and what is only assumed?"""

    @cached_property
    def uses(self) -> tuple[Use, ...]:
        """Every input as measured, on the target chosen."""
        return uses(self.build, self.option, self.target)

    def picture(self) -> Markup:
        """Every uncertain input: what is assumed of it, and what was measured."""
        there = [name for name, count in members(self.build, self.option).items() if count > 0]
        return known_and_assumed(self.build.tolerances, there, self.uses, self.units)

    def sentence(self) -> str:
        """How much of it is measured."""
        there = {name for name, count in members(self.build, self.option).items() if count > 0}
        known = {use.name for use in self.uses} & there
        return f"{len(known)} of {len(there)} uncertain inputs are measured on this option; the others are assumed."

    def readable(self) -> list[tuple[str, str]]:
        """(what to add, title) of everything that can be read here."""
        return [(f"readings/{of}/{member}", self._titled(of, member)) for of, member, _ in can_be_read(self.option)]

    def _titled(self, of: str, member: str) -> str:
        title = of.capitalize()
        if of in ("pump flow", "injector flow"):
            several = [one for one in can_be_read(self.option) if one[0] == of]
            part = next((part for _, other, part in several if other == member), "")
            if len(several) > 1:
                title += f", {NAMES.get(member) or self._number(member)}"
            if part:
                title += f" · {part}"
        return title

    def _number(self, member: str) -> str:
        """A pump group or high-pressure pump by its number, as the pump bench counts them."""
        groups = [group.id for group in self.option.pumps]
        return f"group {groups.index(member) + 1}" if member in groups else member.replace("high ", "high-pressure pump ")

    def readings(self) -> list[ReadingRow]:
        """Every reading, newest first, with whether it is used."""
        used = {one.id for one in in_use(self.build, self.option)}
        rows = []
        for one in sorted(self.build.readings, key=lambda each: each.day, reverse=True):
            why = measures(self.build, self.option, one)
            says = "in use" if one.id in used else why or "a newer one is in use"
            rows.append(ReadingRow(f"readings/{one.id}", self._of(one), says, one.id in used, one.id))
        return rows

    def _of(self, one: Reading) -> str:
        here = one.option == self.option.id and fitted_part(self.option, one) is not None
        title = self._titled(one.of, one.member) if here else one.of.capitalize()
        return title if here or not one.part else f"{title} · {one.part}"

    def pulls(self) -> list[tuple[str, Pull, str]]:
        """(edit path, pull, its words)."""
        rows = []
        for one in self.build.pulls:
            loss = "" if one.loss is None else f", driveline takes {one.loss * 100:.1f}\u00a0%"
            rows.append((f"pulls/{one.id}", one, f"{self.quantity(one.power_kw, 'power_kw')}{loss}"))
        return rows

    def pull_words(self) -> list[str]:
        """What the pulls are used for."""
        gain, twice = pull_gain(self.build), fuel_twice(self.build)
        return list(pull_words(self.build, self.target, self.uses, gain, twice, self.quantity))

    def owners(self) -> list[tuple[str, str]]:
        """(id, title) of what a file may belong to."""
        rows = [("", "the build")]
        rows += [(one.id, f"{self._of(one)}{dated(one.day)}") for one in self.build.readings]
        rows += [(one.id, f"pull{dated(one.day)}, {self.quantity(one.power_kw, 'power_kw')}") for one in self.build.pulls]
        return rows + [(one.id, f"fill{dated(one.day)}") for one in self.build.fills]

    def files(self) -> list[tuple[str, KeptFile, str]]:
        """(edit path, file, what it belongs to)."""
        owners = dict(self.owners())
        return [(f"files/{one.id}", one, owners.get(one.of, "something removed since")) for one in self.build.files]
