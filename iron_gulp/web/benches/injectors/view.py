"""The injectors bench, or the carburettor's."""

from iron_gulp.core.study import sweeps

from ...parts.page import Page


class View(Page):
    """What meters the fuel."""

    charts = {
        "injector_flow": (
            "One injector held open, across vacuum and boost",
            lambda v: sweeps.injector_flow(v.build, v.verdict),
        )
    }
