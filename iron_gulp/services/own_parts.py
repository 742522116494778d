"""The shelf with one's own parts: adding, importing, removing, exporting, and the flow-bottle test."""

from iron_gulp.core.model import Part, PumpPart
from iron_gulp.core.study import BottleTest, Reading, bottle_test
from iron_gulp.formats.parts_csv import part_of, read_parts, write_parts
from iron_gulp.shelf import KINDS, Shelf
from iron_gulp.storage import PartRepository

from .judging import ShelfHolder

OWN = "own-"


def is_own(part: Part) -> bool:
    """Whether a part of the shelf is one's own."""
    return str(part.shelf_id).startswith(OWN)


class OwnParts(ShelfHolder):
    """Own parts behind the generic shelf. The shelf is a new object after every change, so judgements follow it."""

    def __init__(self, parts: PartRepository, generic: Shelf):
        self._parts, self._generic = parts, generic
        self.shelf = self._load()

    def _load(self) -> Shelf:
        own = []
        for part_id, kind, body in self._parts.all():
            part = KINDS[kind].model_validate_json(body)
            own.append((kind, part.model_copy(update={"shelf_id": f"{OWN}{part_id}"})))
        return self._generic.with_own(own)

    def add(self, kind: str, row: dict[str, str]) -> str:
        """Add a part from texts by column; returns its shelf id. Raises PartsFileError, KeyError for another kind."""
        return self._store(kind, [part_of(_known(kind), row)])[0]

    def import_csv(self, kind: str, content: bytes) -> int:
        """Add every part of a CSV file; returns how many. Raises PartsFileError with every faulty row."""
        return len(self._store(kind, read_parts(_known(kind), content)))

    def own(self, kind: str, text: str = "") -> list[Part]:
        """One's own parts of a kind that answer to a search. Raises KeyError for another kind."""
        return [part for part in self.shelf.search(kind, text) if is_own(part)]

    def remove(self, shelf_ids: list[str]) -> list[str]:
        """Take parts of one's own off the shelf; builds keep their copies. Gives those that were taken."""
        return self._set(shelf_ids, removed=True)

    def put_back(self, kind: str, shelf_ids: list[str]) -> list[str]:
        """Put parts taken off the shelf back on it; gives those that came back. Raises KeyError for another kind."""
        _known(kind)
        return self._set(shelf_ids, removed=False)

    def _set(self, shelf_ids: list[str], removed: bool) -> list[str]:
        numbers = [one.removeprefix(OWN) for one in shelf_ids if one.startswith(OWN)]
        known = [int(one) for one in numbers if one.isascii() and one.isdecimal() and len(one) < 16]
        changed = self._parts.set_removed(known, removed)
        self.shelf = self._load()
        return [f"{OWN}{number}" for number in changed]

    def export_csv(self, kind: str) -> str:
        """Every part of a kind as CSV."""
        return write_parts(_known(kind), list(self.shelf.parts(kind)))

    def bottle(self, readings: list[Reading], claim_id: str | None) -> BottleTest:
        """The flow-bottle test against a shelf pump. Raises ValueError for readings that make no table."""
        claim = self.shelf.part("pumps", claim_id) if claim_id else None
        assert claim is None or isinstance(claim, PumpPart)
        return bottle_test(readings, claim)

    def keep_bottle(self, test: BottleTest, name: str) -> str:
        """Put a measured pump on the shelf; returns its shelf id."""
        part = PumpPart(name=name, provenance="measured, flow bottle", curves=(test.curve,))
        return self._store("pumps", [part])[0]

    def _store(self, kind: str, parts: list[Part]) -> list[str]:
        bodies = [part.model_copy(update={"shelf_id": None}).model_dump_json() for part in parts]
        ids = self._parts.add(kind, bodies)
        self.shelf = self._load()
        return [f"{OWN}{part_id}" for part_id in ids]


def _known(kind: str) -> str:
    if kind not in KINDS:
        raise KeyError(f"the shelf holds no {kind}")
    return kind
