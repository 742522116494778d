"""How many cases a test draws: as many as fit a quick run, ten times as many in the long one."""

import os

from hypothesis import settings

LONG = os.environ.get("IRON_GULP_LONG") == "1"
EVERY_DEMO = LONG or os.environ.get("IRON_GULP_EVERY_DEMO") == "1"  # also where faults are put in on purpose


def draws(number: int) -> settings:
    """Hypothesis settings for a property: ten times as many cases in the long run, a sixth of them in the quick one.

    Where faults are put in on purpose a third.
    """
    few = max(number // 3, 5) if EVERY_DEMO else max(number // 6, 4)
    return settings(max_examples=number * 10 if LONG else few, deadline=None)
