"""Draws docs/architecture.svg from the imports: rooms as boxes, one row a floor, arrows for what imports what."""

from collections import Counter
from html import escape
from pathlib import Path

import grimp

ROOT = Path(__file__).parents[1]
FLOORS = (
    ("cli", "web"),
    ("services",),
    ("storage", "formats"),
    ("shelf", "units"),
    ("core.account", "core.advise"),
    ("core.study",),
    ("core.judge",),
    ("core.solve",),
    ("core.model",),
    ("core.physics",),
)
WIDE, HIGH, GAP, LEFT, TOP = 190, 44, 78, 60, 30


def room_of(module: str) -> str | None:
    """The room a module lives in."""
    name = module.removeprefix("iron_gulp.")
    return next((room for floor in FLOORS for room in floor if name == room or name.startswith(room + ".")), None)


def arrows() -> Counter[tuple[str, str]]:
    """How many imports go from room to room."""
    graph, found = grimp.build_graph("iron_gulp"), Counter()
    for module in graph.modules:
        for other in graph.find_modules_directly_imported_by(module):
            one, two = room_of(module), room_of(other)
            if one and two and one != two:
                found[one, two] += 1
    return found


def drawing() -> str:
    """The picture as SVG text."""
    graph, at, parts = grimp.build_graph("iron_gulp"), {}, []
    sizes = Counter(room_of(module) for module in graph.modules)
    for row, floor in enumerate(FLOORS):
        for column, room in enumerate(floor):
            at[room] = (LEFT + 150 + column * (WIDE + 130) + (0 if len(floor) > 1 else 160), TOP + row * GAP, row)
    for (one, two), count in sorted(arrows().items()):
        (x, y, row), (u, v, other) = at[one], at[two]
        x, u, y = x + WIDE / 2, u + WIDE / 2, y + HIGH
        bow = 0 if other - row == 1 else (150 + 26 * (other - row)) * (1 if x >= u and x > 400 else -1)
        weight = 0.7 + min(count, 40) / 16
        curve = f"M{x:.0f} {y}C{x + bow:.0f} {y + 34} {u + bow:.0f} {v - 34} {u:.0f} {v}"
        parts.append(
            f'<path d="{curve}" stroke-width="{weight:.1f}"><title>{one} uses {two}: {count} imports</title></path>'
        )
    for room, (x, y, _) in at.items():
        parts.append(
            f'<g class="{"core" if room.startswith("core.") else "out"}"><rect x="{x}" y="{y}" width="{WIDE}" height="{HIGH}" rx="6"/>'
        )
        parts.append(f'<text x="{x + 12}" y="{y + 19}" class="n">{escape(room)}</text>')
        parts.append(f'<text x="{x + 12}" y="{y + 35}">{sizes[room]} modules</text></g>')
    high = TOP + len(FLOORS) * GAP
    style = (
        "path{fill:none;stroke:#8a9499;marker-end:url(#a)}rect{fill:#fff;stroke:#4a5a63}.core rect{fill:#f6e7db;stroke:#b4530e}"
        "text{font:11px sans-serif;fill:#333}.n{font-weight:600;font-size:14px}"
    )
    head = '<defs><marker id="a" viewBox="0 0 8 8" refX="7" refY="4" markerWidth="7" markerHeight="7" markerUnits="userSpaceOnUse" orient="auto"><path d="M0 0L8 4L0 8z" style="fill:#8a9499;stroke:none"/></marker></defs>'
    return (
        f'<svg xmlns="http://www.w3.org/2000/svg" viewBox="0 0 1000 {high}" role="img" aria-label="Rooms and their imports">'
        f"<style>{style}</style>{head}{''.join(parts)}</svg>\n"
    )


if __name__ == "__main__":
    (ROOT / "docs/architecture.svg").write_text(drawing(), encoding="utf-8")
