"""Charts of port injectors: duty over engine speed, and dead time over voltage and pressure."""

import numpy as np

from ..judge import TargetVerdict
from ..model import Build
from ..physics import floats
from ..solve import PEAK, solve_points
from .sweeps import Series, Sweep

PLACES = 61


def duty_over_speed(build: Build, verdict: TargetVerdict) -> Sweep:
    """Duty at the target's boost over engine speed, fuel going with speed (the same filling at every speed).

    Raises KeyError without port injectors.
    """
    option, target = verdict.option, verdict.target
    if option.injectors is None:
        raise KeyError("there are no port injectors")
    rpm = floats(np.linspace(min(1.5 * build.engine.idle_rpm, target.rpm), max(build.engine.max_rpm, target.rpm), PLACES))
    wanted = floats(verdict.demand.chosen_kg_s * rpm / target.rpm)
    points = solve_points(build, option, target, rpm, target.boost_kpa, wanted)
    series = [Series("Duty" if points.second is None else "First set", rpm, floats(points.duty * 100.0), "main")]
    if points.second is not None:
        series.append(Series("Second set", rpm, floats(points.second.duty * 100.0), "other"))
    limit = build.rules.duty_limit_pct
    series.append(Series("Limit", floats([rpm[0], rpm[-1]]), floats([limit, limit]), "limit"))
    own = float(verdict.points.duty[PEAK]) * 100.0
    series.append(Series("This target", floats([target.rpm]), floats([min(own, 200.0)]), "point"))
    return Sweep(
        "Injector duty over engine speed at this boost",
        "Engine speed",
        "speed_rpm",
        "Duty",
        "duty_pct",
        tuple(series),
        min(max(110.0, 1.1 * float(points.duty.max()) * 100.0), 200.0),
    )


def dead_time_over_volts(build: Build, verdict: TargetVerdict) -> Sweep:
    """Dead time over voltage at the pressure of idle and of the peak. Raises KeyError without port injectors."""
    fitted = verdict.option.injectors
    if fitted is None:
        raise KeyError("there are no port injectors")
    part, across = fitted.part, verdict.points.hydraulics.differential_kpa
    volts = floats(np.linspace(min(8.0, *part.dead_time_v), max(15.0, *part.dead_time_v), PLACES))

    series = [Series("As published", volts, part.dead_ms_at(volts, part.dead_time_at_kpa), "other")]
    if part.dead_time_ms_per_100_kpa or part.dead_more_kpa:
        series.append(Series("At the peak's pressure", volts, part.dead_ms_at(volts, float(across[PEAK])), "main"))
    here = float(verdict.points.dead_ms[PEAK])
    series.append(Series("This target", floats([verdict.target.supply_v]), floats([here]), "point"))
    return Sweep("Dead time over voltage", "Voltage", "supply_v", "Dead time", "dead_ms", tuple(series))
