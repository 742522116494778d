"""Loading and looking up shelf parts. To add a part, add it to `data/parts.json`; it is validated on loading."""

from functools import lru_cache
from importlib import resources
from typing import TypeVar

from iron_gulp.core.model import (
    SHELF_KINDS,
    Catalogue,
    DirectInjectorPart,
    FilterPart,
    HighPumpPart,
    InjectorPart,
    LinePart,
    Model,
    Part,
    PortSetPart,
    PumpPart,
    RailPart,
    RegulatorPart,
    SensorPart,
)

AnyPart = TypeVar("AnyPart", bound=Part)
KINDS: dict[str, type[Part]] = SHELF_KINDS


class _ShelfFile(Model):
    """The data file: every kind with its parts."""

    pumps: tuple[PumpPart, ...]
    injectors: tuple[InjectorPart, ...]
    lines: tuple[LinePart, ...]
    regulators: tuple[RegulatorPart, ...]
    filters: tuple[FilterPart, ...]
    high_pumps: tuple[HighPumpPart, ...]
    direct_injectors: tuple[DirectInjectorPart, ...]
    rails: tuple[RailPart, ...]
    sensors: tuple[SensorPart, ...]
    port_sets: tuple[PortSetPart, ...]


class Shelf:
    """All shelf parts by kind."""

    def __init__(self, catalogue: Catalogue):
        self.catalogue = catalogue

    def parts(self, kind: str) -> tuple[Part, ...]:
        """Parts of a kind (`KINDS`). Raises KeyError for another kind."""
        if kind not in KINDS:
            raise KeyError(f"the shelf holds no {kind}")
        found: tuple[Part, ...] = getattr(self.catalogue, kind)
        return found

    def search(self, kind: str, text: str) -> list[Part]:
        """Parts of a kind whose name and source hold every word of a text. Raises KeyError for another kind."""
        words = text.lower().split()
        return [p for p in self.parts(kind) if all(word in f"{p.name} {p.provenance}".lower() for word in words)]

    def with_own(self, own: list[tuple[str, Part]]) -> "Shelf":
        """This shelf with one's own parts (kind, part) behind the generic ones."""

        def mine(model: type[AnyPart]) -> tuple[AnyPart, ...]:
            return tuple(part for _, part in own if isinstance(part, model))

        has = self.catalogue
        return Shelf(
            Catalogue(
                pumps=(*has.pumps, *mine(PumpPart)),
                injectors=(*has.injectors, *mine(InjectorPart)),
                lines=(*has.lines, *mine(LinePart)),
                regulators=(*has.regulators, *mine(RegulatorPart)),
                filters=(*has.filters, *mine(FilterPart)),
                high_pumps=(*has.high_pumps, *mine(HighPumpPart)),
                direct_injectors=(*has.direct_injectors, *mine(DirectInjectorPart)),
                rails=(*has.rails, *mine(RailPart)),
                sensors=(*has.sensors, *mine(SensorPart)),
                port_sets=(*has.port_sets, *mine(PortSetPart)),
            )
        )

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
    read = _ShelfFile.model_validate_json(text)
    return Shelf(Catalogue(**{kind: getattr(read, kind) for kind in KINDS}))
