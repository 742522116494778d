"""What adding and removing means: the edits that put a component, list entry or option in, or take it out."""

from typing import Any

from iron_gulp.core.model import BY_PATH, Build, Edit, EditError, Problem, dump, value_at
from iron_gulp.shelf import Shelf

from . import starter
from .evidence_start import added_pull, added_reading

_OF_THE_BUILD = {"measured": None}


def added(shelf: Shelf, build: Build, what: str, option_id: str | None, like: str | None) -> list[Edit]:
    """Edits that add something. Raises EditError for what cannot be added."""
    data = dump(build)
    if what in ("targets", "options"):
        items = data[what]
        source = next((item for item in items if item["id"] == like), items[-1])
        return [(what, [*items, starter.copy_of(source, what[0], items)])]
    if what == "fuels":
        return [(what, [*data[what], starter.base_fuel(data[what])])]
    if what == "fills":
        return [(what, [*data[what], starter.fill(build, data[what])])]
    if what.startswith("readings/"):
        return added_reading(build, what, option_id)
    if what == "pulls":
        return added_pull(build)
    if what in _OF_THE_BUILD:
        return [(what, starter.measured_run().model_dump(mode="json"))]
    option = next((item for item in data["options"] if item["id"] == option_id), None)
    if option is None:
        raise EditError([Problem(what, "there is no such option")])
    edits = starter.added_to_option(shelf, option, what)
    return [(f"options/{option['id']}/{place}", value) for place, value in edits]


def removed(build: Build, path: str) -> list[Edit]:
    """Edits that remove what is at a path. Raises EditError for what must stay."""
    holder, _, last = path.rpartition("/")
    steps = path.split("/")
    if path in _OF_THE_BUILD:
        return [(path, None)]
    if steps[0] == "options" and len(steps) > 2:
        place = "/".join(steps[2:])
        option = value_at(build, "/".join(steps[:2]))
        edits = starter.removed_from_option(option, place)
        if edits is None and (kind := BY_PATH.get(place)) is not None and kind.added and not kind.several:
            edits = [(place, None)]
        if edits is not None:
            return [(f"{steps[0]}/{steps[1]}/{tail}", value) for tail, value in edits]
    items: Any = value_at(build, holder) if holder else None
    if holder.endswith("/part/curves") and isinstance(items, list) and last.isdecimal():
        return [(holder, [item for index, item in enumerate(items) if index != int(last)])]
    if not isinstance(items, list) or not all(isinstance(item, dict) and "id" in item for item in items):
        raise EditError([Problem(path, "this cannot be removed")])
    return [(holder, [item for item in items if item["id"] != last])]
