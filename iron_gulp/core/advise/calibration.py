"""Rules about what the controller was told: sensor range, injector data, blend, pump controller."""

from collections.abc import Iterator

import numpy as np

from ..physics import blend_lambda, swap_lambda
from ..solve import IDLE, PEAK, fuel_state
from .base import Context, Finding, Remedy
from .injectors import told_dead_ms
from .words import leaner, richer_by

SENSOR_RANGES_KPA_ABS = (105.0, 200.0, 250.0, 300.0, 400.0, 500.0, 700.0, 1000.0)
FLOW_TOLERANCE = 0.02
IDLE_TOLERANCE = 0.03
STRONG_PCT = 50.0
WINTER_PCT, SUMMER_PCT = 60.0, 85.0


def sensor_range(context: Context) -> Iterator[Finding]:
    """The manifold sensor ends below the boost asked for."""
    reads = context.option.calibration.map_range_kpa_abs
    barometer = context.build.car.barometer_kpa
    beyond = [v for v in context.verdicts if reads is not None and barometer + v.target.boost_kpa > reads]
    if reads is None or not beyond:
        return
    top = max(barometer + v.target.boost_kpa for v in beyond)
    wide = next((one for one in SENSOR_RANGES_KPA_ABS if one >= top * 1.05), None)
    yield Finding(
        "sensor-range",
        "stop",
        "demand",
        "Boost beyond the manifold sensor",
        "The sensor reads up to {reads_kpa_abs} absolute; the targets ask for {top_kpa_abs}.",
        "Past its range the controller sees no more air and adds no more fuel, while boost and load still rise.",
        {"reads_kpa_abs": reads, "top_kpa_abs": top},
        tuple(v.target.name for v in beyond),
        ()
        if wide is None
        else (
            Remedy(
                "Fit and enter a sensor that reads up to {wide_kpa_abs} absolute",
                ((context.path("calibration/map_range_kpa_abs"), wide),),
                {"wide_kpa_abs": wide},
            ),
        ),
    )


def injectors_untold(context: Context) -> Iterator[Finding]:
    """The controller still counts on other injectors."""
    told, fitted = context.option.calibration, context.option.injectors
    if fitted is None or told.injector_cc_min is None:
        return
    part = fitted.part
    assumed = told.injector_cc_min * float(np.sqrt(part.rated_pressure_kpa / told.injector_at_kpa))
    factor = float(swap_lambda(1.0, assumed, part.rated_flow_cc_min))
    if abs(factor - 1.0) <= FLOW_TOLERANCE:
        return
    lean = factor > 1.0
    yield Finding(
        "injectors-untold",
        "stop" if lean else "warn",
        "injectors",
        "The controller was never told about these injectors",
        "It counts on {told_cc_min} at {at_kpa}; fitted are {fitted_cc_min} at {rated_kpa}. At an equal pulse the "
        "mixture is {off}.",
        "An engine that idles on trims can still go lean at full load, where nothing trims.",
        {
            "told_cc_min": told.injector_cc_min,
            "at_kpa": told.injector_at_kpa,
            "fitted_cc_min": part.rated_flow_cc_min,
            "rated_kpa": part.rated_pressure_kpa,
            "off": leaner(factor),
        },
        (),
        (
            Remedy(
                "Enter {fitted_cc_min} at {rated_kpa}",
                (
                    (context.path("calibration/injector_cc_min"), part.rated_flow_cc_min),
                    (context.path("calibration/injector_at_kpa"), part.rated_pressure_kpa),
                ),
                {"fitted_cc_min": part.rated_flow_cc_min, "rated_kpa": part.rated_pressure_kpa},
            ),
        ),
    )


def base_untold(context: Context) -> Iterator[Finding]:
    """A base pressure that the controller reckons with and the regulator is not set to."""
    told, base = context.option.calibration.base_kpa, context.option.regulator.base_kpa
    if told is None or context.option.injectors is None or context.option.mode == "direct only":
        return
    factor = float(np.sqrt(told / base))
    if abs(factor - 1.0) <= FLOW_TOLERANCE:
        return
    yield Finding(
        "base-untold",
        "stop" if factor > 1.0 else "warn",
        "injectors",
        "The controller was never told of this base pressure",
        "It reckons with {told_kpa}; the regulator is set to {base_kpa}. At an equal pulse the injectors pass "
        "× {flow}, the square root of the ratio: the mixture is {off}.",
        "Flow goes with the square root of the pressure across the injector. What the controller believes of it is in "
        "every pulse it gives.",
        {"told_kpa": told, "base_kpa": base, "flow": f"{1.0 / factor:.3f}", "off": leaner(factor)},
        (),
        (
            Remedy("Tell it {base_kpa}", ((context.path("calibration/base_kpa"), base),), {"base_kpa": base}),
            Remedy(
                "Or set the regulator to {told_kpa}", ((context.path("regulator/base_kpa"), told),), {"told_kpa": told}
            ),
        ),
    )


