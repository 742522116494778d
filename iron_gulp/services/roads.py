"""Roads to more power, their combinations, and the shop's rates that price them."""

from collections.abc import Callable
from contextlib import AbstractContextManager
from dataclasses import dataclass, field
from functools import lru_cache

from pydantic import ValidationError

from iron_gulp.core.model import Build, Catalogue, EditError, Option, Rates, problems_of
from iron_gulp.core.plan import (
    TITLES,
    WHOLE,
    Advice,
    Grid,
    Locks,
    Road,
    Search,
    combination_grids,
    edits_of,
    recommended,
    roads,
    whole_road,
)
from iron_gulp.core.plan import LowSide as LowSide
from iron_gulp.storage import SettingRepository

from .edits import Edits, Outcome
from .jobs import Jobs, Task, Watched
from .judging import Bench, Judging, ShelfHolder, parsed
from .starter import fresh_id

_RATES = "rates"
_KEPT = 8


@dataclass(frozen=True)
class Refused:
    """What is wrong with rates typed, by field."""

    problems: dict[str, str]


@dataclass
class Whole(Watched):
    """Roads being searched as whole systems: those of one build, option and rates, by kind, as far as it has come."""

    asked: tuple[str, str, str]
    kinds: tuple[str, ...]
    low_side: LowSide
    found: dict[str, Road | None] = field(default_factory=dict)

    @property
    def complete(self) -> bool:
        """Whether every road has been searched."""
        return set(self.found) == set(self.kinds)


Searches = Callable[[Build, Option, Locks, Option], Search]


class Roads:
    """What the road page shows and does."""

    def __init__(self, judging: Judging, edits: Edits, settings: SettingRepository, shelf_of: ShelfHolder, jobs: Jobs):
        self._judging, self._edits, self._settings, self._shelf_of = judging, edits, settings, shelf_of
        self._jobs = jobs
        self._whole: dict[tuple[int, str], Whole] = {}

    def rates(self) -> Rates:
        """The shop's rates: as told, or the generic ones."""
        body = self._settings.get(_RATES)
        return Rates() if body is None else Rates.model_validate_json(body)

    def set_rates(self, typed: dict[str, str]) -> Rates | Refused:
        """Keep rates as typed, all or none; an empty price is one that is not known."""
        given = {name: text.strip().replace(",", ".") for name, text in typed.items() if name in Rates.model_fields}
        plain: dict[str, str | None] = {name: text or None for name, text in given.items()}
        try:
            rates = Rates.model_validate(plain)
        except ValidationError as error:
            return Refused({problem.path: problem.message for problem in problems_of(error)})
        self._settings.put(_RATES, rates.model_dump_json())
        return rates

    def of(self, bench: Bench) -> tuple[list[Road], Advice | None]:
        """The roads from the option on the bench, and the one recommended."""
        rates, known = self.rates(), self.whole(bench)
        quick = _roads(*self._asked(bench), self._shelf_of.shelf.catalogue)
        by_kind: dict[str, Road | None] = {one.kind: one for one in quick}
        if known is not None:
            by_kind |= known.found
        found = [road for kind in TITLES if (road := by_kind.get(kind)) is not None]
        return found, recommended(bench.build, found, rates, self._shelf_of.shelf.catalogue)

    def _asked(self, bench: Bench) -> tuple[str, str, str]:
        return bench.stored.body, bench.option.id, self.rates().model_dump_json()

    def whole(self, bench: Bench) -> Whole | None:
        """The search for whole systems of the roads as the build stands; None where it was not asked for."""
        known = self._whole.get((bench.stored.id, bench.option.id))
        return known if known is not None and known.asked == self._asked(bench) else None

    def search(
        self,
        bench: Bench,
        searches: Searches,
        workers: Callable[[], AbstractContextManager[int]],
        low_side: LowSide = "as on the car",
    ) -> Whole:
        """Begin to search every road as a whole system with such a low side; what is under way goes on. Raises Busy."""
        known = self.whole(bench)
        if known is not None and known.low_side == low_side and (known.running or known.complete):
            return known
        key, rates = (bench.stored.id, bench.option.id), self.rates()
        quick = {one.kind: one for one in _roads(*self._asked(bench), self._shelf_of.shelf.catalogue)}
        kinds = tuple(one for one in WHOLE if one in quick)
        made, before = Whole(self._asked(bench), kinds, low_side), today_of(bench.build) or bench.option

        def made_for(build: Build, base: Option, locks: Locks) -> Search:
            return searches(build, base, locks, before)

        def work(task: Task) -> None:
            for kind in kinds:
                with workers() as count:
                    how = task.stop.is_set, count, low_side, made.found.get("direct")
                    road = whole_road(bench.build, before, quick[kind], made_for, rates, *how)
                if task.stop.is_set():
                    return
                made.found[kind] = road

        made.task = self._jobs.ask("searches", ("roads", *key), work, anew=True)
        self._whole[key] = made
        while len(self._whole) > _KEPT:
            self._whole.pop(next(iter(self._whole)))
        return made

    def stop(self, build_id: int, option_id: str) -> None:
        """End a search of roads; what it has found stays."""
        self._jobs.stop(("roads", build_id, option_id))

    def wait(self, build_id: int, option_id: str) -> None:
        """Until a search of roads has ended."""
        self._jobs.wait(("roads", build_id, option_id))

    def grids(self, bench: Bench, ethanol_pct: float | None = None) -> list[Grid]:
        """Pumps × injectors × low pumps on the target on the bench, on its own blend or another, per cent."""
        catalogue = self._shelf_of.shelf.catalogue
        return combination_grids(bench.build, bench.option, bench.verdict.target, catalogue, ethanol_pct)

    def open(self, build_id: int, base: int, option_id: str, kind: str) -> Outcome:
        """Put a road into the build as an option of its own. Raises NotFound."""
        bench = self._judging.bench(build_id, option_id, None)
        road = next((one for one in self.of(bench)[0] if one.kind == kind), None)
        if road is None:
            return Outcome(False, "", "", "there is no such road from this option")
        new_id = fresh_id("o", [one.id for one in bench.build.options])
        try:
            edits = edits_of(bench.build, road, new_id)
        except EditError as error:
            return Outcome(False, "", "", "; ".join(problem.message for problem in error.problems))
        return self._edits.make(build_id, base, edits, f"road opened: {road.title}")


@lru_cache(maxsize=_KEPT)
def _roads(body: str, option_id: str, rates: str, catalogue: Catalogue) -> list[Road]:
    build = parsed(body)
    return roads(build, build.option(option_id), catalogue, Rates.model_validate_json(rates), today_of(build))


def today_of(build: Build) -> Option | None:
    """What is fitted today, if it was said."""
    return next((one for one in build.options if one.id == build.fitted_today), None)
