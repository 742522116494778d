"""What a search offers: complete systems judged whole, and what the others fell to."""

from collections import Counter
from dataclasses import dataclass, field

from ...judge import Load, TargetVerdict
from ...model import Option
from ..complexity import Parts
from ..costs import Bill
from .ease import PLAIN, Ease
from .front import Score
from .holding import COUNTED, headroom_of, highest, worst_load


@dataclass(frozen=True)
class Design:
    """A complete system that is offered."""

    option: Option
    verdicts: tuple[TargetVerdict, ...]
    bill: Bill
    parts: Parts
    score: Score
    ease: Ease = PLAIN
    wanted: float = 0.0

    @property
    def headroom(self) -> float:
        """The least headroom of what it is asked of, on any target, a share: 1 ÷ load − 1."""
        return headroom_of(self.verdicts, self.ease)

    @property
    def first_out(self) -> TargetVerdict:
        """The target that decides: nearest a limit that fuel parts move, or past it."""
        return max(self.verdicts, key=lambda one: (highest(one, self.ease, COUNTED), self._decides(one).load))

    @property
    def decides(self) -> Load:
        """The load that decides on that target."""
        return self._decides(self.first_out)

    def _decides(self, verdict: TargetVerdict) -> Load:
        return worst_load(verdict, self.ease, COUNTED)


@dataclass
class Found:
    """What a search has found so far. `fell` counts pairs by what excludes them: a component or a finding's code."""

    front: list[Design] = field(default_factory=list)
    tried: int = 0
    total: int = 0
    fell: Counter[str] = field(default_factory=Counter)
    dominated: int = 0
    nearest: Design | None = None
    done: bool = False
    others: bool = False  # whether own parts did not do and the whole shelf was looked at

    @property
    def best(self) -> Design | None:
        """The cheapest design; None while there is none."""
        return min(self.front, key=lambda one: one.score, default=None)
