"""Load of the engine's air: the power asked of what the air at this boost supports."""

from collections.abc import Iterator

import numpy as np

from ..model import EXPECTED_BAND
from ..physics import corrected_air_kg_s, floats
from .loads import Share, Solved, Status


def loads(solved: Solved) -> Iterator[Share]:
    """Power asked of what the air at this boost makes at the expected consumption; of the compressor the air."""
    asked = solved.cases.targets.power_kw / solved.demand.air_limited_power_kw
    yield Share("engine", floats(asked), "power asked of what the air at this boost is expected to make")
    targets = solved.cases.targets
    if np.isfinite(targets.compressor_kg_s).any():
        corrected = corrected_air_kg_s(solved.demand.air_expected_kg_s, targets.intake_c, targets.barometer_kpa)
        used = floats(corrected / targets.compressor_kg_s)
        with np.errstate(divide="ignore"):  # what a pull has shown this compressor has passed
            used = floats(np.fmin(used, solved.demand.crank_kw / solved.demand.done_kw))
        yield Share("compressor", used, "air this power is expected to need, corrected, of what the compressor passes")


def air_status(load: float) -> Status:
    """Words for the engine's load: plausible within the band of what engines are found to burn (physics §2)."""
    return "ok" if load <= 1 else "close" if load * (1.0 - EXPECTED_BAND) <= 1 else "over"
