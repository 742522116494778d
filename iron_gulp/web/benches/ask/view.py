"""The Ask page."""

from ...parts.page import Page


class View(Page):
    """Car, engine and targets: nothing beside what every page shows."""
