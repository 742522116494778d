"""A part whose data were typed over is no longer what the shelf calls by its name: it gets a name that says so."""

from collections.abc import Iterable
from typing import Any

from iron_gulp.core.model import Build, Edit, EditError, Part, held_at, shelf_kind
from iron_gulp.shelf import Shelf
from iron_gulp.units import BenchUnits, show

from .fields import BadValue, model_at

NO_DATA = ("shelf_id", "name", "provenance", "price", "fit_h", "supplier", "lead_days")
UNITS = BenchUnits()
LONGEST, ENDS = 80, " entered"


def own_names(build: Build, paths: Iterable[str], shelf: Shelf) -> list[Edit]:
    """Edits that name the parts in which something at `paths` was set; none where a name says it already or is typed."""
    places = dict.fromkeys(place for path in paths if (place := _part_above(path)) is not None)
    found: list[Edit] = []
    for place in places:
        try:
            part = held_at(build, place)
            of_shelf = shelf.part(shelf_kind(type(part)), part.shelf_id) if part.shelf_id else None
        except (EditError, KeyError, StopIteration, AttributeError):
            continue  # gone with the edit, or a part of one's own that is no longer on the shelf
        if of_shelf is None or (part.name != of_shelf.name and not part.name.endswith(ENDS)):
            continue
        name = _name(part, of_shelf)
        if name != part.name:
            found.append((f"{place}/name", name))
    return found


def _part_above(path: str) -> str | None:
    """The part that a path of one of its data lies in."""
    steps = path.split("/")
    for end in range(len(steps) - 1, 1, -1):
        place = "/".join(steps[:end])
        try:
            model = model_at(place)
        except BadValue:
            continue
        if isinstance(model, type) and issubclass(model, Part):
            return None if steps[end] in NO_DATA else place
    return None


def _name(part: Any, of_shelf: Any) -> str:
    told = [
        _told(name, getattr(part, name))
        for name in type(of_shelf).model_fields
        if name not in NO_DATA and getattr(part, name) != getattr(of_shelf, name) and not _unsaid(part, name)
    ]
    if not told:
        return str(of_shelf.name)
    more = "" if len(told) == 1 else f" and {told[1]}" if len(told) == 2 else f" and {len(told) - 1} more"
    says = f" with {told[0][:40]}{more}"
    says = f"{says[: LONGEST - len(ENDS) - 16]}{ENDS}"
    room = LONGEST - len(says)
    start = of_shelf.name if len(of_shelf.name) <= room else f"{of_shelf.name[: room - 1]}…"
    return f"{start}{says}"


def _unsaid(part: Any, name: str) -> bool:
    """Whether a part says nothing of it: older than what the shelf says now, not typed over."""
    return getattr(part, name) is None and type(part).when_empty.get(name) == "not said"


def _told(name: str, value: Any) -> str:
    """A value as a name can say it: a number in the units that names of the shelf are in, else what it is."""
    if isinstance(value, bool) or not isinstance(value, int | float):
        return name.replace("_", " ") if not isinstance(value, str) or not value else value
    number, unit = show(float(value), name, UNITS)
    return f"{number} {unit}".strip()
