"""The garage: builds listed, made, copied, put away, read in and stepped through."""

from collections.abc import Callable, Mapping
from dataclasses import dataclass
from importlib import resources
from typing import BinaryIO

from iron_gulp.core.model import Build
from iron_gulp.formats import build_file
from iron_gulp.storage import BuildRepository
from iron_gulp.storage.repository import Page, Revision

from . import starter
from .judging import ShelfHolder, parsed, written

PAGE_SIZE = 50


@dataclass(frozen=True)
class Revisions:
    """A page of a build's revisions, how many there are in all, and which page it is."""

    rows: list[Revision]
    total: int
    at: int


DEMO_ORDER = ("saltern", "fieldfare", "curlew", "dunlin")  # the last stands first in the garage


class Garage:
    """Builds as a list and as whole files."""

    def __init__(self, builds: BuildRepository, shelf_of: ShelfHolder):
        self._builds, self._shelf_of = builds, shelf_of

    def page(self, text: str = "", sort: str = "touched", archived: bool = False, page: int = 1) -> Page:
        """A page of builds with the verdicts stored with them."""
        return self._builds.page(text.strip(), sort, archived, (max(page, 1) - 1) * PAGE_SIZE, PAGE_SIZE)

    def create(self, wires: str = "mm²") -> int:
        """A new build to start from, with wire sold by mm² or AWG; returns its id."""
        return self._builds.create(written(starter.new_build(self._shelf_of.shelf, wires=wires)), "new build")

    def add(self, build: Build, note: str) -> int:
        """Store a build made elsewhere; returns its id."""
        return self._builds.create(written(build), note)

    def duplicate(self, build_id: int) -> int:
        """A copy of a build under a new name; returns its id. Raises NotFound."""
        build = parsed(self._builds.current(build_id).body)
        copied = build.model_copy(update={"name": f"{build.name[:70]}, copy"})
        return self._builds.create(written(copied), f"copy of {build.name}")

    def set_archived(self, build_id: int, archived: bool) -> None:
        """Put away or take out. Raises NotFound."""
        self._builds.set_archived(build_id, archived)

    def import_build(self, content: bytes | str) -> int:
        """Store a build file; returns the new build's id. Raises BuildFileError."""
        return self._builds.create(written(build_file.read(content)), "imported from a build file")

    def import_file(self, file: BinaryIO) -> int:
        """Store a build file, read no further than one may be long. Raises BuildFileError."""
        return self.import_build(file.read(build_file.LARGEST_BYTES + 1))

    def load_demo(self, beside: Callable[[Mapping[str, int]], Mapping[str, str]] = lambda _: {}) -> int:
        """Store the demo builds when the garage is empty, and what `beside` says of their ids by name as settings, all of
        it or nothing; returns how many builds."""
        files = sorted(
            (file for file in resources.files("iron_gulp.demo").iterdir() if file.name.endswith(".json")),
            key=lambda file: DEMO_ORDER.index(file.name.removesuffix(".json")),
        )
        bodies = [written(build_file.read(file.read_text(encoding="utf-8"))) for file in files]
        names = [file.name.removesuffix(".json") for file in files]
        return self._builds.furnish(
            bodies, "imported from a build file", lambda ids: beside(dict(zip(names, ids, strict=True)))
        )

    def undo(self, build_id: int, base: int | None = None) -> bool:
        """Step back one revision, from revision `base` where given. Raises NotFound, Conflict."""
        return self._builds.undo(build_id, base)

    def redo(self, build_id: int, base: int | None = None) -> bool:
        """Step forward one revision, from revision `base` where given. Raises NotFound, Conflict."""
        return self._builds.redo(build_id, base)

    def restore(self, build_id: int, number: int) -> None:
        """Bring an old revision back as a new one. Raises NotFound."""
        self._builds.restore(build_id, number)

    def revisions(self, build_id: int, page: int = 1) -> Revisions:
        """A page of the build's revisions, newest first. Raises NotFound."""
        at = max(page, 1)
        return Revisions(*self._builds.revisions(build_id, (at - 1) * PAGE_SIZE, PAGE_SIZE), at)
