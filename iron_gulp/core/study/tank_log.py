"""The tank's blend through its fills: by arithmetic, by measurement, and where the two part."""

from collections.abc import Sequence
from dataclasses import dataclass

from ..model import Fill

PART_POINTS = 5.0  # how far measurement and arithmetic may be apart
KEEPS = 1e-9


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

    @property
    def parted(self) -> bool:
        """Whether measurement and arithmetic are further apart than both may be off."""
        return self.off_points is not None and abs(self.off_points) > PART_POINTS


def tank_log(fills: Sequence[Fill]) -> tuple[InTank, ...]:
    """The tank after each fill, in the order of the log. Volumes add up (physics §1)."""
    found: list[InTank] = []
    held: float | None = None
    for fill in fills:
        level = fill.left_l + fill.poured_l
        computed: float | None = None
        if level > KEEPS and (held is not None or fill.left_l <= KEEPS):
            computed = ((held or 0.0) * fill.left_l + fill.poured_pct * fill.poured_l) / level
        off = None if computed is None or fill.measured_pct is None else fill.measured_pct - computed
        held = computed if fill.measured_pct is None else fill.measured_pct
        found.append(InTank(fill, level, computed, held, off))
    return tuple(found)
