"""The page of values: the sheet comes when looked at."""

from ...parts.page import Page


class View(Page):
    """What is entered in the controller, and what has changed since it was given out."""
