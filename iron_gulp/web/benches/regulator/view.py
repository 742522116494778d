"""The regulator and return bench."""

from iron_gulp.core.study import sweeps

from ...parts.page import Page


class View(Page):
    """Regulator, return line and passages."""

    charts = {
        "return_floor": ("Lowest rail pressure the return side allows", lambda v: sweeps.return_floor(v.verdict)),
        "return_sizes": (
            "Return drop against bypassed flow",
            lambda v: sweeps.line_sizes(v.verdict, v.shelf.catalogue, "return_line", v.build.rules.return_drop_kpa),
        ),
    }
