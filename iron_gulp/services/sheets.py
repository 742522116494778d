"""Controller values sheets: as it is now, as it was issued last, and what has changed since."""

from dataclasses import dataclass

from iron_gulp.core.account import Changed, SheetSection, sheet_changes, values_sheet
from iron_gulp.core.model import Build, Target
from iron_gulp.storage import BuildRepository, NotFound, SettingRepository

from .ceilings import Ceilings
from .judging import Bench, parsed, verdicts_of


@dataclass(frozen=True)
class Sheet:
    """A sheet with the revision it was issued at before (None: never), and what is another since.

    `anchor` is the target from whose point its boost rises and falls.
    """

    anchor: str
    sections: tuple[SheetSection, ...]
    issued: int | None
    changed: tuple[Changed, ...]


class Sheets:
    """What the page of values shows and does."""

    def __init__(self, builds: BuildRepository, settings: SettingRepository):
        self._builds, self._settings = builds, settings

    def of(self, bench: Bench) -> Sheet:
        """The sheet of the option on the bench."""
        sections, anchor = _sheet(bench.stored.body, bench.option.id), anchor_of(bench.build).id
        issued = self._issued(bench.stored.id, bench.option.id)
        if issued is None:
            return Sheet(anchor, sections, None, ())
        try:
            before = _sheet(self._builds.body_at(bench.stored.id, issued), bench.option.id)
        except (NotFound, KeyError):
            return Sheet(anchor, sections, None, ())
        return Sheet(anchor, sections, issued, sheet_changes(before, sections))

    def issue(self, build_id: int, option_id: str, revision: int) -> None:
        """Remember that the sheet was given out as it is at a revision. Raises NotFound for none."""
        self._builds.body_at(build_id, revision)
        self._settings.put(_key(build_id, option_id), str(revision))

    def _issued(self, build_id: int, option_id: str) -> int | None:
        told = self._settings.get(_key(build_id, option_id))
        return int(told) if told is not None and told.isdecimal() else None


def _key(build_id: int, option_id: str) -> str:
    return f"sheet:{build_id}:{option_id}"


def anchor_of(build: Build) -> Target:
    """The target from whose point the boost permitted rises and falls: the one of most power."""
    return max(build.targets, key=lambda one: one.power_kw)


def _sheet(body: str, option_id: str) -> tuple[SheetSection, ...]:
    """The sheet of a stored body. Raises KeyError for an unknown option."""
    build: Build = parsed(body)
    option, verdicts = build.option(option_id), verdicts_of(body, option_id)
    boosted = build.engine.induction != "naturally aspirated"
    boost = Ceilings.permitted_on(body, option_id, anchor_of(build).id) if boosted else ()
    return values_sheet(build, option, verdicts, boost)
