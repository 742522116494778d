"""Loads of what meters the fuel: injectors at peak and idle, or float needles and the floats."""

from collections.abc import Iterator
from dataclasses import replace

import numpy as np

from ..physics import Floats, floats
from ..physics import injectors as inj
from ..solve import IDLE, PEAK, Meter, Targets
from .loads import Share, Solved, share


def passes_kg_s(meter: Meter, targets: Targets, across_kpa: Floats) -> Floats:
    """What all injectors pass at the duty limit, dead time included, at a differential pressure, kg/s; both sets."""
    if meter.second is not None:
        first = passes_kg_s(replace(meter, second=None), targets, across_kpa)
        return floats(first + passes_kg_s(meter.second.set, targets, across_kpa))
    opened = inj.open_flow_kg_s(meter.rated_cc_min, meter.rated_kpa, across_kpa, targets.density_kg_m3)
    dead = meter.dead_at_ms(across_kpa)
    return inj.flow_at_duty_kg_s(opened, meter.count, targets.rpm, floats(dead * meter.squirts), targets.duty_limit)


def loads(solved: Solved) -> Iterator[Share]:
    """Injectors by what passes at the duty limit and by the pulse idle needs; needles and floats by pressure."""
    cases, points = solved.cases, solved.points
    asked, meter = points.metered_kg_s[PEAK], cases.meters.port
    if meter is None and cases.systems.needles_m2 is None:
        return
    if meter is None:
        hottest = points.hydraulics.differential_kpa.max(axis=0) + cases.drift_kpa
        yield Share("needles", share(asked, points.open_kg_s[PEAK]), "fuel asked of what the needles pass wide open")
        yield Share("float", floats(hottest / cases.hold_kpa), "inlet pressure of what the floats hold against")
        return
    passes = passes_kg_s(meter, cases.targets, points.hydraulics.meant_kpa[PEAK])
    yield Share("injectors", share(asked, passes), "fuel asked of what passes at the duty limit")
    # Where the direct side alone carries idle, port injectors have no pulse to be too short.
    smallest = np.where(points.metered_kg_s[IDLE] > 0, meter.min_pulse_ms, 0.0)
    least = share(floats(smallest), points.effective_ms[IDLE])
    yield Share("injector idle", least, "smallest repeatable pulse of the pulse idle needs")
