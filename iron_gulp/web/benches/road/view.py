"""The road page: which way to more power; its pieces come when looked at."""

from ...parts.page import Page


class View(Page):
    """Where the roads are shown."""
