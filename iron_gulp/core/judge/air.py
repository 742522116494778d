"""Load of the engine's air: the power asked of what the air at this boost supports."""

from collections.abc import Iterator

from ..physics import floats
from .loads import Share, Solved, Status

AIR_TOLERANCE = 0.10


def loads(solved: Solved) -> Iterator[Share]:
    """Power asked of what the air supports."""
    asked = solved.cases.targets.power_kw / solved.demand.air_limited_power_kw
    yield Share("engine", floats(asked), "power asked of what the air at this boost supports")


def air_status(load: float) -> Status:
    """Words for the engine's load: air and consumption are estimates that may differ by a tenth."""
    return "ok" if load <= 1 else "close" if load <= 1 + AIR_TOLERANCE else "over"
