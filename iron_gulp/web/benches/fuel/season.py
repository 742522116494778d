"""Both ends of what a station sells as its strong blend, in words."""

from dataclasses import dataclass

from iron_gulp.core.judge import TargetVerdict
from iron_gulp.core.model import LIMITS
from iron_gulp.core.study import SOLD_PCT, at_both_ends
from iron_gulp.services.workshop import Bench


@dataclass(frozen=True)
class SeasonRow:
    """A target, and how it stands on the weakest and on the strongest: words, load, and the blend."""

    name: str
    target: str
    holds: tuple[tuple[str, str, float], ...]


def season_rows(bench: Bench) -> list[SeasonRow]:
    """Targets on a strong blend; none where there is none."""
    return [
        SeasonRow(target.name, target.id, tuple((*_told(one), pct) for one, pct in zip(ends, SOLD_PCT, strict=True)))
        for target, *ends in at_both_ends(bench.build, bench.option, bench.build.targets)
    ]


def _told(verdict: TargetVerdict) -> tuple[str, str]:
    first = verdict.first_out
    holds = all(load.load <= 1.0 for load in verdict.loads if load.component in LIMITS)
    load = f"{first.load * 100:.0f}\u00a0%" if first.load < 100 else "none left"
    return f"{'holds' if holds else 'does not hold'}: {first.title.lower()}", load
