"""The front: cost against headroom, complexity as the size of the mark, what stands today beside it."""

from collections.abc import Sequence

from markupsafe import Markup

from iron_gulp.core.plan import Design

from ...parts.sketch import Scale, Sketch

WIDTH, HEIGHT, LEFT, RIGHT, TOP, BOTTOM = 680.0, 330.0, 64.0, 650.0, 16.0, 276.0
LEAST_R, POINTS_A_R, LETTER = 5.0, 3.0, 7.0
Circle = tuple[float, float, float]


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
    circles = [
        (across.at(one.score.cost), up.at(one.score.headroom_pct), LEAST_R + (one.score.complexity - least) / POINTS_A_R)
        for one in front
    ]
    taken = list(circles)
    for number, (x, y, radius) in enumerate(circles, start=1):
        sketch.circle(x, y, radius, "ink")
        at = next(
            (one for one in _beside(x, y, radius) if not _hits(one, taken, (x, y, radius))), (x, y - radius - LETTER)
        )
        taken.append((*at, LETTER))
        sketch.text(at[0], at[1] + LETTER / 2, str(number), "s-strong", "middle")
    sketch.text(LEFT, HEIGHT - 14, "Each circle is a system nothing beats: the larger, the more complex.", "s-small")
    return sketch.svg("front")


def _beside(x: float, y: float, radius: float) -> list[tuple[float, float]]:
    """Places for a number around a circle: above, left, right, below, then further off."""
    near, far = radius + LETTER + 1.0, radius + 3.0 * LETTER
    return [(x, y - near), (x - near, y), (x + near, y), (x, y + near), (x, y - far), (x, y + far), (x + far, y)]


def _hits(at: tuple[float, float], taken: Sequence[Circle], own: Circle) -> bool:
    """Whether a number would lie on another circle or number."""
    others = (one for one in taken if one != own)
    return any((at[0] - x) ** 2 + (at[1] - y) ** 2 < (radius + LETTER - 1.0) ** 2 for x, y, radius in others)
