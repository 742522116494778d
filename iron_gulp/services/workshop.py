"""The workshop: everything an interface can do with builds, one method a task."""

import re
from collections.abc import Callable
from dataclasses import dataclass
from importlib import resources
from pathlib import Path
from typing import Any

from iron_gulp.core.account import Context as FigureContext
from iron_gulp.core.account import Explanation, Item, explain, parts_list, report
from iron_gulp.core.judge import DutyVerdict
from iron_gulp.core.model import Build, Edit, EditError, Option, Problem, apply, dump, value_at
from iron_gulp.formats import build_file
from iron_gulp.formats.build_file import BuildFileError
from iron_gulp.shelf import Shelf, load_shelf
from iron_gulp.storage import BuildRepository, Conflict, NotFound, PartRepository, Stored, open_database
from iron_gulp.storage.repository import Page, Revision
from iron_gulp.units import BenchUnits

from . import starter
from .fields import BadValue, field_at, read_field
from .judging import Judged, judged, parsed, summarise
from .own_parts import OwnParts

__all__ = ["Bench", "BuildFileError", "NotFound", "Outcome", "Workshop"]

ATTEMPTS = 5
PAGE_SIZE = 50
CLASH = "changed in another window meanwhile; that value is kept. Type it again to replace it"


@dataclass(frozen=True)
class Bench:
    """One build on the bench: stored revision, option and duty chosen, everything judged."""

    stored: Stored
    build: Build
    option: Option
    verdict: DutyVerdict
    judged: Judged

    @property
    def figures(self) -> FigureContext:
        return FigureContext(self.build, self.verdict)


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