def dead_times_untold(context: Context) -> Iterator[Finding]:
    """Dead times left at the old values: small at full load, large at idle."""
    told, fitted = context.option.calibration.dead_time_ms, context.option.injectors
    if fitted is None or told is None:
        return
    real = told_dead_ms(fitted.part)
    worst = min(context.verdicts, key=lambda v: float(v.points.effective_ms[IDLE]))
    idle, peak = (float(worst.points.effective_ms[at]) for at in (IDLE, PEAK))
    if idle <= 0 or abs(told - real) / idle <= IDLE_TOLERANCE:
        return
    yield Finding(
        "dead-times-untold",
        "warn",
        "injectors",
        "Dead times left at other injectors' values",
        "At 13.5 V {told_ms} are entered and these need {real_ms}. On {target_name} idle needs {idle_ms} beside that: "
        "its mixture is {idle_off}, that of full load {peak_off}.",
        "Dead time is a fixed share of every pulse: what full load forgives, idle does not.",
        {
            "told_ms": told,
            "real_ms": real,
            "target_name": worst.target.name,
            "idle_ms": idle,
            "idle_off": richer_by((told - real) / idle * 100.0),
            "peak_off": richer_by((told - real) / peak * 100.0),
        },
        (worst.target.name,),
        (
            Remedy(
                "Enter {real_ms} at 13.5 V, and the whole table",
                ((context.path("calibration/dead_time_ms"), round(real, 4)),),
                {"real_ms": real},
            ),
        ),
    )


def blend_assumed(context: Context) -> Iterator[Finding]:
    """A strong blend entered by hand: what is sold as one blend is another by season."""
    strong = [v for v in context.verdicts if v.target.ethanol_pct >= STRONG_PCT]
    if context.option.calibration.blend != "entered by hand" or not strong:
        return
    worst = max(strong, key=lambda v: v.target.ethanol_pct)
    other_pct = WINTER_PCT if worst.target.ethanol_pct > (WINTER_PCT + SUMMER_PCT) / 2 else SUMMER_PCT
    meant, other = worst.fuel, fuel_state(context.build, worst.target.model_copy(update={"ethanol_pct": other_pct}))
    becomes = float(
        blend_lambda(worst.target.lambda_, meant.stoich_afr, meant.density_kg_m3, other.stoich_afr, other.density_kg_m3)
    )
    yield Finding(
        "blend-assumed",
        "warn",
        "fuel",
        "The blend is assumed, not measured",
        "{target_name} counts on {ethanol_pct} ethanol. Should the tank hold {other_pct}, λ {lambda_meant} becomes "
        "{lambda_real} at the same pulses.",
        "What is sold as E85 is nearer E60 in winter, and what is left in the tank mixes in. The measured value counts.",
        {
            "target_name": worst.target.name,
            "ethanol_pct": worst.target.ethanol_pct,
            "other_pct": other_pct,
            "lambda_meant": f"{worst.target.lambda_:.2f}",
            "lambda_real": f"{becomes:.2f}",
        },
        (worst.target.name,),
        (
            Remedy(
                "Fit an ethanol sensor and let the controller follow it",
                ((context.path("calibration/blend"), "measured by a sensor"),),
            ),
        ),
    )


def pump_controller(context: Context) -> Iterator[Finding]:
    """A speed controller that was never set for these pumps."""
    option = context.option
    returnless = option.regulator.arrangement == "returnless, speed-controlled"
    driven = [g for g in option.pumps if g.part.kind == "brushless" or g.wiring.switch == "controller" or returnless]
    state = option.calibration.pump_controller
    if not driven or state == "set for these pumps":
        return
    untold = state == "none fitted"
    yield Finding(
        "pump-controller",
        "note" if untold else "warn",
        "pump",
        "Nobody says how the pump controller was set" if untold else "Pump controller set for other pumps",
        "{part} runs on a speed controller; its current limit, ramp and slowest speed belong to one pump.",
        "Powered up with another pump's values a controller can overrun the pump dry, or cut it at full load.",
        {"part": driven[0].part.name},
        (),
        (
            Remedy(
                "Set the controller for these pumps before power is put on it",
                ((context.path("calibration/pump_controller"), "set for these pumps"),),
            ),
        ),
    )


RULES = (sensor_range, injectors_untold, base_untold, dead_times_untold, blend_assumed, pump_controller)
