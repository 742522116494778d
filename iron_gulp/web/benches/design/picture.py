"""The front: cost against headroom, complexity as the size of the mark, what stands today beside it."""

from collections.abc import Sequence

from markupsafe import Markup

from iron_gulp.core.plan import Design

from ...parts.sketch import Scale, Sketch

WIDTH, HEIGHT, LEFT, RIGHT, TOP, BOTTOM = 680.0, 330.0, 64.0, 650.0, 16.0, 276.0
LEAST_R, POINTS_A_R = 5.0, 3.0


def front_picture(front: Sequence[Design], wanted_pct: float, currency: str) -> Markup:
    """Each design a circle with its number, the larger the more complex; the headroom wanted as a line."""
    costs = [one.score.cost for one in front]
    heads = [one.score.headroom_pct for one in front]
    room = max(0.15 * (max(costs) - min(costs)), 0.05 * max(costs), 50.0)
    across = Scale(max(min(costs) - room, 0.0), max(costs) + room, LEFT, RIGHT)
    up = Scale(0.0, max(max(heads) * 1.2, wanted_pct * 1.5, 10.0), BOTTOM, TOP)
    told = "; ".join(f"{n}: {one.score.cost} {currency}, {one.score.headroom_pct} %" for n, one in enumerate(front, 1))
    sketch = Sketch(WIDTH, HEIGHT, f"Cost against headroom, number, cost and headroom of each design: {told}")
    sketch.upwards(up, LEFT, RIGHT, "% left")
    sketch.across(across, TOP, BOTTOM, currency)
    sketch.line(LEFT, up.at(wanted_pct), RIGHT, up.at(wanted_pct), "limit")
    sketch.text(RIGHT, up.at(wanted_pct) + 14, "headroom wanted", "s-small", "end")
    least = min(one.score.complexity for one in front)
    for number, one in enumerate(front, start=1):
        x, y = across.at(one.score.cost), up.at(one.score.headroom_pct)
        radius = LEAST_R + (one.score.complexity - least) / POINTS_A_R
        sketch.circle(x, y, radius, "ink")
        sketch.text(x, y - radius - 5, str(number), "s-strong", "middle")
    sketch.text(LEFT, HEIGHT - 14, "Each circle is a system nothing beats: the larger, the more complex.", "s-small")
    return sketch.svg("front")
