"""The parts list of a system as CSV."""

import csv
import io
from collections.abc import Iterable

from iron_gulp.core.account import Item

from .cells import neutral

HEADER = ("section", "place", "part", "size", "count", "length_m", "counted")


def write(items: Iterable[Item]) -> str:
    """The list as CSV text, lengths in metres; `counted` says whether the model or custom gives the number."""
    out = io.StringIO()
    writer = csv.writer(out, lineterminator="\n")
    writer.writerow(HEADER)
    for item in items:
        writer.writerow(
            (
                *(neutral(text) for text in (item.section, item.place, item.part, item.size)),
                "" if item.count is None else item.count,
                "" if item.length_m is None else f"{item.length_m:.2f}",
                "usual number" if item.usual else "from the model",
            )
        )
    return out.getvalue()
