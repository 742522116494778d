"""Rules about sensors: ranges against the worst computed value, and an ethanol sensor as an element of the line."""

from collections.abc import Iterator

import numpy as np

from ..model import Sensor, fitting
from ..physics import M3_S_PER_L_H
from ..solve import PEAK, through_feed_m3_s
from .base import Context, Finding, Remedy
from .staging import stages_told

ROOM = 1.1  # what a sensor is chosen with above the worst value


def too_short(context: Context) -> Iterator[Finding]:
    """A pressure sensor that does not reach the worst pressure computed where it sits."""
    for sensor in context.option.sensors:
        worst = _worst_kpa(context, sensor)
        if worst is None or sensor.reads_to_kpa >= worst:
            continue
        yield Finding(
            "sensor-short",
            "note" if sensor.read_by == "logger alone" else "warn",
            "demand",
            "Sensor does not reach what it is to read",
            "{sensor} reads up to {range_kpa}; the {what} may reach {worst_kpa}, with stages held on as the throttle "
            "shuts, or a relief valve, counted.",
            "At the end of its range a sensor stands still: {reader} goes on by a number that is no longer true.",
            {
                "sensor": sensor.name,
                "what": sensor.measures,
                "range_kpa": sensor.reads_to_kpa,
                "worst_kpa": worst,
                "reader": f"the {sensor.read_by.removesuffix(' alone')}",
            },
            (),
            (_longer(context, sensor, worst),),
        )


def _longer(context: Context, sensor: Sensor, worst_kpa: float) -> Remedy:
    """The shortest range of the shelf that reaches, with room, what is to be read; a figure where there is none."""
    reach = worst_kpa * ROOM
    alike = [one for one in context.catalogue.sensors if one.measures == sensor.measures and one.reads_to_kpa >= reach]
    path = context.path(f"sensors/{sensor.id}")
    if not alike:
        fit = round(reach, -1)
        return Remedy(
            "Fit one that reads up to {fit_kpa}, and tell its scaling to who reads it",
            ((f"{path}/reads_to_kpa", fit),),
            {"fit_kpa": fit},
        )
    other = min(alike, key=lambda one: one.reads_to_kpa)
    edits = tuple(fitting(path, type(sensor), other))
    return Remedy("Fit {sensor}, and tell its scaling to who reads it", edits, {"sensor": other.name})


def _worst_kpa(context: Context, sensor: Sensor) -> float | None:
    if sensor.measures == "manifold pressure":
        return context.build.car.barometer_kpa + max(verdict.target.boost_kpa for verdict in context.verdicts)
    if sensor.measures == "low rail pressure":
        held = [switch.lift_off_rail_kpa for each in stages_told(context).switches for switch in each]
        rails = [float(verdict.points.hydraulics.rail_kpa.max()) for verdict in context.verdicts]
        return float(np.nanmax(rails + held))  # no lift-off is worked out where notes are not asked for
    high = context.option.high_side
    return None if high is None else max(*high.target.kpa, high.relief_kpa or 0.0)


def starts_too_high(context: Context) -> Iterator[Finding]:
    """A sensor whose range begins above what it reads at idle, so that it cannot be checked with the engine stopped."""
    barometer = context.build.car.barometer_kpa
    for sensor in context.option.sensors:
        idle = barometer + context.build.engine.idle_manifold_kpa if sensor.measures == "manifold pressure" else 0.0
        if sensor.low_kpa > max(idle, 0.0):
            yield Finding(
                "sensor-start",
                "warn",
                "demand",
                "Sensor begins above what it is to read",
                "{sensor} reads from {from_kpa}; at idle or with the engine stopped there are {idle_kpa}.",
                "With the engine stopped a manifold sensor must read the barometer, a rail sensor nothing: "
                "that is how it is proven.",
                {"sensor": sensor.name, "from_kpa": sensor.low_kpa, "idle_kpa": idle},
                (),
                (Remedy("Fit one that reads from nothing", ((context.path(f"sensors/{sensor.id}/low_kpa"), 0.0),)),),
            )


def ethanol_flow(context: Context) -> Iterator[Finding]:
    """An ethanol sensor with more flow through it than it bears, where it cannot see the fuel, or backwards."""
    sensor = context.option.ethanol_sensor
    if sensor is None:
        return
    path = context.path("ethanol_sensor")
    flows = [float(through_feed_m3_s(context.option, one.points.hydraulics)[PEAK]) for one in context.verdicts]
    most = max(flows) / M3_S_PER_L_H
    returning = context.option.regulator.arrangement in ("bypass after the rail", "carburettor, bypass")
    if sensor.place != "in the feed, before the split":
        blind = sensor.place == "in the return" and not returning
        yield Finding(
            "ethanol-place",
            "stop" if blind else "warn",
            "feed",
            "Ethanol sensor where nothing flows" if blind else "Ethanol sensor where it sees old fuel",
            "It sits {place}: "
            + ("nothing returns in this arrangement, so it never sees the fuel." if blind else "a new blend comes late."),
            "A sensor reads only what flows through it; before the split it sees what the engine is about to burn.",
            {"place": sensor.place},
            (),
            (Remedy("Move it into the feed, before the split", ((f"{path}/place", "in the feed, before the split"),)),),
        )
    elif most > sensor.flow_to_l_h:
        fit = round(most * ROOM, -1)
        yield Finding(
            "ethanol-flow",
            "warn",
            "feed",
            "More flow than the ethanol sensor bears",
            "{flow_l_h} pass it; it is made for {most_l_h} at most.",
            "Past that it throttles the feed and reads unsteadily.",
            {"flow_l_h": most, "most_l_h": sensor.flow_to_l_h},
            (),
            (
                Remedy(
                    "Fit one for {fit_l_h}", ((f"{path}/flow_to_l_h", fit), (f"{path}/bore_mm", 9.0)), {"fit_l_h": fit}
                ),
                Remedy("Or let it stand in a by-pass of the feed as its maker shows"),
            ),
        )
    if sensor.fitted == "backwards":
        yield Finding(
            "ethanol-backwards",
            "warn",
            "feed",
            "Ethanol sensor fitted backwards",
            "Its arrow stands against the flow.",
            "Backwards it traps air, and the reading jumps.",
            {},
            (),
            (Remedy("Turn it round", ((f"{path}/fitted", "as its arrow says"),)),),
        )


RULES = (too_short, starts_too_high, ethanol_flow)
