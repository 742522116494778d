"""A sizing in words: what was assumed, cautions, and why an ask cannot be met, with values in bench units."""

import json
from collections.abc import Sequence

from iron_gulp.core.advise import find_troubles
from iron_gulp.core.judge import Load, judge_all
from iron_gulp.core.model import Assumed, Build, Catalogue, Rates, value_at
from iron_gulp.core.plan import Design, Reason, money, nearest_words
from iron_gulp.units import BenchUnits, show, show_text

MOST_WORDS, MOST_WAS = 400, 80


def over_budget(design: Design, budget: float, rates: Rates) -> str:
    """What the budget leaves: nothing that carries, and what the cheapest that does costs."""
    return (
        f"Nothing within {money(budget, rates)} carries every target with the headroom wanted: the cheapest that does "
        f"costs {money(design.bill.total, rates)}, parts, labour and calibration together."
    )


def noted(guesses: Sequence[Reason], units: BenchUnits) -> str:
    """The cautions of what was asked for, as the build's notes; nothing without any."""
    cautions = [f"– {in_words(one, units)}" for one in guesses if one.caution]
    return "\n".join(("Take care:", *cautions)) if cautions else ""


def taken_for_granted(build: Build, guesses: Sequence[Reason], units: BenchUnits) -> tuple[Assumed, ...]:
    """What was assumed, each with the field that changes it and its value now."""
    found = []
    for one in guesses:
        if not one.caution:
            was = "" if not one.path else json.dumps(value_at(build, one.path))[:MOST_WAS]
            found.append(Assumed(words=in_words(one, units)[:MOST_WORDS], field=one.path, was=was))
    return tuple(found)


def in_words(reason: Reason, units: BenchUnits) -> str:
    """A reason with its values in bench units."""
    return reason.text.format(**{name: in_units(value, name, units) for name, value in reason.values.items()})


def in_units(value: float | str, name: str, units: BenchUnits) -> str:
    """A value of an account in bench units; words stay."""
    if isinstance(value, str):
        return value
    number, unit = show(value, name, units)
    return f"{number}\u00a0{unit}"


def out_of_air(build: Build, design: Design, units: BenchUnits) -> tuple[str, ...]:
    """That the air does not make the power, though the fuel is there; nothing where it does."""
    worst = max(design.verdicts, key=lambda one: one.load("engine").load)
    if worst.load("engine").status != "over":  # within what engines differ by it is there
        return ()
    makes = in_units(worst.demand.air_limited_power_kw, "power_kw", units)
    asked = in_units(worst.target.power_kw, "power_kw", units)
    return (
        f"The fuel is there, the air is not: on {worst.target.name} the engine breathes for about {makes} of the {asked} "
        "asked, at this boost and speed. More boost, more speed or a larger engine first.",
    )


def cannot(build: Build, nearest: Design, catalogue: Catalogue, units: BenchUnits) -> list[str]:
    """Why the ask cannot be met: which target, which limit or which finding, and what the nearest carries."""
    verdict = nearest.first_out
    judged = judge_all(build, nearest.option)
    if nearest.headroom >= nearest.wanted:
        # Its loads all hold: something else is wrong with it, and with whatever holds as much.
        held = find_troubles(build, nearest.option, judged, catalogue)
        why = "".join(f" {one.title}: {show_text(one.text, one.values, units)}" for one in held[:1])
        lines = ["Every load would hold, and still no system of this shelf can be signed." + why]
    else:
        lines = [
            "No system of this shelf carries every target with the headroom wanted. On "
            f"{verdict.target.name} the nearest {nearest_words(nearest.decides, nearest.wanted)}."
        ]
    short = min(judged, key=lambda one: (one.power_limit.ceiling_kw or 0.0) / one.target.power_kw)
    if short.power_limit.ceiling_kw is not None and short.power_limit.load > 1.0:
        power = in_units(short.power_limit.ceiling_kw, "power_kw", units)
        asked = in_units(short.target.power_kw, "power_kw", units)
        lines.append(f"It carries about {power} on {short.target.name}, of {asked} asked.")
    lines += out_of_air(build, nearest, units)
    idle = max(nearest.verdicts, key=lambda one: _idle(one.loads))
    if _idle(idle.loads) > 0.8 and idle.target.id != verdict.target.id:
        lines.append(
            f"Larger injectors would not idle on {idle.target.name}: the shortest pulse they repeat is "
            f"{_idle(idle.loads) * 100:.0f}\u00a0% of what it takes there already. A second set of injectors gives both, "
            "or idling on the strong blend alone."
        )
    return lines


def _idle(loads: Sequence[Load]) -> float:
    """The highest load of idle pulses."""
    return max((one.load for one in loads if "idle" in one.component), default=0.0)
