"""A page of a build: what all benches show. Each bench adds what is its own; charts come when looked at."""

from collections.abc import Callable
from typing import Any, ClassVar

from markupsafe import Markup

from iron_gulp.core.model import alcohol_counted
from iron_gulp.core.study import Sweep

from .calculators import CalculatorView
from .charts import chart_json
from .claims import flow_claim_view
from .fields import Fields
from .figures import Figures, Rows
from .findings import Findings
from .numbers import opening
from .path import PathStrip
from .rendering import kept_piece
from .sizes import Sizes

MEANS = {
    "as run": "it burns a little better than its energy says, E85 takes about 30\u00a0% more than gasoline.",
    "equal mixture": "by its energy alone, E85 takes 41 to 42\u00a0% more than gasoline.",
    "mixed": "not the same on every target.",
}


class Page(Fields, Figures, PathStrip, Findings, Sizes):
    """The parts together. `charts` maps a chart's name to its title and its sweep, made when looked at."""

    charts: ClassVar[dict[str, tuple[str, Callable[[Any], Sweep]]]] = {}

    def rows(self) -> Rows:
        """Figures by topic; none on pages without."""
        return []

    def flow_claim(self, of: str = "") -> CalculatorView:
        """A flow on the box of any part of the option, by itself `of` the one this page is about."""
        return flow_claim_view(self.bench, self.units, of=of)

    def calculator(self, shown: CalculatorView) -> Markup:
        """A calculator as its form; one that starts from the same is kept."""
        number = self.bench.stored.id
        return kept_piece("calculator.html", (number, shown), c=shown, build_id=number)

    def alcohol(self) -> str:
        """By which school this build counts alcohol; "" where none is burnt."""
        return alcohol_counted(self.build)

    def other_school(self) -> str:
        """The school one press changes to."""
        return "equal mixture" if self.alcohol() == "as run" else "as run"

    def alcohol_means(self) -> str:
        """What the school in use makes of the strong blends."""
        return MEANS.get(self.alcohol(), "what is typed counts the same on every blend.")

    def opens(self, kind: str, text: str, **place: Any) -> Markup:
        """A number of a table or sentence that opens."""
        return opening(self.url, self.where, kind, text, place)

    def chart_title(self, name: str) -> str:
        """A chart's title."""
        return self.charts[name][0]

    def chart(self, name: str) -> str:
        """A chart's data as JSON, in bench units. Raises KeyError for a chart of another bench."""
        return chart_json(self.charts[name][1](self), self.units)
