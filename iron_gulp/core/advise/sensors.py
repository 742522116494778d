"""Rules about sensors: ranges against the worst computed value, and an ethanol sensor as an element of the line."""

from collections.abc import Callable, Iterator

import numpy as np

from ..judge import TargetVerdict
from ..model import PRESSURES, Option, Sensor, SensorPart, fitting, in_branch
from ..physics import M3_S_PER_L_H, floats
from ..solve import PEAK, FluidState, rails_joined, split_flows_m3_s, through_feed_m3_s
from .base import Context, Finding, Remedy, names
from .staging import stages_told

ROOM = 1.1  # what a sensor is chosen with above the worst value
STOPPED_KPA, STOPPED_SHARE = 3.0, 0.02  # how far off a sensor may read at rest: the larger of both


def too_short(context: Context) -> Iterator[Finding]:
    """A sensor that does not reach the worst value computed where it sits."""
    for sensor in context.option.sensors:
        asked = _asked(context, sensor)
        low, high, unit = sensor.reach
        if not asked:
            continue
        rich = sensor.measures == "exhaust mixture"  # its rich end counts
        worst = min(asked.values()) if rich else max(asked.values())
        if low <= worst if rich else worst <= high:
            continue
        yield Finding(
            "sensor-short",
            "note" if sensor.read_by == "logger alone" else "warn",
            "demand",
            "Sensor does not reach what it is to read",
            f"{{sensor}} reads {'from' if rich else 'up to'} {{range_{unit}}}; the {{what}} may reach {{worst_{unit}}}"
            + (", with stages held on as the throttle shuts, or a relief valve, counted." if _rail(sensor) else "."),
            "At the end of its range a sensor stands still: {reader} goes on by a number that is no longer true.",
            {
                "sensor": sensor.name,
                "what": sensor.measures,
                f"range_{unit}": low if rich else high,
                f"worst_{unit}": worst,
                "reader": f"the {sensor.read_by.removesuffix(' alone')}",
            },
            () if _rail(sensor) else tuple(name for name, one in asked.items() if (one < low if rich else one > high)),
            (_longer(context, sensor, worst),),
        )


def _rail(sensor: Sensor) -> bool:
    return sensor.measures in ("low rail pressure", "direct rail pressure")


# The field that says how far a sensor reaches, by the unit of what it reads.
_END = {"kpa": "reads_to_kpa", "c": "reads_to_c", "kg_s": "reads_to_kg_s", "lambda": "low_lambda"}


def _longer(context: Context, sensor: Sensor, worst: float) -> Remedy:
    """The shortest range of the shelf that reaches, with room, what is to be read; a figure where there is none."""
    unit, rich = sensor.reach[2], sensor.measures == "exhaust mixture"
    path, end = context.path(f"sensors/{sensor.id}"), _END[unit]
    reach = worst / ROOM if rich else worst * ROOM

    def reaches(one: SensorPart) -> bool:
        low, high, _ = one.reach
        return one.measures == sensor.measures and (low <= reach if rich else high >= reach)

    alike = [one for one in context.catalogue.sensors if reaches(one)]
    if not alike:
        fit = float(f"{reach:.2g}") if rich or unit == "kg_s" else round(reach, -1)
        words = f"Fit one that reads {'from' if rich else 'up to'} {{fit_{unit}}}, and tell its scaling to who reads it"
        return Remedy(words, ((f"{path}/{end}", fit),), {f"fit_{unit}": fit})
    other = max(alike, key=lambda one: one.reach[0]) if rich else min(alike, key=lambda one: one.reach[1])
    edits = tuple(fitting(path, type(sensor), other))
    return Remedy("Fit {sensor}, and tell its scaling to who reads it", edits, {"sensor": other.name})


def _asked(context: Context, sensor: Sensor) -> dict[str, float]:
    """What a sensor is to read on every target, in its own unit; nothing where it has nothing to read."""
    of_target: dict[str, Callable[[TargetVerdict], float]] = {
        "manifold pressure": lambda verdict: context.build.car.barometer_kpa + verdict.target.boost_kpa,
        "air flow": lambda verdict: float(verdict.demand.air_kg_s),
        "charge temperature": lambda verdict: verdict.target.charge_temp_c,
        "fuel temperature": lambda verdict: verdict.target.fuel_temp_c,
        "exhaust mixture": lambda verdict: verdict.target.lambda_,
    }
    if sensor.measures in of_target:
        return {verdict.target.name: of_target[sensor.measures](verdict) for verdict in context.verdicts}
    if sensor.measures == "low rail pressure":
        held = [switch.lift_off_rail_kpa for each in stages_told(context).switches for switch in each]
        rails = [float(verdict.points.hydraulics.rail_kpa.max()) for verdict in context.verdicts]
        return {"": float(np.nanmax(rails + held))}  # no lift-off is worked out where notes are not asked for
    high = context.option.high_side
    return {} if high is None else {"": max(*high.target.kpa, high.relief_kpa or 0.0)}


def starts_too_high(context: Context) -> Iterator[Finding]:
    """A sensor whose range begins above what it reads at idle, so that it cannot be checked with the engine stopped."""
    for sensor in context.option.sensors:
        idle = _stopped_kpa(context, sensor)
        if sensor.measures == "manifold pressure":
            idle += context.build.engine.idle_manifold_kpa
        if sensor.measures in PRESSURES and sensor.low_kpa > max(idle, 0.0):
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


def _stopped_kpa(context: Context, sensor: Sensor) -> float:
    """What a pressure sensor reads with the engine stopped and its rail relieved."""
    return context.build.car.barometer_kpa if sensor.measures == "manifold pressure" else 0.0


