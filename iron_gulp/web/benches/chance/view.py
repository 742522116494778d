"""The page of chances: headroom of every component as dots, and the tolerances it comes from."""

from functools import cached_property

from markupsafe import Markup

from iron_gulp.core.model import RULES, Tolerances, station_of
from iron_gulp.core.study import Chance, Chances
from iron_gulp.services.chances import Odds

from ...parts.page import Page
from .picture import dots, in_words


class View(Page):
    """How sure is that? The draws are worked out for the piece that shows them."""

    drawn = False

    @cached_property
    def chances(self) -> Chances:
        """Every target over the draws."""
        return Odds.of(self.bench)

    @property
    def chance(self) -> Chance:
        """The target on the bench."""
        return self.chances.of(self.target.id)

    def picture(self) -> Markup:
        """Headroom of every component."""
        return dots(self.chance)

    def sentence(self) -> Markup:
        """The chance in words."""
        carried = self.opens("chance", in_words(self.chance.carried))
        return Markup("{} like this carry {}.").format(carried, self.target.name)

    def each_target(self) -> list[tuple[str, str, str, str]]:
        """Target, chance, what runs out first, and the target's id; none of all together."""
        titles = {load.component: load.title for load in self.verdict.loads}
        rows = [
            (one.target.name, in_words(one.carried), titles.get(one.first_out, one.first_out).lower(), one.target.id)
            for one in self.chances.targets
        ]
        if len(rows) > 1:
            rows.append(("every target", in_words(self.chances.carried), "", ""))
        return rows

    def inputs(self) -> list[tuple[str, str]]:
        """(name, title) of every tolerance."""
        return [(name, str(field.title)) for name, field in Tolerances.model_fields.items()]

    def unit_of(self, name: str) -> str:
        """The suffix of a tolerance's fields."""
        fields: dict[str, object] = type(getattr(self.build.tolerances, name)).model_fields
        return next(one.removeprefix("spread_") for one in fields if one.startswith("spread_"))

    def band(self, station: str) -> tuple[float, float] | None:
        """The middle nine tenths of the highest load of a station on the target chosen."""
        if not self.drawn:
            return None
        counted = [one for one in self.chance.loads if one not in RULES and station_of(one) == station]
        found = [self.chance.quantiles(one, (0.05, 0.95)) for one in counted]
        low, high = max(found, key=lambda one: one[1]) if found else (0.0, 0.0)
        return (low, high) if found else None
