"""How far a sizing has come: systems judged, the best so far, and whether it was told to stop."""

from collections.abc import Callable
from dataclasses import dataclass, field

from iron_gulp.core.model import Rates
from iron_gulp.core.plan import Design, Found, money


def never() -> bool:
    """Nobody stops it."""
    return False


@dataclass
class Progress:
    """What a sizing tells as it goes; `stop` says when it is to end."""

    stop: Callable[[], bool] = never
    best: Design | None = None
    _tried: dict[int, tuple[Found, int]] = field(default_factory=dict)

    def saw(self, found: Found) -> None:
        """Take in what a search has come to; each of several counts by itself."""
        self._tried[id(found)] = (found, found.tried)
        self.best = found.best or self.best

    @property
    def tried(self) -> int:
        """Systems judged so far."""
        return sum(tried for _, tried in self._tried.values())

    def in_words(self, rates: Rates) -> str:
        """Systems judged and the best so far; nothing before the first."""
        if not self.tried:
            return ""
        judged = f"{self.tried:,} judged".replace(",", "\u202f")
        if self.best is None:
            return judged
        left = f"{self.best.headroom * 100:.0f}\u00a0%"
        return f"{judged}, best so far {money(self.best.bill.total, rates)} with {left} left"
