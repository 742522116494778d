"""The staging page."""

from markupsafe import Markup, escape

from iron_gulp.core.study import operating_field

from ...parts.page import Page
from .picture import even, stage_map
from .staging import LAYERS, StagingView, field_json, staging_view


class View(Page):
    """Which pumps run where; the field and the tables come when looked at."""

    layers = tuple((key, label) for key, label, _ in LAYERS if key != "stages")

    def picture(self) -> Markup:
        """The field by the number of pumps running; a sentence where that is the same everywhere."""
        field = operating_field(self.build, self.option, self.target)
        said = even(field)
        return escape(said) if said else stage_map(self.build, field, self.target, self.build.targets, self.units)

    def chart(self, name: str) -> str:
        """The operating field. Raises KeyError for another chart."""
        if name != "field":
            raise KeyError(name)
        return field_json(self.bench, self.units)

    def staging(self) -> StagingView:
        """Switches, missing stages and proposals."""
        return staging_view(self.bench, self.units)
