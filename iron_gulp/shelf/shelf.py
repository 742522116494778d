"""Loading and looking up shelf parts. To add a part, add it to `data/parts.json`; it is validated on loading."""

import json
from functools import lru_cache
from importlib import resources

from pydantic import TypeAdapter

from iron_gulp.core.catalogue import Catalogue
from iron_gulp.core.parts import FilterPart, InjectorPart, LinePart, Part, PumpPart, RegulatorPart

KINDS: dict[str, type[Part]] = {
    "pumps": PumpPart,
    "injectors": InjectorPart,
    "lines": LinePart,
    "regulators": RegulatorPart,
    "filters": FilterPart,
}


class Shelf:
    """All shelf parts by kind."""

    def __init__(self, catalogue: Catalogue):
        self.catalogue = catalogue

    def parts(self, kind: str) -> tuple[Part, ...]:
        """Parts of a kind (`pumps`, `injectors`, `lines`, `regulators`, `filters`). Raises KeyError for another kind."""
        if kind not in KINDS:
            raise KeyError(f"the shelf holds no {kind}")
        found: tuple[Part, ...] = getattr(self.catalogue, kind)
        return found

    def with_own(self, own: list[tuple[str, Part]]) -> "Shelf":
        """This shelf with one's own parts (kind, part) behind the generic ones."""
        extra = {kind: (*self.parts(kind), *(part for one_kind, part in own if one_kind == kind)) for kind in KINDS}
        return Shelf(Catalogue(**extra))  # type: ignore[arg-type]

    def part(self, kind: str, shelf_id: str) -> Part:
        """One part. Raises KeyError when the shelf does not hold it."""
        for part in self.parts(kind):
            if part.shelf_id == shelf_id:
                return part
        raise KeyError(f"the shelf holds no part {shelf_id!r} among {kind}")


@lru_cache(maxsize=1)
def load_shelf() -> Shelf:
    """The shelf that ships with the application. Raises ValidationError if its data are wrong."""
    text = resources.files(__package__).joinpath("data/parts.json").read_text(encoding="utf-8")
    data = json.loads(text)
    parts = {kind: TypeAdapter(tuple[model, ...]).validate_python(data[kind]) for kind, model in KINDS.items()}  # type: ignore[valid-type]
    return Shelf(Catalogue(**parts))
