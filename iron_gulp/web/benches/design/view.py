"""The page of designs: locks, and the front as it is found."""

from ...parts.locks import WithLocks


class View(WithLocks):
    """Which system, and why not a cheaper one? The search itself comes as a piece."""
