"""Edits of a stored build: fields typed, parts fitted, remedies tried, components added and removed."""

from collections import defaultdict
from collections.abc import Callable
from dataclasses import dataclass
from threading import Lock
from typing import Any

from iron_gulp.core.model import Build, Edit, EditError, PortSetPart, Problem, apply, fitting, value_at
from iron_gulp.storage import BuildRepository, Conflict
from iron_gulp.units import BenchUnits, quantity_of, unit_said, where_quoted

from . import changing
from .bearing import within_what_is_borne
from .dash_sizes import line_meant
from .fields import BadValue, field_at, model_at, read_field
from .judging import ShelfHolder, judged, parsed, plan_of, written
from .part_names import own_names
from .starter import port_set_edits
from .typed import TypedUnits

ATTEMPTS = 20
CLASH = "changed in another window meanwhile; that value is kept. Type it again to replace it"


@dataclass(frozen=True)
class Outcome:
    """How an edit went: `message` is for beside the field at `path`, `typed` what was typed."""

    ok: bool
    path: str = ""
    typed: str = ""
    message: str = ""


class Stale(RuntimeError):
    """Another tab or person changed the same place since."""

    def __init__(self, path: str, current: Any):
        super().__init__(path)
        self.path, self.current = path, current


def _quoted_at(path: str, typed: str) -> list[Edit]:
    """Where a target's power is quoted, where what was typed says it: 300 whp, 320 bhp."""
    target, _, name = path.rpartition("/")
    said = where_quoted(typed) if name == "power_kw" and target.startswith("targets/") else None
    return [] if said is None else [(f"{target}/power_at", said)]


