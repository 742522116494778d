"""Which systems' rails may stand higher elsewhere than at the peak: a bound that needs no further solution.

Pumps that run elsewhere run at the peak too. At the peak's pressure they bring no more than there; where regulator and
return pass all of that but the least taken with the rail no higher, no operating point lifts it higher.
"""

import numpy as np
from numpy.typing import NDArray

from ..physics import floats, set_pressure_kpa
from .case import State
from .curves import FLOOR, ReturnSide
from .hydraulics import Hydraulics, Points
from .pipes import FluidState
from .systems import Systems, reference_kpa

WITH_RETURN = ("bypass after the rail", "bypass near the tank", "carburettor, bypass")
_ROUNDING_KPA = 1e-6


def may_stand_higher(systems: Systems, peak: Hydraulics, points: Points) -> NDArray[np.bool_]:
    """Whether what is regulated may stand above where it stands at the `peak`, at any of further points.

    The peak of shape (systems,), points (points, systems), the answer (systems,). True where it may or is not known
    (stages in series); False only where it cannot.
    """
    manifold, wanted = floats(points.manifold_kpa), floats(points.demand_kg_s)
    size = max(peak.rail_kpa.size, manifold.shape[-1])
    if systems.arrangement not in WITH_RETURN:
        return np.zeros(size, dtype=bool)
    if any(group.boosting for group in systems.groups):
        return np.ones(size, dtype=bool)
    stands = np.maximum(peak.rail_kpa, peak.set_kpa)
    if systems.arrangement == "bypass near the tank":
        stands = stands + peak.feed_kpa + peak.passages_kpa + peak.split_kpa
    brought = np.where(peak.state == State.STARVED, peak.supply_at_set_m3_s, peak.supply_m3_s)
    taken = 0.0
    if systems.high is None:
        taken = (np.minimum(wanted, points.open_limit_kg_s) / points.density_kg_m3).min(axis=0)
    most = floats(np.maximum(brought - taken, 0.0))
    highest = reference_kpa(systems, floats(manifold.max(axis=0)))
    held = set_pressure_kpa(systems.base_kpa, systems.reference_ratio, highest) + systems.creep_pa * most
    # A return climbs by what the car accelerates: the least of all points.
    least_g = floats(points.accel_g).min(axis=0)
    fluid = FluidState(floats(points.density_kg_m3), floats(points.viscosity_mpa_s), floats(least_g))
    floor = ReturnSide(systems.back, most, fluid).at(most)[FLOOR]
    return np.broadcast_to(np.maximum(floor, held) > stands + _ROUNDING_KPA, (size,))
