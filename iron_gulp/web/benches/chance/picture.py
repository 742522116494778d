"""Headroom as dots: each is five cars in a hundred, in the order of their load; those past the limit are squares."""

from markupsafe import Markup

from iron_gulp.core.model import LIMITS, ORDER, TITLES, Component
from iron_gulp.core.study import Chance

from ...parts.sketch import Scale, Sketch

WIDTH, LEFT, RIGHT, ROW, TOP = 640.0, 138.0, 556.0, 30.0, 10.0
DOTS = 20
MOST = 1.5  # loads past this stand at the edge
NEAR = 9.0  # dots closer than this stand above each other


def in_words(share: float) -> str:
    """A chance in cars, never as certainty."""
    if share >= 0.995:
        return "more than 99 of 100 cars"
    if share < 0.005:
        return "fewer than 1 of 100 cars"
    return f"{share * 100:.0f} of 100 cars"


def dots(chance: Chance) -> Markup:
    """Every component that limits, in the order of the path."""
    names = sorted((one for one in chance.loads if one in LIMITS), key=lambda one: ORDER[one])
    height = TOP + ROW * len(names) + 26
    told = "; ".join(f"{TITLES[one].lower()} {_holds(chance, one)} of 100" for one in names)
    sketch = Sketch(WIDTH, height, f"Load of each component in 20 cars like this: {told}")
    across = Scale(0.0, MOST * 100, LEFT, RIGHT)
    bottom = TOP + ROW * len(names)
    sketch.across(across, TOP, bottom, "% of its ceiling")
    sketch.line(across.at(100.0), TOP - 4, across.at(100.0), bottom, "limit")
    shares = [(number + 0.5) / DOTS for number in range(DOTS)]
    for number, name in enumerate(names):
        y = TOP + ROW * (number + 0.5)
        sketch.line(LEFT, y + 9, RIGHT, y + 9, "hair")
        sketch.text(LEFT - 8, y + 8, TITLES[name], "s-small", "end")
        stack, before = 0, -1e9
        for load in chance.quantiles(name, shares):
            x = across.at(min(load, MOST) * 100)
            stack = stack + 1 if x - before < NEAR / 3 and stack < 3 else 0
            before = x if stack == 0 else before
            level = y + 5 - stack * 6
            if load > 1.0:
                sketch.bar(x - 3, x + 3, level - 3, 6, "over")
            else:
                sketch.circle(x, level, 3.0, "dot")
        sketch.text(RIGHT + 10, y + 8, f"{_holds(chance, name)} of 100", "s-strong")
    return sketch.svg("chance-dots")


def _holds(chance: Chance, name: Component) -> str:
    share = float((chance.loads[name] <= 1.0).mean())
    return ">99" if share >= 0.995 else "<1" if share < 0.005 else f"{share * 100:.0f}"
