"""Loads of what meters the fuel: injectors at peak and idle, or float needles and the floats."""

from collections.abc import Iterator

from ..physics import floats
from ..physics import injectors as inj
from ..solve import IDLE, PEAK
from .loads import Share, Solved, share


def loads(solved: Solved) -> Iterator[Share]:
    """Injectors by what passes at the duty limit and by the pulse idle needs; needles and floats by pressure."""
    cases, points = solved.cases, solved.points
    asked = solved.demand.chosen_kg_s
    if cases.meter is None:
        hottest = points.hydraulics.rail_kpa.max(axis=0) + cases.drift_kpa
        yield Share("needles", share(asked, points.open_kg_s[PEAK]), "fuel asked of what the needles pass wide open")
        yield Share("float", floats(hottest / cases.hold_kpa), "inlet pressure of what the floats hold against")
        return
    passes = inj.flow_at_duty_kg_s(
        points.open_at_set_kg_s[PEAK],
        cases.meter.count,
        cases.targets.rpm,
        points.dead_ms[PEAK],
        cases.targets.duty_limit,
    )
    yield Share("injectors", share(asked, passes), "fuel asked of what passes at the duty limit")
    least = share(floats(cases.meter.min_pulse_ms + 0.0 * asked), points.effective_ms[IDLE])
    yield Share("injector idle", least, "smallest repeatable pulse of the pulse idle needs")