class Edits:
    """Changes builds, one revision an edit; what is refused is said and nothing is lost."""

    def __init__(self, builds: BuildRepository, shelf_of: ShelfHolder, typed_units: TypedUnits):
        self._builds, self._shelf_of, self._typed = builds, shelf_of, typed_units
        self._queues: dict[int, Lock] = defaultdict(Lock)

    def edit(self, build_id: int, base: int, path: str, typed: str, units: BenchUnits, shown_in: str = "") -> Outcome:
        """Set a field to what was typed. Nothing is stored unless the whole build stays valid. Raises NotFound.

        A bare number is in the unit that the field was `shown_in`; where that is told, a unit typed is kept beside it.
        """
        chosen = units
        try:
            quantity = quantity_of(field_at(path).name)
            units = units.instead(quantity, shown_in)
            value = read_field(path, typed, units)

            def wanted(build: Build) -> list[Edit]:
                within_what_is_borne(build, path, value, units)
                line = line_meant(build, path, typed, value, self._shelf_of.shelf.catalogue.lines, units)
                return line or [(path, value), *_quoted_at(path, typed)]

            self._save(build_id, base, wanted, f"{field_at(path).title}: {typed.strip()[:60]}")
        except BadValue as error:
            return Outcome(False, path, typed, str(error))
        except EditError as error:
            return Outcome(False, path, typed, "; ".join(problem.message for problem in error.problems))
        except Stale:
            return Outcome(False, path, typed, CLASH)
        if shown_in:
            unit = unit_said(typed, field_at(path).name, units) or units.unit(quantity).key
            self._typed.keep(build_id, {path: "" if unit == chosen.unit(quantity).key else unit})
        return Outcome(True, path)

    def choose_part(self, build_id: int, base: int, path: str, kind: str, shelf_id: str) -> Outcome:
        """Copy a shelf part into the build. Raises NotFound."""
        try:
            part = self._shelf_of.shelf.part(kind, shelf_id)
        except KeyError:
            return Outcome(False, path, shelf_id, "the shelf holds no such part")
        if isinstance(part, PortSetPart):
            return self.change(
                build_id, base, lambda build: port_set_edits(build, path, part), f"fitted {part.name}", path
            )
        try:
            edits = fitting(path, model_at(path), part)
        except BadValue as error:
            return Outcome(False, path, shelf_id, str(error))
        return self.change(build_id, base, lambda build: edits, f"fitted {part.name}", path)

    def remedy(self, build_id: int, base: int, option_id: str, finding: int, code: str, index: int) -> Outcome:
        """Try remedy `index` of finding number `finding`, as found on revision `base`. Raises NotFound."""
        body = self._builds.body_at(build_id, base)
        known = {option.id for option in parsed(body).options}
        found = judged(body, option_id, self._shelf_of.shelf).findings if option_id in known else ()
        gone = Outcome(False, "", "", "this remedy no longer applies")
        if finding >= len(found) or found[finding].code != code or index >= len(found[finding].remedies):
            return gone
        edits = list(found[finding].remedies[index].edits)
        if not edits:
            return gone
        return self.change(build_id, base, lambda build: edits, f"remedy: {found[finding].title}", "")

    def put_right(self, build_id: int, base: int, option_id: str) -> Outcome:
        """Do everything that clears the stops and checks of an option, as one revision. Raises NotFound."""
        body = self._builds.body_at(build_id, base)
        if option_id not in {option.id for option in parsed(body).options}:
            return Outcome(False, "", "", "this option is gone")
        edits = list(plan_of(body, option_id, self._shelf_of.shelf).edits)
        if not edits:
            return Outcome(False, "", "", "there is nothing one click could put right")
        return self.change(build_id, base, lambda _: edits, "everything put right", "")

    def count_alcohol(self, build_id: int, base: int, school: str) -> Outcome:
        """Count alcohol by a school on every target, as one revision. Raises NotFound."""
        return self.change(
            build_id,
            base,
            lambda build: [(f"targets/{one.id}/alcohol", school) for one in build.targets],
            f"alcohol counted: {school}",
            "",
        )

    def seen(self, build_id: int, base: int) -> None:
        """Make sure that there is such a revision, before long work begins that is to be put on it. Raises NotFound."""
        self._builds.body_at(build_id, base)

    def make(self, build_id: int, base: int, edits: list[Edit], note: str) -> Outcome:
        """Edits worked out elsewhere, as one revision. Raises NotFound."""
        return self.change(build_id, base, lambda _: edits, note, "")

    def add(self, build_id: int, base: int, what: str, option_id: str | None = None, like: str | None = None) -> Outcome:
        """Add a target, option, fuel, run, component, fitting or pump table, copied from `like`. Raises NotFound."""
        shelf = self._shelf_of.shelf
        return self.change(
            build_id, base, lambda build: changing.added(shelf, build, what, option_id, like), f"added to {what}", what
        )

    def remove(self, build_id: int, base: int, path: str) -> Outcome:
        """Remove a list entry or a component that need not be there. Raises NotFound."""
        note = f"removed {path.rpartition('/')[2]}"
        return self.change(build_id, base, lambda build: changing.removed(build, path), note, path)

    def change(self, build_id: int, base: int, edits: Callable[[Build], list[Edit]], note: str, path: str) -> Outcome:
        """Make edits that are found from the current build. Raises NotFound."""
        try:
            self._save(build_id, base, edits, note)
        except EditError as error:
            return Outcome(False, path, "", "; ".join(_plain(problem) for problem in error.problems))
        except Stale:
            return Outcome(False, path, "", "this was changed in another window meanwhile; look again and repeat")
        return Outcome(True, path)

    def _save(self, build_id: int, base: int, edits: Callable[[Build], list[Edit]], note: str) -> None:
        """Make edits on the current revision, unless another edit of the same place came since `base`.

        What already stands as it is wanted is no clash: an answer that was lost on its way is asked for again. Editors
        of one build queue; only steps back and forward can still come between. Raises EditError, Stale, NotFound.
        """
        with self._queues[build_id]:
            for _ in range(ATTEMPTS):
                stored = self._builds.current(build_id)
                build = parsed(stored.body)
                wanted = edits(build)
                if base != stored.number:
                    before = parsed(self._builds.body_at(build_id, base))
                    for path, value in wanted:
                        now = value_at(build, path)
                        if value_at(before, path) != now and value != now:
                            raise Stale(path, now)
                changed = apply(build, wanted)
                names = own_names(changed, [path for path, _ in wanted], self._shelf_of.shelf)
                changed = apply(changed, names) if names else changed
                if changed == build:
                    return
                try:
                    self._builds.save(build_id, stored.number, written(changed), note)
                except Conflict:
                    continue
                return
        raise Stale("", None)


def _plain(problem: Problem) -> str:
    if "1 or more entries" in problem.message:
        return "the last one cannot be removed"
    if "at most" in problem.message and "entries" in problem.message:
        return "there is no room for more"
    return problem.message
