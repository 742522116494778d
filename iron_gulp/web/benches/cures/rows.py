"""Cures in words."""

from dataclasses import dataclass

from iron_gulp.core.model import Rates
from iron_gulp.core.plan import Cure, money


@dataclass(frozen=True)
class CureRow:
    """A cure: what it fits, for what, and what that costs."""

    label: str
    before: str
    cost: str


def cure_rows(found: list[Cure], rates: Rates) -> list[CureRow]:
    """Cures in their order."""
    return [_row(one, rates) for one in found]


def _row(cure: Cure, rates: Rates) -> CureRow:
    told = [(what, *_apart(was, now)) for what, was, now in cure.told]
    label = "; ".join(f"{what}: {now or 'none'}" for what, _, now in told)
    before = "; ".join(was for _, was, _ in told if was)
    said = f"{label[:1].upper()}{label[1:]}" or "The same parts, set anew"
    return CureRow(said, before, money(cure.design.bill.total, rates))


def _apart(was: str, now: str) -> tuple[str, str]:
    """Both without the clause they end in alike."""
    (one, _, own), (other, _, same) = was.rpartition(", "), now.rpartition(", ")
    return (one, other) if one and other and own == same and one != other else (was, now)
