"""Numbers fit for JSON."""

import math


def plain(value: float | None) -> float | None:
    """A float fit for JSON: None for what has no finite value."""
    return None if value is None or not math.isfinite(value) else float(value)
