"""How far two snapshots are apart, leaf by leaf."""

import math
from collections.abc import Iterator
from typing import Any


def departures(before: Any, after: Any, relative: float, path: str = "") -> Iterator[tuple[str, Any, Any]]:
    """Leaves that differ: other text or shape, or numbers further apart than `relative` (1e-5 for residues).

    What there was not before has not moved.
    """
    if isinstance(before, dict) and isinstance(after, dict):
        for key in sorted(before):
            yield from departures(before.get(key), after.get(key), relative, f"{path}/{key}")
    elif isinstance(before, list) and isinstance(after, list) and len(before) == len(after):
        for index, (one, other) in enumerate(zip(before, after, strict=True)):
            yield from departures(one, other, relative, f"{path}/{index}")
    elif isinstance(before, float | int) and isinstance(after, float | int):
        if not math.isclose(before, after, rel_tol=relative, abs_tol=1e-5):
            yield path, before, after
    elif before != after:
        yield path, before, after
