"""A build's fuel path in small: stations as columns on a line, their load as height, the limit as a broken line."""

from collections.abc import Sequence
from typing import Any

from markupsafe import Markup

from ..parts.sketch import Scale, Sketch
from ..parts.stations import STATIONS

WIDTH, HEIGHT, BASE = 210.0, 46.0, 40.0
FULL = 1.25
KINDS = {"over": "over", "close": "hatch", "ok": "steel", "outside": "hatch"}


def small_path(path: Sequence[Any], first: str) -> Markup:
    """The picture of a stored verdict; nothing for builds that are still to be judged again."""
    if not path:
        return Markup("")
    up = Scale(0.0, FULL, BASE, 4.0)
    told = ", ".join(f"{STATIONS[key]} {'none left' if load is None else f'{load * 100:.0f} %'}" for key, load, _ in path)
    sketch = Sketch(WIDTH, HEIGHT, f"Loads along the path: {told}")
    width = WIDTH / len(path)
    sketch.line(0, BASE, WIDTH, BASE, "ink")
    sketch.line(0, up.at(1.0), WIDTH, up.at(1.0), "limit")
    for number, (key, load, status) in enumerate(path):
        top = up.at(FULL if load is None else load)
        x = number * width
        sketch.column(x + 0.2 * width, 0.6 * width, top, BASE, KINDS.get(status, "steel"))
        if key == first:
            sketch.path(
                [(x + 0.5 * width - 4, BASE + 6), (x + 0.5 * width, BASE + 1), (x + 0.5 * width + 4, BASE + 6)], "ink"
            )
    return sketch.svg("small-path")
