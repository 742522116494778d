"""A second sampler, written from physics §8 on the model itself: one car like the one entered, as it might really be."""

from math import sqrt
from typing import Any

import numpy as np

from iron_gulp.core.model import Build, Line, Option, apply, driveline_loss, expected_bsfc_kg_kwh, injects_directly
from iron_gulp.core.solve import fittings_loss

# The spreads of §8: standard deviations, wear uniform from none to a tenth.
SPREADS: dict[str, float] = {
    "consumption": 0.08,
    "driveline": 3.0,
    "injector_set": 0.02,
    "injector_each": 0.015,
    "dead_time": 0.05,
    "pump_flow": 0.04,
    "pump_wear": 0.10,
    "voltage": 0.3,
    "blend_measured": 2.0,
    "blend_assumed": 8.0,
    "fuel_temperature": 8.0,
    "bores": 0.03,
    "fittings": 0.20,
    "base_pressure": 4.0,
}


def real_one(build: Build, rng: np.random.Generator, spreads: dict[str, float] = SPREADS) -> Build:
    """One car drawn from what is entered; the option is the first."""

    def off(name: str) -> float:
        return float(rng.normal()) * spreads.get(name, 0.0)

    burnt = 1 + off("consumption")
    loss, temperature, volts = off("driveline"), off("fuel_temperature"), off("voltage")
    fills: dict[tuple[str, float], float] = {}
    told = "blend_measured" if build.options[0].calibration.blend == "measured by a sensor" else "blend_assumed"
    targets = []
    for one in build.targets:
        fill = (one.base_fuel, one.ethanol_pct)
        if fill not in fills:
            fills[fill] = off(told)
        pct = one.ethanol_pct + fills[fill]
        if one.base_fuel != "gasoline" and one.ethanol_pct == 0:
            pct = 0.0
        targets.append(
            one.model_copy(
                update={
                    "bsfc_kg_kwh": expected_bsfc_kg_kwh(one, build.engine, injects_directly(build.options[0])) * burnt,
                    "ve_pct": (build.engine.ve_pct if one.ve_pct is None else one.ve_pct) * burnt,
                    "fuel_temp_c": min(max(one.fuel_temp_c + temperature, -40.0), 90.0),
                    "supply_v": max(one.supply_v + volts, 4.0),
                    "ethanol_pct": min(max(pct, 0.0), 100.0),
                }
            )
        )
    car = build.car.model_copy(update={"loss_pct": min(max(driveline_loss(build.car) * 100 + loss, 0.0), 80.0)})
    option = _option(build.options[0], build.engine.cylinders, off, rng, spreads)
    return build.model_copy(update={"car": car, "targets": tuple(targets), "options": (option,)})


def _option(option: Option, cylinders: int, off: Any, rng: np.random.Generator, spreads: dict[str, float]) -> Option:
    def brings() -> float:
        return (1 + off("pump_flow")) * (1 - spreads.get("pump_wear", 0.0) * float(rng.uniform()))

    def injectors(count: int) -> float:
        each = [off("injector_each") for _ in range(count)]
        return (1 + off("injector_set")) * (1 + sum(each) / count)

    def pumped(part: Any, factor: float) -> Any:
        curves = tuple(
            one.model_copy(update={"flow_l_h": tuple(flow * factor for flow in one.flow_l_h)}) for one in part.curves
        )
        return part.model_copy(update={"curves": curves})

    def line(one: Line) -> Line:
        part = one.part.model_copy(update={"bore_mm": one.part.bore_mm * (1 + off("bores"))})
        return one.model_copy(update={"part": part, "k_sum": one.k_sum * (1 + off("fittings"))})

    changes: dict[str, Any] = {
        "pumps": tuple(group.model_copy(update={"part": pumped(group.part, brings())}) for group in option.pumps),
        "feed": line(option.feed),
        "return_line": line(option.return_line),
        "regulator": option.regulator.model_copy(
            update={"base_kpa": max(option.regulator.base_kpa + off("base_pressure"), 1.0)}
        ),
    }
    if option.injectors is not None:
        part = option.injectors.part
        dead = 1 + off("dead_time")
        real = part.model_copy(
            update={
                "rated_flow_cc_min": part.rated_flow_cc_min * injectors(option.injectors.count or cylinders),
                "dead_time_ms": tuple(one * dead for one in part.dead_time_ms),
            }
        )
        changes["injectors"] = option.injectors.model_copy(update={"part": real})
    if option.suction.line is not None:
        changes["suction"] = option.suction.model_copy(update={"line": line(option.suction.line)})
    high = option.high_side
    if high is not None:
        pumps = []
        for one in high.pumps:
            part = one.part.model_copy(update={"valve_factor": one.part.valve_factor * brings()})
            pumps.append(one.model_copy(update={"part": part}))
        own = high.injectors.part
        factor = injectors(high.injectors.count or cylinders)
        real = own.model_copy(update={"rated_flow_cc_min": own.rated_flow_cc_min * factor})
        changes["high_side"] = high.model_copy(
            update={
                "pumps": tuple(pumps),
                "injectors": high.injectors.model_copy(update={"part": real}),
                "branches": tuple(line(one) for one in high.branches),
            }
        )
    return option.model_copy(update=changes)


def plain(build: Build) -> Build:
    """A build whose lines say their losses as one figure, so that it may be scaled."""

    def one(line: Line) -> Line:
        loss = fittings_loss(line)
        return line.model_copy(update={"fittings": (), "k_sum": line.k_sum + loss.constant})

    option = build.options[0]
    changes: dict[str, Any] = {"feed": one(option.feed), "return_line": one(option.return_line)}
    return build.model_copy(update={"options": (option.model_copy(update=changes),)})


def moved(build: Build, factor: float) -> Build:
    """A build with its targets' powers changed, to be nearer a limit or further from it."""
    return apply(build, [(f"targets/{one.id}/power_kw", one.power_kw * factor) for one in build.targets])


def within(share: float, count: int, wanted: float = 0.9, sigmas: float = 4.0) -> bool:
    """Whether a share of a count is what was wanted, up to so many standard deviations of counting."""
    return abs(share - wanted) <= sigmas * sqrt(wanted * (1 - wanted) / count)