def scaled_wrong(context: Context) -> Iterator[Finding]:
    """A pressure sensor that was seen to read something else than the barometer, or nothing, with the engine stopped."""
    for sensor in context.option.sensors:
        if sensor.stopped_kpa is None or sensor.measures not in PRESSURES:
            continue
        meant, (low, high, _) = _stopped_kpa(context, sensor), sensor.reach
        if abs(sensor.stopped_kpa - meant) <= max(STOPPED_KPA, STOPPED_SHARE * (high - low)):
            continue
        signal = sensor.low_v + (sensor.high_v - sensor.low_v) * (meant - low) / (high - low)
        yield Finding(
            "sensor-scaling",
            "warn",
            "demand",
            "Sensor does not read what is there with the engine stopped",
            "{sensor} was seen to read {seen_kpa}; with the engine stopped there are {meant_kpa}, a signal of "
            "{signal_v}.",
            "A scaling that is out at rest is out everywhere: boost, base pressure and every fuel figure from it.",
            {"sensor": sensor.name, "seen_kpa": sensor.stopped_kpa, "meant_kpa": meant, "signal_v": signal},
            (),
            (
                Remedy("Enter the scaling of this sensor where it is read, and look again"),
                Remedy("Measure its signal and its ground: a poor ground lifts every reading"),
                Remedy(
                    "Seen again: it reads {meant_kpa}",
                    ((context.path(f"sensors/{sensor.id}/stopped_kpa"), meant),),
                    {"meant_kpa": meant},
                ),
            ),
        )


def before_throttle(context: Context) -> Iterator[Finding]:
    """A manifold sensor that sits before the throttle and is the only one the controller has."""
    of_manifold = [one for one in context.option.sensors if one.measures == "manifold pressure"]
    for sensor in of_manifold:
        behind = [one for one in of_manifold if one.place == "after the throttle" and one.read_by == sensor.read_by]
        if sensor.place == "after the throttle" or behind or sensor.read_by == "logger alone":
            continue
        yield Finding(
            "sensor-place",
            "warn",
            "demand",
            "Manifold sensor sits before the throttle",
            "{sensor} sees what the compressor makes, not what the engine breathes; {reader} has no other.",
            "At part throttle it reads charge pressure or barometer while the manifold is in vacuum: mixture, staging "
            "and the port rail's fade go by a load that is not there.",
            {"sensor": sensor.name, "reader": f"the {sensor.read_by}"},
            (),
            (
                Remedy(
                    "Take its pressure after the throttle",
                    ((context.path(f"sensors/{sensor.id}/place"), "after the throttle"),),
                ),
            ),
        )


def _through_sensor_m3_s(option: Option, verdict: TargetVerdict) -> float:
    """The most that passes an ethanol sensor where it sits, m³/s: the feed, what returns, or its branch's share."""
    assert option.ethanol_sensor is not None
    hyd = verdict.points.hydraulics
    if option.ethanol_sensor.place == "in the return":
        return float(hyd.bypass_m3_s.max())
    through = float(through_feed_m3_s(option, hyd)[PEAK])
    standing = in_branch(option)
    if standing is None or option.split is None:
        return through
    fluid = FluidState(verdict.fuel.density_kg_m3, verdict.fuel.viscosity_mpa_s)
    joined = rails_joined(option)
    return float(split_flows_m3_s(option.split, floats([through]), fluid, joined, standing)[0, 0])


def ethanol_flow(context: Context) -> Iterator[Finding]:
    """An ethanol sensor with more flow through it than it bears, where it cannot see the fuel, or backwards."""
    sensor = context.option.ethanol_sensor
    if sensor is None:
        return
    path = context.path("ethanol_sensor")
    flows = [_through_sensor_m3_s(context.option, one) for one in context.verdicts]
    most = max(flows) / M3_S_PER_L_H
    bears = np.inf if sensor.flow_to_l_h is None else sensor.flow_to_l_h
    over = [one for one, flow in zip(context.verdicts, flows, strict=True) if flow / M3_S_PER_L_H > bears]
    returning = context.option.regulator.arrangement not in ("returnless, speed-controlled", "carburettor, deadhead")
    if sensor.place != "in the feed, before the split":
        blind = sensor.place == "in the return" and not returning
        flowing = sensor.place == "in the return" and returning  # what is in the feed comes by there, a little later
        yield Finding(
            "ethanol-place",
            "stop" if blind else "note" if flowing else "warn",
            "feed",
            "Ethanol sensor where nothing flows" if blind else "Ethanol sensor where it sees old fuel",
            "It sits {place}: "
            + ("nothing returns in this arrangement, so it never sees the fuel." if blind else "a new blend comes late."),
            "A sensor reads only what flows through it; before the split it sees what the engine is about to burn.",
            {"place": sensor.place},
            (),
            (Remedy("Move it into the feed, before the split", ((f"{path}/place", "in the feed, before the split"),)),),
        )
    if over:
        fit = round(most * ROOM, -1)
        yield Finding(
            "ethanol-flow",
            "warn",
            "feed",
            "More flow than the ethanol sensor bears",
            "{flow_l_h} pass it; it is made for {most_l_h} at most.",
            "Past that it throttles the line and reads unsteadily.",
            {"flow_l_h": most, "most_l_h": float(bears)},
            names(over),
            (
                Remedy(
                    "Fit one for {fit_l_h}", ((f"{path}/flow_to_l_h", fit), (f"{path}/bore_mm", 9.0)), {"fit_l_h": fit}
                ),
                Remedy("Or let it stand in a by-pass of its line as its maker shows"),
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


RULES = (too_short, starts_too_high, scaled_wrong, before_throttle, ethanol_flow)
