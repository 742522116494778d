"""Pressures of an injector's two-way table of dead times: one more, one fewer."""

from typing import Any

from iron_gulp.core.model import EditError, Problem


def more_dead_times(option: dict[str, Any], place: str) -> list[tuple[str, Any]]:
    """Edits that add a pressure to an injector's dead times, 100 kPa above the last, starting from the first row."""
    part: Any = option
    for step in place.split("/"):
        part = part.get(step) if isinstance(part, dict) else None
    if not isinstance(part, dict) or "dead_more_kpa" not in part:
        raise EditError([Problem(place, "this has no dead times")])
    top = max([part["dead_time_at_kpa"], *part["dead_more_kpa"]])
    return [
        (f"{place}/dead_more_kpa", [*part["dead_more_kpa"], top + 100.0]),
        (f"{place}/dead_more_ms", [*part["dead_more_ms"], *part["dead_time_ms"]]),
        (f"{place}/dead_time_ms_per_100_kpa", 0.0),
    ]


def fewer_dead_times(option: dict[str, Any], place: str) -> list[tuple[str, Any]]:
    """Edits that take a further pressure with its dead times out of a table."""
    holder, _, number = place.rpartition("/dead_more_kpa/")
    part: Any = option
    for step in holder.split("/"):
        part = part.get(step) if isinstance(part, dict) else None
    kept = part.get("dead_more_kpa", []) if isinstance(part, dict) else []
    if not number.isdecimal() or int(number) >= len(kept):
        raise EditError([Problem(place, "there is no such pressure")])
    at, wide = int(number), len(part["dead_time_v"])
    times = part["dead_more_ms"]
    return [
        (f"{holder}/dead_more_kpa", [*kept[:at], *kept[at + 1 :]]),
        (f"{holder}/dead_more_ms", [*times[: wide * at], *times[wide * (at + 1) :]]),
    ]
