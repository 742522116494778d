"""Small multiples: each option a row, each target a column with its loads along the path, the first out named."""

from collections.abc import Sequence

from markupsafe import Markup

from iron_gulp.core.judge import TargetVerdict
from iron_gulp.core.model import LIMITS
from iron_gulp.services.comparing import Compared

from ...parts.sketch import Sketch

LEFT, ROW, HEAD, BAR_ROOM, HIGH = 168.0, 62.0, 30.0, 14.0, 34.0
MOST = 1.4  # loads past this end at the top


def multiples(options: Sequence[Compared]) -> Markup:
    """A bar a component on every target of every option; the limit a line."""
    targets = [one.target.name for one in options[0].verdicts]
    wide = max(sum(load.component in LIMITS for load in one.verdicts[0].loads) for one in options) * BAR_ROOM + 34.0
    width = LEFT + wide * len(targets) + 8.0
    told = "; ".join(
        f"{one.option.name}: "
        + ", ".join(f"{v.target.name} {v.first_out.title} {_percent(v.first_out.load)}" for v in one.verdicts)
        for one in options
    )
    sketch = Sketch(width, HEAD + ROW * len(options) + 6, told)
    for at, name in enumerate(targets):
        sketch.text(LEFT + wide * at, 16, name, "s-strong")
    for number, one in enumerate(options):
        base = HEAD + ROW * number + HIGH + 8
        sketch.text(0, base - 14, one.option.name[:26], "s-strong")
        sketch.text(0, base + 2, "fitted today" if one.today else _left(one.headroom), "s-small")
        for at, verdict in enumerate(one.verdicts):
            x = LEFT + wide * at
            limit = base - HIGH / MOST
            for place, load in enumerate(each for each in verdict.loads if each.component in LIMITS):
                top = base - min(load.load, MOST) / MOST * HIGH
                kind = "over" if load.load > 1.0 else "fuel" if load is verdict.first_out else "steel"
                sketch.bar(x + place * BAR_ROOM, x + place * BAR_ROOM + 9, top, base - top, kind)
            sketch.line(x - 3, limit, x + wide - 34, limit, "limit")
            first = verdict.first_out
            sketch.text(x, base + 13, f"{first.title.lower()} {_percent(first.load)}", "s-small")
    return sketch.svg("multiples")


def _left(headroom: float) -> str:
    percent = f"{abs(headroom) * 100:.0f} %"
    return f"{percent} left at least" if headroom >= 0 else f"{percent} short at worst"


def _first(verdict: TargetVerdict) -> str:
    first = verdict.first_out
    return f"{verdict.target.name} {first.title.lower()} {_percent(first.load)}"


def _percent(load: float) -> str:
    return f"{load * 100:.0f} %" if load < 100 else "none left"
