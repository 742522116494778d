"""Evidence of a build: files kept beside the database."""

from collections.abc import Sequence
from typing import BinaryIO

from iron_gulp.core.model import Build, Edit, EditError, KeptFile, Problem, dump
from iron_gulp.storage.attachments import Attachments, Kept, NoTime, Refused, Stored

from .edits import Edits, Outcome
from .evidence_start import today
from .judging import Judging
from .starter import fresh_id


class _NotTaken(Exception):
    """The edit that names a file was refused; carries how it went."""

    def __init__(self, outcome: Outcome):
        super().__init__(outcome.message)
        self.outcome = outcome


class Evidence:
    """Files of builds: taken in, found again. A file is safe in the store before the build names it."""

    def __init__(self, judging: Judging, edits: Edits, attachments: Attachments):
        self._judging, self._edits, self._attachments = judging, edits, attachments

    def attach(self, build_id: int, base: int, source: bytes | BinaryIO, name: str, of: str) -> Outcome:
        """Keep a file with a build, beside one of its readings, pulls or fills; one that the build does not take is not
        kept. Raises NotFound, OSError."""
        self._judging.bench(build_id)
        try:
            with self._attachments.keeping(source, name) as kept:
                outcome = self._name(build_id, base, kept, of)
                if not outcome.ok:
                    raise _NotTaken(outcome)
                return outcome
        except _NotTaken as refused:
            return refused.outcome
        except (Refused, NoTime) as error:
            return Outcome(False, "files", name, str(error))

    def _name(self, build_id: int, base: int, kept: Kept, of: str) -> Outcome:
        def edits(build: Build) -> list[Edit]:
            rows = dump(build)["files"]
            if any(row["sha256"] == kept.sha256 and row["of"] == of for row in rows):
                raise EditError([Problem("files", "this very file is kept here already")])
            fresh = KeptFile(
                id=fresh_id("k", [row["id"] for row in rows]),
                sha256=kept.sha256,
                name=kept.name,
                kind=kept.kind,
                size_bytes=kept.size_bytes,
                of=of if of in owners(build) else "",
                day=today(),
            )
            return [("files", [*rows, fresh.model_dump(mode="json")])]

        return self._edits.change(build_id, base, edits, f"kept {kept.name}"[:120], "files")

    def find(self, files: Sequence[KeptFile], sha256: str, small: bool = False) -> Stored | None:
        """A file that a build names, or its thumbnail; None where the build does not name it or it is not here."""
        if all(one.sha256 != sha256 for one in files):
            return None
        return self._attachments.thumbnail(sha256) if small else self._attachments.find(sha256)


def owners(build: Build) -> list[str]:
    """Ids that a file may belong to."""
    return [one.id for several in (build.readings, build.pulls, build.fills) for one in several]
