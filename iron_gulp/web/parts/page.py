"""A page of a build: what all benches show. Each bench adds what is its own; charts come when looked at."""

from collections.abc import Callable
from typing import Any, ClassVar

from markupsafe import Markup

from iron_gulp.core.study import Sweep

from .charts import chart_json
from .fields import Fields
from .figures import Figures, Rows
from .findings import Findings
from .numbers import opening
from .path import PathStrip
from .sizes import Sizes


class Page(Fields, Figures, PathStrip, Findings, Sizes):
    """The parts together. `charts` maps a chart's name to its title and its sweep, made when looked at."""

    charts: ClassVar[dict[str, tuple[str, Callable[[Any], Sweep]]]] = {}

    def rows(self) -> Rows:
        """Figures by topic; none on pages without."""
        return []

    def opens(self, kind: str, text: str, **place: Any) -> Markup:
        """A number of a table or sentence that opens."""
        return opening(self.url, self.where, kind, text, place)

    def chart_title(self, name: str) -> str:
        """A chart's title."""
        return self.charts[name][0]

    def chart(self, name: str) -> str:
        """A chart's data as JSON, in bench units. Raises KeyError for a chart of another bench."""
        return chart_json(self.charts[name][1](self), self.units)
