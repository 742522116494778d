"""Power ceilings: the power at which a component's own limit is reached.

Taken one component at a time with the others as they are, at the target's engine speed and boost, where demand is
proportional to power. Limits at idle do not move with power and have none.
"""

from ..model import POWER_LIMITS, Component


def ceiling_kw(component: Component, load: float, power_kw: float, air_power_kw: float) -> float | None:
    """The power (as the target quotes it) at which a component runs out; None where its limit does not move with it."""
    if component == "engine":
        return air_power_kw
    return power_kw / load if component in POWER_LIMITS and load > 0 else None
