"""The Keep page."""

from ...parts.page import Page


class View(Page):
    """File, options and revisions."""
