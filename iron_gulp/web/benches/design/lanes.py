"""The road as lanes: each part a bar over its steps: outlined if it was there, filled if bought, a cross at its end."""

from collections.abc import Sequence

from markupsafe import Markup

from iron_gulp.core.plan import Lane

from ...parts.sketch import Sketch

WIDTH, LEFT, HEAD, ROW, BAR = 880.0, 128.0, 40.0, 25.0, 19.0
LETTER = 6.1  # width of one, about


def lanes_picture(found: Sequence[Lane], heads: Sequence[tuple[str, str]]) -> Markup:
    """Lanes over columns; `heads` are (title, what it costs) of each."""
    wide = (WIDTH - LEFT) / len(heads)
    rows = _rows(found)
    told = "; ".join(f"{one.what}: {_named(one)}, {_when(one, heads)}" for one in found)
    sketch = Sketch(WIDTH, HEAD + ROW * len(rows) + 6, f"Parts over the road. {told}")
    for at, (title, cost) in enumerate(heads):
        x = LEFT + wide * at
        sketch.line(x, 6, x, HEAD + ROW * len(rows), "hair")
        sketch.text(x + 6, 16, _cut(title, wide), "s-strong")
        sketch.text(x + 6, 32, cost, "s-small")
    before = ""
    for number, row in enumerate(rows):
        y = HEAD + ROW * number
        if row[0].what != before:
            sketch.text(0, y + 14, row[0].what.capitalize(), "s-small")
            before = row[0].what
        for one in row:
            x1, x2 = LEFT + wide * one.first + 3, LEFT + wide * one.last - (16 if one.thrown else 3)
            sketch.bar(x1, x2, y + 2, BAR, "open" if one.had else "level-1")
            sketch.text(x1 + 5, y + 15, _cut(_named(one), x2 - x1 - 6))
            if one.thrown:
                x = LEFT + wide * one.last - 8
                sketch.line(x - 4, y + 7, x + 4, y + 15, "wrong")
                sketch.line(x - 4, y + 15, x + 4, y + 7, "wrong")
    return sketch.svg("lanes")


def _rows(found: Sequence[Lane]) -> list[list[Lane]]:
    """Lanes put on as few rows as there are parts of a kind at once."""
    rows: list[list[Lane]] = []
    for one in found:
        free = next((row for row in rows if row[-1].what == one.what and row[-1].last <= one.first), None)
        if free is None:
            rows.append([one])
        else:
            free.append(one)
    return rows


def _named(one: Lane) -> str:
    return one.part if one.count == 1 else f"{one.count} × {one.part}"


def _when(one: Lane, heads: Sequence[tuple[str, str]]) -> str:
    said = "fitted" if one.had else f"bought for {heads[one.first][0]}"
    return f"{said}, of no use from {heads[one.last][0]}" if one.thrown else said


def _cut(words: str, room: float) -> str:
    most = max(int(room / LETTER), 4)
    return words if len(words) <= most else f"{words[: most - 1]}…"
