"""Roads to more power, their combinations, and the shop's rates that price them."""

from dataclasses import dataclass
from functools import lru_cache

from pydantic import ValidationError

from iron_gulp.core.model import Catalogue, EditError, Rates, problems_of
from iron_gulp.core.plan import Advice, Grid, Road, combination_grids, edits_of, recommended, roads
from iron_gulp.storage import SettingRepository

from .edits import Edits, Outcome
from .judging import Bench, Judging, ShelfHolder, parsed
from .starter import fresh_id

_RATES = "rates"
_KEPT = 8


@dataclass(frozen=True)
class Refused:
    """What is wrong with rates typed, by field."""

    problems: dict[str, str]


class Roads:
    """What the road page shows and does."""

    def __init__(self, judging: Judging, edits: Edits, settings: SettingRepository, shelf_of: ShelfHolder):
        self._judging, self._edits, self._settings, self._shelf_of = judging, edits, settings, shelf_of

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
        rates = self.rates()
        found = _roads(bench.stored.body, bench.option.id, rates.model_dump_json(), self._shelf_of.shelf.catalogue)
        return found, recommended(bench.build, found, rates)

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
    return roads(build, build.option(option_id), catalogue, Rates.model_validate_json(rates))
