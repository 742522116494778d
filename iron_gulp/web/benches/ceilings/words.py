"""The envelope in words and tables: what ends it, what replacing it is worth, what each target runs on."""

from collections.abc import Sequence
from dataclasses import dataclass
from math import isinf

import numpy as np
from markupsafe import Markup

from iron_gulp.core.judge import TargetVerdict
from iron_gulp.core.model import BOUNDS, LIMITS, POWER_LIMITS, TITLES, Component
from iron_gulp.core.study import Envelope, OnFuel, Permitted, passed, runs_on, worth
from iron_gulp.units import BenchUnits, show, signed

from ...parts.numbers import Opens
from ...parts.path import limit_words

CUTS: dict[Component, str] = {
    "injectors": "duty above its limit cuts boost",
    "needles": "mixture leaner than meant cuts boost",
    "pumps": "rail pressure below its set pressure cuts boost",
    "feed": "rail pressure below its set pressure cuts boost",
    "lift": "pressure before the main pump falling cuts boost",
    "direct injectors": "injection that ends too late cuts boost",
    "high-pressure pump": "direct rail below its target cuts boost",
    "high-pressure inlet": "low-side pressure below its set pressure cuts boost",
    "wiring": "volts at the pump falling cuts boost",
    "suction": "pressure before the main pump falling cuts boost",
    "compressor": "boost target itself: more brings heat, not air",
}


class Words:
    """Quantities in the units chosen."""

    def __init__(self, units: BenchUnits):
        self.units = units

    def __call__(self, value: float | None, name: str) -> str:
        return "\u00a0".join(part for part in show(value, name, self.units) if part)

    def power(self, kw: float | None) -> str:
        """A power, or that nothing ends it."""
        return "no end" if kw is None or isinf(kw) else self(kw, "power_kw")


def sentences(verdict: TargetVerdict, units: BenchUnits, opens: Opens) -> list[Markup]:
    """What ends the power of a target, what replacing it is worth, and what adds nothing on its own; numbers open."""
    words, found = Words(units), worth(verdict)

    def ceiling(component: Component, kw: float) -> Markup:
        return opens("ceiling", words.power(kw), component=component)

    where = f"E{verdict.target.ethanol_pct:g}" if verdict.target.base_fuel == "gasoline" else verdict.target.name
    if found is None:
        first = verdict.first_out
        load = opens("load", f"{first.load * 100:.0f}\u00a0%")
        text = Markup("On {} no power of its own ends this system; {} stands at {}.")
        return [text.format(where, first.title.lower(), load)]
    (first_out, at), *others = found.order
    ends = "end" if _many(first_out) else "ends"
    told = [Markup("{} {} it first on {}: {}.").format(TITLES[first_out], ends, where, ceiling(first_out, at))]
    if others:
        after, second = others[0]
        nearly = found.gain_kw < 0.005 * at
        then = Markup("")
        if len(others) > 1:
            then = Markup(", then {} at {}").format(TITLES[others[1][0]].lower(), ceiling(*others[1]))
        gain = "nothing" if nearly else opens("gain", f"+{words(found.gain_kw, 'power_kw')}")
        text = Markup("Replaced, that is worth {}: next {} at {}{}.")
        told.append(text.format(gain, TITLES[after].lower(), ceiling(after, second), then))
    if found.alone:
        names = _listed([TITLES[one].lower() for one in found.alone])
        told.append(
            Markup("On {} own, larger {} add nothing.").format("its" if len(found.alone) == 1 else "their", names)
        )
    air = verdict.load("engine").ceiling_kw
    turbo = verdict.load("compressor").ceiling_kw
    if turbo is not None and turbo < min(at, air or turbo):
        told.append(
            Markup("The compressor ends at {}: fuel for more is never burnt.").format(ceiling("compressor", turbo))
        )
    elif air is not None and air < at:
        text = Markup("The air at this boost carries about {}: fuel for more is burnt only with more boost.")
        told.append(text.format(ceiling("engine", air)))
    return told


def moved_sentence(verdict: TargetVerdict, units: BenchUnits) -> str:
    """A target on its way, in a sentence: where it is and what is most loaded there."""
    words, first = Words(units), verdict.first_out
    where = f"{words(verdict.target.power_kw, 'power_kw')} on E{verdict.target.ethanol_pct:g}"
    load = f"{first.load * 100:.0f}\u00a0%" if first.load < 100 else "none left"
    fits = "within every limit" if first.load <= 1 else limit_words(first)
    return f"{verdict.target.name}: {where}, {fits}; {first.title.lower()} {load}."


def _many(component: Component) -> bool:
    return TITLES[component].endswith("s")


def _listed(names: Sequence[str]) -> str:
    return names[0] if len(names) == 1 else f"{', '.join(names[:-1])} or {names[-1]}"


@dataclass(frozen=True)
class OfTarget:
    """A target's row: what is asked and carried, headroom, the blends it runs on."""

    name: str
    fuel: str
    asked: str
    carried: str
    headroom: str
    runs: Markup
    short: bool
    target: str
    ends: bool


def of_targets(
    verdicts: Sequence[TargetVerdict], found: Sequence[Envelope], units: BenchUnits, opens: Opens
) -> list[OfTarget]:
    """Every target on its own envelope over blends."""
    words, rows = Words(units), []
    for verdict, one in zip(verdicts, found, strict=True):
        target, limit = verdict.target, verdict.power_limit.ceiling_kw
        headroom = "–" if limit is None else f"{signed((limit / target.power_kw - 1) * 100)}\u00a0%"
        short = not all(load.load <= 1.0 for load in verdict.loads if load.component in LIMITS)
        rows.append(
            OfTarget(
                target.name,
                f"E{target.ethanol_pct:g}",
                words(target.power_kw, "power_kw"),
                words.power(limit),
                headroom,
                _opened_stretches(runs_on(one), target.id, opens),
                short,
                target.id,
                limit is not None,
            )
        )
    return rows


