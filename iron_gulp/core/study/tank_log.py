"""The tank's blend through its fills: by arithmetic, by measurement, and where the two part."""

from collections.abc import Sequence
from dataclasses import dataclass

from ..model import Fill

PART_POINTS = 5.0  # how far measurement and arithmetic may be apart
KEEPS = 1e-9
MATTERS = 0.10  # of the tank, from which a fuel's grade counts


@dataclass(frozen=True)
class InTank:
    """The tank after a fill. `computed_pct` is arithmetic on what was known to be in it; None where nothing was.

    `held_pct` is what counts from here on: the measurement where there is one. `off_points` is measured less computed.
    """

    fill: Fill
    level_l: float
    computed_pct: float | None
    held_pct: float | None
    off_points: float | None
    grades: tuple[tuple[float | None, str, float], ...] = ()

    @property
    def grade(self) -> tuple[float, str] | None:
        """The tank's grade: the lowest of any share that matters, with its scale; None where one such share is unsaid,
        or where scales are mixed: nothing is converted."""
        counted = [(grade, scale) for grade, scale, share in self.grades if share >= MATTERS]
        if not counted or any(grade is None for grade, _ in counted) or len({scale for _, scale in counted}) > 1:
            return None
        return min((grade, scale) for grade, scale in counted if grade is not None)

    @property
    def parted(self) -> bool:
        """Whether measurement and arithmetic are further apart than both may be off."""
        return self.off_points is not None and abs(self.off_points) > PART_POINTS


def tank_log(fills: Sequence[Fill]) -> tuple[InTank, ...]:
    """The tank after each fill, in the order of the log. Volumes add up (physics §1)."""
    found: list[InTank] = []
    held: float | None = None
    grades: list[tuple[float | None, str, float]] = []
    for fill in fills:
        level = fill.left_l + fill.poured_l
        computed: float | None = None
        if level > KEEPS and (held is not None or fill.left_l <= KEEPS):
            computed = ((held or 0.0) * fill.left_l + fill.poured_pct * fill.poured_l) / level
        off = None if computed is None or fill.measured_pct is None else fill.measured_pct - computed
        held = computed if fill.measured_pct is None else fill.measured_pct
        grades = _graded(grades, fill, level)
        found.append(InTank(fill, level, computed, held, off, tuple(grades)))
    return tuple(found)


def _graded(
    before: Sequence[tuple[float | None, str, float]], fill: Fill, level_l: float
) -> list[tuple[float | None, str, float]]:
    """Shares of the tank by grade after a fill: what was left keeps its parts, what was poured joins."""
    if level_l <= KEEPS:
        return []
    left, poured = fill.left_l / level_l, fill.poured_l / level_l
    parts: dict[tuple[float | None, str], float] = {}
    if not before and left > 0:
        parts[(None, "")] = left
    for grade, scale, share in before:
        parts[(grade, scale)] = parts.get((grade, scale), 0.0) + share * left
    if poured > 0:
        own = (fill.grade, fill.grade_system if fill.grade is not None else "")
        parts[own] = parts.get(own, 0.0) + poured
    return [(*key, share) for key, share in parts.items()]
