"""The Ask page."""

from ...parts.page import Page


class View(Page):
    """Car, engine and duties: nothing beside what every page shows."""
