"""One engine cycle as a bar for each target, and the pulse at idle against the smallest that repeats."""

from collections.abc import Sequence

from markupsafe import Markup

from iron_gulp.core.judge import TargetVerdict
from iron_gulp.core.model import Build, InjectorSet
from iron_gulp.units import BenchUnits, show

from ...parts.sketch import Scale, Sketch

WIDTH, LEFT, RIGHT, ROW = 640.0, 132.0, 596.0, 30.0
PEAK, IDLE = 0, 1


def cycle_bars(
    build: Build, fitted: InjectorSet, verdicts: Sequence[TargetVerdict], chosen: str, units: BenchUnits
) -> Markup:
    """Dead time hatched, effective pulse solid, the limit a broken line; below, idle in milliseconds."""
    shares = [float(verdict.points.duty[PEAK]) * 100.0 for verdict in verdicts]
    finite = [one for one in shares if one < 1000.0]
    across = Scale(0.0, max([108.0, *(one * 1.04 for one in finite)]), LEFT, RIGHT)
    pulses = [(float(v.points.effective_ms[IDLE]), float(v.points.dead_ms[IDLE])) for v in verdicts]
    smallest = fitted.part.smallest_pulse_ms
    longest = max([smallest * 1.6 + max(d for _, d in pulses), *(e + d for e, d in pulses)])
    milli = Scale(0.0, longest, LEFT, RIGHT - 66)
    height = 34.0 + ROW * len(verdicts) + 46.0 + ROW * len(verdicts) + 18.0
    sketch = Sketch(WIDTH, height, _words(verdicts, shares, pulses))
    sketch.text(4, 13, "One cycle at the peak", "s-strong")
    base = 24.0
    end = base + ROW * len(verdicts)
    sketch.across(across, base, end, "% of the cycle")
    for number, (verdict, share) in enumerate(zip(verdicts, shares, strict=True)):
        y = base + number * ROW + 6
        _name(sketch, y, verdict, chosen)
        dead = float(verdict.points.dead_ms[PEAK]) * fitted.squirts / (120_000.0 / verdict.target.rpm) * 100.0
        share = min(share, across.high)
        sketch.bar(across.at(0), across.at(100), y, 16, "open")
        sketch.bar(across.at(0), across.at(dead), y, 16, "hatch")
        sketch.bar(across.at(dead), across.at(share), y, 16, "over" if share > build.rules.duty_limit_pct else "fuel")
        words = " ".join(show(shares[number], "duty_pct", units)) if shares[number] < 1000 else "never closes"
        sketch.text(across.at(share) + 5, y + 12, words, "s-strong" if verdict.target.id == chosen else "")
    limit = across.at(build.rules.duty_limit_pct)
    sketch.line(limit, base - 4, limit, end, "limit")
    sketch.text(limit, base - 7, f"limit {build.rules.duty_limit_pct:g} %", "s-small", "middle")
    below = end + 46.0
    sketch.text(4, below - 10, "The pulse at idle", "s-strong")
    sketch.across(milli, below, below + ROW * len(verdicts), "ms")
    for number, (verdict, (effective, dead)) in enumerate(zip(verdicts, pulses, strict=True)):
        y = below + number * ROW + 6
        _name(sketch, y, verdict, chosen)
        if float(verdict.points.metered_kg_s[IDLE]) <= 0:
            sketch.text(milli.at(0) + 5, y + 12, "at rest, the direct side idles alone", "s-small")
            continue
        least = milli.at(dead + smallest)
        sketch.bar(milli.at(0), milli.at(dead), y, 16, "hatch")
        sketch.bar(milli.at(dead), milli.at(dead + effective), y, 16, "over" if effective < smallest else "fuel")
        sketch.line(least, y - 3, least, y + 19, "limit")
        ends = max(milli.at(dead + effective), least)
        pulse = " ".join(show(effective, "pulse_ms", units))
        sketch.text(ends + 5, y + 12, f"{pulse}, {smallest:g} ms at least", "s-small")
    return sketch.svg()


def _name(sketch: Sketch, y: float, verdict: TargetVerdict, chosen: str) -> None:
    name = verdict.target.name if len(verdict.target.name) < 20 else verdict.target.name[:18] + "…"
    sketch.text(LEFT - 8, y + 12, name, "s-strong" if verdict.target.id == chosen else "s-small", "end")


def _words(verdicts: Sequence[TargetVerdict], shares: list[float], pulses: list[tuple[float, float]]) -> str:
    told = (
        f"{verdict.target.name} {share:.0f} % of the cycle, idle {effective:.2f} ms"
        for verdict, share, (effective, _) in zip(verdicts, shares, pulses, strict=True)
    )
    return "Injector time: " + "; ".join(told)