class Workshop:
    """Builds in one database, judged with the shelf's parts for remedies."""

    def __init__(self, database_path: Path, shelf: Shelf | None = None):
        database = open_database(database_path)
        self._builds = BuildRepository(database, summarise)
        self.parts = OwnParts(PartRepository(database), shelf or load_shelf())

    @property
    def shelf(self) -> Shelf:
        """Generic parts and one's own."""
        return self.parts.shelf

    # Garage

    def garage(self, text: str = "", sort: str = "touched", archived: bool = False, page: int = 1) -> Page:
        """A page of builds."""
        return self._builds.page(text.strip(), sort, archived, (max(page, 1) - 1) * PAGE_SIZE, PAGE_SIZE)

    def create(self) -> int:
        """A new build to start from; returns its id."""
        return self._builds.create(build_file.write(starter.new_build(self.shelf)), "new build")

    def duplicate(self, build_id: int) -> int:
        """A copy of a build under a new name; returns its id. Raises NotFound."""
        build = parsed(self._builds.current(build_id).body)
        name = f"{build.name[:70]}, copy"
        return self._builds.create(build_file.write(build.model_copy(update={"name": name})), f"copy of {build.name}")

    def set_archived(self, build_id: int, archived: bool) -> None:
        """Put away or take out. Raises NotFound."""
        self._builds.set_archived(build_id, archived)

    def import_build(self, content: bytes | str) -> int:
        """Store a build file; returns the new build's id. Raises BuildFileError."""
        return self._builds.create(build_file.write(build_file.read(content)), "imported from a build file")

    def export(self, build_id: int) -> tuple[str, str]:
        """A build's file name and build-file text. Raises NotFound."""
        body = self._builds.current(build_id).body
        stem = re.sub(r"[^a-z0-9]+", "-", parsed(body).name.lower()).strip("-") or "build"
        return f"{stem}.irongulp.json", body

    def load_demo(self) -> int:
        """Store the demo builds when the garage is empty; returns how many."""
        if self.garage().total or self.garage(archived=True).total:
            return 0
        files = sorted(
            (file for file in resources.files("iron_gulp.demo").iterdir() if file.name.endswith(".json")),
            key=lambda file: file.name,
            reverse=True,
        )
        for file in files:
            self.import_build(file.read_text(encoding="utf-8"))
        return len(files)

    # Bench

    def bench(self, build_id: int, option_id: str | None = None, duty_id: str | None = None) -> Bench:
        """A build judged. An unknown option or duty falls back to the first. Raises NotFound for an unknown build."""
        return self._bench(self._builds.current(build_id), option_id, duty_id)

    def _bench(self, stored: Stored, option_id: str | None, duty_id: str | None) -> Bench:
        build = parsed(stored.body)
        if option_id not in {option.id for option in build.options}:
            option_id = None
        if duty_id not in {duty.id for duty in build.duties}:
            duty_id = None
        found = judged(stored.body, build.option(option_id).id, self.shelf)
        return Bench(stored, build, found.option, found.verdict(build.duty(duty_id).id), found)

    def solution(self, build_id: int, option_id: str | None, duty_id: str | None) -> dict[str, Any]:
        """The complete solution as data. Raises NotFound, KeyError for an unknown option or duty."""
        stored = self._builds.current(build_id)
        build = parsed(stored.body)
        found = judged(stored.body, build.option(option_id).id, self.shelf)
        return report(build, found.verdict(build.duty(duty_id).id))

    def parts_list(self, bench: Bench) -> list[Item]:
        """Every part of the option on the bench."""
        return parts_list(bench.build, bench.option, bench.judged.verdicts)

    def explain(self, bench: Bench, key: str) -> Explanation:
        """A figure opened. Raises KeyError for an unknown figure."""
        return explain(key, bench.figures)

    # Changing

    def edit(self, build_id: int, base: int, path: str, typed: str, units: BenchUnits) -> Outcome:
        """Set a field to what was typed. Nothing is stored unless the whole build stays valid. Raises NotFound."""
        try:
            value = read_field(path, typed, units)
            self._save(build_id, base, lambda build: [(path, value)], f"{field_at(path).title}: {typed.strip()[:60]}")
        except BadValue as error:
            return Outcome(False, path, typed, str(error))
        except EditError as error:
            return Outcome(False, path, typed, "; ".join(problem.message for problem in error.problems))
        except Stale:
            return Outcome(False, path, typed, CLASH)
        return Outcome(True, path)

    def choose_part(self, build_id: int, base: int, path: str, kind: str, shelf_id: str) -> Outcome:
        """Copy a shelf part into the build. Raises NotFound."""
        try:
            part = self.shelf.part(kind, shelf_id)
        except KeyError:
            return Outcome(False, path, shelf_id, "the shelf holds no such part")
        plain = part.model_dump(mode="json")
        return self._structural(build_id, base, lambda build: [(path, plain)], f"fitted {part.name}", path)

    def remedy(self, build_id: int, base: int, option_id: str, finding: int, code: str, index: int) -> Outcome:
        """Try remedy `index` of finding number `finding`, as found on revision `base`. Raises NotFound."""
        body = self._builds.body_at(build_id, base)
        known = {option.id for option in parsed(body).options}
        found = judged(body, option_id, self.shelf).findings if option_id in known else ()
        gone = Outcome(False, "", "", "this remedy no longer applies")
        if finding >= len(found) or found[finding].code != code or index >= len(found[finding].remedies):
            return gone
        edits = list(found[finding].remedies[index].edits)
        if not edits:
            return gone
        return self._structural(build_id, base, lambda build: edits, f"remedy: {found[finding].title}", "")

    def add(self, build_id: int, base: int, what: str, option_id: str | None = None, like: str | None = None) -> Outcome:
        """Add a duty, option, pump group, passage, fitting, filter, pickup, suction line, lift stage, split or run.

        `like` names the duty or option to copy. Raises NotFound.
        """

        def edits(build: Build) -> list[Edit]:
            data = dump(build)
            if what in ("duties", "options"):
                items = data[what]
                source = next((item for item in items if item["id"] == like), items[-1])
                return [(what, [*items, starter.copy_of(source, what[0], items)])]
            if what == "fuels":
                return [(what, [*data[what], starter.base_fuel(data[what])])]
            if what == "measured":
                return [(what, starter.measured_run().model_dump(mode="json"))]
            option = next((item for item in data["options"] if item["id"] == option_id), None)
            if option is None:
                raise EditError([Problem(what, "there is no such option")])
            if what == "pumps":
                groups = option["pumps"]
                fresh = {**starter.copy_of(groups[-1], "g", groups), "count": 1, "on_above_kpa": 30.0}
                return [(f"options/{option['id']}/pumps", [*groups, fresh])]
            turned = starter.metering(self.shelf, option, what) or starter.split_edits(self.shelf, option, what)
            if turned is not None:
                return [(f"options/{option['id']}/{place}", value) for place, value in turned]
            fresh_part = starter.element(self.shelf, option, what)
            if fresh_part is not None:
                return [(f"options/{option['id']}/{fresh_part[0]}", fresh_part[1])]
            raise EditError([Problem(what, "this cannot be added")])

        return self._structural(build_id, base, edits, f"added to {what}", what)

    def remove(self, build_id: int, base: int, path: str) -> Outcome:
        """Remove a list entry, the filter or the measured run at a path. Raises NotFound."""

        def edits(build: Build) -> list[Edit]:
            holder, _, last = path.rpartition("/")
            if last in ("filter", "measured", "lift", "line", "pickup"):
                return [(path, None)]
            steps = path.split("/")
            if (steps[2:4] == ["split", "branches"] and len(steps) == 5) or steps[2:] == ["split"]:
                option = value_at(build, "/".join(steps[:2]))
                cut = starter.without_branch(option, last) if len(steps) == 5 else [("split", None), ("rail/count", 1)]
                return [(f"{steps[0]}/{steps[1]}/{place}", value) for place, value in cut]
            items = value_at(build, holder) if holder else None
            if holder.endswith("/part/curves") and isinstance(items, list) and last.isdecimal():
                return [(holder, [item for index, item in enumerate(items) if index != int(last)])]
            if not isinstance(items, list) or not all(isinstance(item, dict) and "id" in item for item in items):
                raise EditError([Problem(path, "this cannot be removed")])
            return [(holder, [item for item in items if item["id"] != last])]

        return self._structural(build_id, base, edits, f"removed {path.rpartition('/')[2]}", path)

    def undo(self, build_id: int) -> bool:
        """Step back one revision. Raises NotFound."""
        return self._builds.undo(build_id)

    def redo(self, build_id: int) -> bool:
        """Step forward one revision. Raises NotFound."""
        return self._builds.redo(build_id)

    def restore(self, build_id: int, number: int) -> None:
        """Bring an old revision back as a new one. Raises NotFound."""
        self._builds.restore(build_id, number)

    def revisions(self, build_id: int) -> list[Revision]:
        """The build's revisions, newest first. Raises NotFound."""
        return self._builds.revisions(build_id)

    def _structural(
        self, build_id: int, base: int, edits: Callable[[Build], list[Edit]], note: str, path: str
    ) -> Outcome:
        try:
            self._save(build_id, base, edits, note)
        except EditError as error:
            return Outcome(False, path, "", "; ".join(_plain(problem) for problem in error.problems))
        except Stale:
            return Outcome(False, path, "", "this was changed in another window meanwhile; look again and repeat")
        return Outcome(True, path)

    def _save(self, build_id: int, base: int, edits: Callable[[Build], list[Edit]], note: str) -> None:
        """Make edits on the current revision, unless another edit of the same place came since `base`."""
        for attempt in range(ATTEMPTS):
            stored = self._builds.current(build_id)
            build = parsed(stored.body)
            wanted = edits(build)
            if base != stored.number:
                before = parsed(self._builds.body_at(build_id, base))
                for path, _ in wanted:
                    if value_at(before, path) != value_at(build, path):
                        raise Stale(path, value_at(build, path))
            changed = apply(build, wanted)
            if changed == build:
                return
            try:
                self._builds.save(build_id, stored.number, build_file.write(changed), note)
                return
            except Conflict:
                if attempt + 1 == ATTEMPTS:
                    raise


def _plain(problem: Problem) -> str:
    if "at least 1 item" in problem.message:
        return "the last one cannot be removed"
    if "at most" in problem.message and "item" in problem.message:
        return "there is no room for more"
    return problem.message