def _opened_stretches(found: tuple[tuple[float, float], ...], target: str, opens: Opens) -> Markup:
    """Stretches of blends in words, their ends opening but where the axis ends."""
    whole = stretches(found)
    if not found or whole == "every blend":
        return Markup(whole)

    def end(pct: float, row: int, case: str) -> Markup:
        text = f"E{pct:.0f}"
        return Markup(text) if pct in (0.0, 100.0) else opens("runs-on", text, row=row, case=case, target=target)

    parts = [
        Markup(" to ").join([end(low, row, "from"), *([end(high, row, "to")] if high > low else [])])
        for row, (low, high) in enumerate(found)
    ]
    return Markup(" and ").join(parts)


def stretches(found: tuple[tuple[float, float], ...]) -> str:
    """Stretches of blends in words."""
    if not found:
        return "on no blend"
    parts = [f"E{low:.0f} to E{high:.0f}" if high > low else f"E{low:.0f}" for low, high in found]
    return "every blend" if parts == ["E0 to E100"] else " and ".join(parts)


def past_at_power(found: Envelope, target_name: str) -> list[str]:
    """What is too much at the target's own power on some blends and moves with no power: yes or no, in words."""
    if found.axis != "ethanol_pct":
        return []
    told = []
    for component in found.loads:
        if component in POWER_LIMITS or (component not in LIMITS and component not in BOUNDS):
            continue
        over = passed(found, component)
        if over:
            told.append(f"{TITLES[component]}: too much on {stretches(over)} ({target_name})")
    return told


@dataclass(frozen=True)
class Place:
    """A row of the table beside the picture."""

    at: str
    limit: str
    sets: str
    own: bool
    place: float
    ends: bool


MOST_ROWS = 11


def table(found: Envelope, own: float, units: BenchUnits) -> list[Place]:
    """The lower edge at round places of the axis and at the target's own."""
    wanted = np.linspace(found.at[0], found.at[-1], MOST_ROWS)
    picked = sorted({int(np.abs(found.at - one).argmin()) for one in (*wanted, own)})
    words, rows = Words(units), []
    for n in picked:
        first, limit = found.limiting[n], float(found.limit_kw[n])
        at = f"E{found.at[n]:.0f}" if found.axis == "ethanol_pct" else words(float(found.at[n]), found.axis)
        starved = limit == 0.0
        rows.append(
            Place(
                at,
                "at no power" if starved else words.power(limit),
                "–" if first is None else TITLES[first].lower(),
                bool(np.isclose(found.at[n], own)),
                float(found.at[n]),
                not starved and not isinf(limit),
            )
        )
    return rows


@dataclass(frozen=True)
class PermittedRow:
    at: str
    boost: str
    power: str
    sets: str
    own: str
    cut: str
    wrong: str
    place: float
    known: tuple[bool, bool, bool]
    untold: bool


def _some(kpa: float | None) -> bool:
    return kpa is not None and kpa > 0


def permitted_rows(rows: Sequence[Permitted], units: BenchUnits) -> list[PermittedRow]:
    """Boost permitted on each blend."""
    words = Words(units)

    def boost(kpa: float | None, nothing: str) -> str:
        if kpa is None:
            return nothing
        return "not even without boost" if kpa < 0 else words(kpa, "boost_kpa")

    def row(one: Permitted) -> PermittedRow:
        ends = "–" if one.component is None else TITLES[one.component].lower()
        own = boost(one.limit_boost_kpa, "no end")
        untold = one.untold and one.boost_kpa is None
        return PermittedRow(
            f"E{one.ethanol_pct:g}",
            "none: no target says what this fuel bears" if untold else boost(one.boost_kpa, "no end"),
            "–" if untold or one.power_kw is None else words.power(one.power_kw),
            "–" if untold else "the targets' own boost" if one.by_targets else ends,
            own if one.component is None else f"{own}, {ends}",
            "–" if one.component is None or untold else CUTS[one.component],
            "–" if untold else boost(one.wrong_boost_kpa, "no end"),
            one.ethanol_pct,
            (_some(one.boost_kpa), one.power_kw is not None and not untold, _some(one.wrong_boost_kpa)),
            untold,
        )

    return [row(one) for one in rows]


@dataclass(frozen=True)
class FuelRow:
    name: str
    power: str
    share: float
    sets: str
    mixture: str
    credit: str
    litres: str
    fuel: str
    ends: bool


def fuel_rows(found: Sequence[OnFuel], units: BenchUnits) -> list[FuelRow]:
    """Every fuel that is no blend, with a bar of its ceiling."""
    words = Words(units)
    known = [one.power_kw for one in found if one.power_kw is not None]
    top = max(known, default=1.0)
    return [
        FuelRow(
            one.name,
            words.power(one.power_kw),
            100.0 if one.power_kw is None else round(100.0 * one.power_kw / top, 1),
            TITLES[one.component].lower(),
            words(one.mixture, "lambda"),
            words(one.credit_pct, "credit_pct"),
            words(one.litres_h, "fuel_l_h"),
            one.fuel_id,
            one.power_kw is not None,
        )
        for one in found
    ]
