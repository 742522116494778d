"""Data of a file held against the lengths of its published schema, before anything is made of them.

Validation looks into every entry of a list, however long: a small file of empty entries would take minutes and gigabytes.
The bounds are those of the schema itself, so none is said twice.
"""

from collections.abc import Iterator
from functools import cache
from typing import Any

from iron_gulp.core.model import Build, Problem

DEEPEST = 24  # nesting of a build file; its own deepest is half of that
MOST_OPENED, MOST_PARTED = 50_000, 400_000  # brackets and commas of a text; a hundred times those of a large build
MOST_KEYS = 200  # of one object, known and unknown
MOST_TOLD = 100


@cache
def _schema() -> dict[str, Any]:
    found: dict[str, Any] = Build.model_json_schema(by_alias=True, mode="validation")
    return found


def too_long(data: Any) -> list[Problem]:
    """Lists longer than they may be, objects of too many keys and what is nested too deep; each at its path."""
    return list(_walk(data, [_schema()], "", 0))


def too_many(text: str) -> bool:
    """Whether a text that should be JSON opens more lists and objects, or parts more entries, than any build does.

    Counted before it is read: small empty objects take fifty times their text in memory.
    """
    return text.count("{") + text.count("[") > MOST_OPENED or text.count(",") > MOST_PARTED


def told(problems: list[Problem]) -> list[Problem]:
    """The first of many problems, and how many more there are."""
    left = len(problems) - MOST_TOLD
    return problems if left <= 0 else [*problems[:MOST_TOLD], Problem("", f"and {left} more problems")]


def _walk(value: Any, places: list[dict[str, Any]], path: str, depth: int) -> Iterator[Problem]:
    if depth > DEEPEST:
        yield Problem(path, "is nested too deep")
        return
    if isinstance(value, list):
        most = max((one["maxItems"] for one in places if "maxItems" in one), default=0)
        if len(value) > most:
            yield Problem(path, f"must have at most {most} entries" if most else "must not be a list")
            return
        inside = [each for one in places for each in _opened(one.get("items", {}))]
        if inside and all(one.get("type") == "number" for one in inside):
            wrong = sum(isinstance(each, bool) or not isinstance(each, int | float) for each in value)
            if wrong > MOST_TOLD:
                yield Problem(path, f"holds {wrong} entries that are no numbers")
            return
        for number, each in enumerate(value):
            yield from _walk(each, inside, f"{path}/{number}" if path else str(number), depth + 1)
    elif isinstance(value, dict):
        if len(value) > MOST_KEYS:
            yield Problem(path, f"must have at most {MOST_KEYS} fields")
            return
        for name, each in value.items():
            known = [one["properties"][name] for one in places if name in one.get("properties", {})]
            inside = [each_of for one in known for each_of in _opened(one)]
            if isinstance(each, list | dict) and not inside:
                continue  # no such field, or not of this shape: validation says so without looking into it
            yield from _walk(each, inside, f"{path}/{name}" if path else name, depth + 1)


def _opened(place: dict[str, Any]) -> list[dict[str, Any]]:
    """What may stand at a place of the schema, with references followed."""
    if "$ref" in place:
        return _opened(_schema()["$defs"][place["$ref"].rsplit("/", 1)[1]])
    several = [*place.get("anyOf", ()), *place.get("oneOf", ())]
    return [each for one in several for each in _opened(one)] if several else [place]
