"""Rules about settings that bring about the rest: a rising rate too steep, a slowest pump speed too high."""

from collections.abc import Iterator, Sequence

from ..judge import TargetVerdict
from ..model import Component, Edit
from ..solve import IDLE, PEAK
from .base import Context, Finding, Remedy, highest, names

# What a set pressure that runs away with boost, or a pump that turns too fast at idle, brings past its limit.
BROUGHT: tuple[Component, ...] = ("pumps", "regulator", "wiring", "suction", "injector idle", "filter", "lift")
RATIO_STEP = 0.25
SLOWER_BY_PCT, SLOWEST_PCT = 5.0, 5.0


def _past(context: Context, verdicts: Sequence[TargetVerdict]) -> set[Component]:
    """What too much pressure brings past its limit; the regulator too where injectors or it are asked for more."""
    found = {one for one in BROUGHT if highest(list(verdicts), one) > 1.0}
    top = max(float(one.points.hydraulics.rail_kpa.max()) for one in verdicts)
    across = max(float(one.points.hydraulics.differential_kpa[PEAK]) for one in verdicts)
    fitted = context.option.injectors
    opening = None if fitted is None else fitted.part.max_pressure_kpa
    if top > context.option.regulator.part.max_pressure_kpa or (opening is not None and across > opening):
        found.add("regulator")
    return found


def too_steep(context: Context) -> Iterator[Finding]:
    """A rising rate that asks for pressure the pumps cannot bring, or that nothing bears; one to one none of it is."""
    regulator, path = context.option.regulator, context.path("regulator/rising_ratio")
    if regulator.reference != "rising rate" or regulator.rising_ratio <= 1.0:
        return
    past = _past(context, context.verdicts)
    if not past:
        return
    even = ((path, 1.0),)
    judged = context.trial(even)
    if judged is None or _past(context, judged) >= past:
        return
    worst = max(context.verdicts, key=lambda one: one.target.boost_kpa)
    hyd = worst.points.hydraulics
    asked = regulator.base_kpa + regulator.rising_ratio * worst.target.boost_kpa
    idle = regulator.base_kpa + regulator.rising_ratio * context.build.engine.idle_manifold_kpa
    yield Finding(
        "rising-steep",
        "stop" if "pumps" in past else "warn",
        "regulator",
        "The rising rate is too steep",
        "At a ratio of {ratio} the rail is to stand at {set_kpa} on {target_name}, {across_kpa} above the manifold"
        + ("; at idle at {idle_kpa}" if idle > 0 else ", and at idle at no pressure at all")
        + "."
        + (" The pumps hold {rail_kpa}." if "pumps" in past else ""),
        "A ratio above one trades pump for injector: the pumps must make all of it, by their flow there, and the "
        "regulator must find its way down again in vacuum.",
        {
            "ratio": f"{regulator.rising_ratio:g}",
            "target_name": worst.target.name,
            "set_kpa": asked,
            "across_kpa": asked - worst.target.boost_kpa,
            "idle_kpa": max(idle, 0.0),
            "rail_kpa": float(hyd.rail_kpa[PEAK]),
        },
        names(context.verdicts),
        lambda: _less_steep(context),
    )


def _less_steep(context: Context) -> Iterator[Remedy]:
    """The steepest ratio, in quarters, that everything bears and that carries; else one to one."""
    path, now = context.path("regulator/rising_ratio"), context.option.regulator.rising_ratio
    ratios = [1.0 + RATIO_STEP * n for n in range(int((now - 1.0) / RATIO_STEP + 1e-9) + 1)]
    ratios = [one for one in ratios if one < now - 1e-9]
    tried: list[tuple[Edit, ...]] = [((path, one),) for one in ratios]
    judged = context.trials(tried)
    for needed in (True, False):
        for ratio, edits, verdicts in reversed(list(zip(ratios, tried, judged, strict=True))):
            carried = verdicts is not None and (highest(verdicts, "injectors") <= 1.0 or not needed)
            if verdicts is not None and carried and not _past(context, verdicts):
                label = "Let it rise by {ratio} to one" if ratio > 1.0 else "Let it follow the manifold one to one"
                yield Remedy(label, edits, {"ratio": f"{ratio:g}"})
                return
    yield Remedy("Let it follow the manifold one to one", ((path, 1.0),))


def too_fast_at_idle(context: Context) -> Iterator[Finding]:
    """A speed controller's slowest speed at which the pump brings more than idle burns: nothing lets it out."""
    regulator = context.option.regulator
    over = context.over("regulator") if regulator.arrangement.startswith("returnless") else []
    if not over:
        return
    hyd = over[0].points.hydraulics
    yield Finding(
        "slowest-high",
        "warn",
        "regulator",
        "The slowest pump speed is too high",
        "At {slowest_pct} of its speed, the slowest allowed, the pump holds the rail at {rail_kpa} at idle; it is set to "
        "{set_kpa}.",
        "Nothing lets the surplus out: idle runs at a pressure nobody chose, and injectors, hoses and fuse see it.",
        {
            "slowest_pct": regulator.slowest_pct,
            "rail_kpa": float(hyd.rail_kpa[IDLE]),
            "set_kpa": float(hyd.set_kpa[IDLE]),
        },
        names(over),
        lambda: _slower(context),
    )


def _slower(context: Context) -> Iterator[Remedy]:
    """The highest slowest speed, in steps, at which the set pressure holds at idle; else a way round for the surplus."""
    path, now = context.path("regulator/slowest_pct"), context.option.regulator.slowest_pct
    speeds = [now - SLOWER_BY_PCT * n for n in range(1, 20) if now - SLOWER_BY_PCT * n >= SLOWEST_PCT]
    tried: list[tuple[Edit, ...]] = [((path, one),) for one in speeds]
    for speed, edits, verdicts in zip(speeds, tried, context.trials(tried), strict=True):
        if verdicts and highest(verdicts, "regulator") <= 1.0:
            yield Remedy(
                "Allow the pumps to turn as slowly as {slowest_pct}, where their maker does",
                edits,
                {"slowest_pct": speed},
            )
            break
    yield Remedy("Or a small fixed bleed back to the tank, as the maker of the controller shows it")


RULES = (too_steep, too_fast_at_idle)
