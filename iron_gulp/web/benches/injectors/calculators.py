"""The calculators of the injector bench: what an unmarked injector is, and what a swap does to an untold controller."""

from iron_gulp.core.physics import rated_from_catch_cc_min, swap_lambda

from ...parts.calculators import Calculator, Show, Spec, Values

LB_H_CC_MIN = 10.5  # the catalogue figure, 0.72 kg/L


def _identify(x: Values, text: Show) -> str:
    measured = x["caught_cc"] / x["seconds_s"] * 60.0
    rated = float(rated_from_catch_cc_min(x["caught_cc"], x["seconds_s"], x["held_kpa"], x["fluid_kg_m3"]))
    pounds = f"{rated / LB_H_CC_MIN:.3g}"
    flow, own = text(rated, "rated_cc_min"), text(measured, "measured_cc_min")
    return f"{own} of this fluid there: {flow} of n-heptane at 300 kPa, about {pounds} lb/h by the catalogue figure."


def _swap(x: Values, text: Show) -> str:
    def factor(pulse_ms: float) -> float:
        return float(
            swap_lambda(1.0, x["told_cc_min"], x["fitted_cc_min"], pulse_ms, x["told_dead_ms"], x["fitted_dead_ms"])
        )

    idle, load = factor(x["idle_pulse_ms"]), factor(x["load_pulse_ms"])
    if not (idle < 100 and load < 100):
        return "The pulse is shorter than the dead time of these injectors: they do not open."
    trim = (idle - 1.0) * 100.0
    within = abs(trim) <= x["authority_pct"]
    covered = "within its authority" if within else f"beyond its {x['authority_pct']:g} %"
    runs = text(load * x["meant_lambda"], "load_lambda")
    way = "lean" if load > 1.005 else "rich" if load < 0.995 else "as meant"
    return (
        f"At idle the closed loop has to trim {trim:+.0f} %, {covered}. At full load, where nothing trims, it runs "
        f"{runs} for {text(x['meant_lambda'], 'meant_lambda')} meant: {way}."
    )


INJECTOR_CALCULATORS: dict[str, Calculator] = {
    "identify": Calculator(
        "What is this injector? Caught on a bench",
        (
            Spec("caught_cc", "Caught", 100.0, 0.1, 10_000.0),
            Spec("seconds_s", "held open for", 15.0, 0.5, 600.0),
            Spec("held_kpa", "at", 300.0, 20.0, 1500.0),
            Spec("fluid_kg_m3", "of fluid", 825.0, 600.0, 1100.0),
        ),
        _identify,
        "Calibration fluid is some 825 kg/m\u00b3, n-heptane 684, gasoline 741. Held open, not pulsed; eye protection, "
        "no spray of fuel where anything can light it.",
        "Cannot be told",
    ),
    "swap": Calculator(
        "Another set, and a controller that was not told",
        (
            Spec("told_cc_min", "Controller counts on", 800.0, 20.0, 20_000.0),
            Spec("fitted_cc_min", "Fitted instead", 1000.0, 20.0, 20_000.0),
            Spec("told_dead_ms", "Dead time it counts on", 0.9, 0.0, 10.0),
            Spec("fitted_dead_ms", "of the new set", 0.9, 0.0, 10.0),
            Spec("idle_pulse_ms", "Pulse at idle", 1.2, 0.05, 50.0),
            Spec("load_pulse_ms", "at full load", 12.0, 0.05, 100.0),
            Spec("meant_lambda", "Mixture meant there", 0.8, 0.4, 1.5),
            Spec("authority_pct", "Trim authority", 25.0, 1.0, 100.0),
        ),
        _swap,
        "Pulses without dead time, both flows at one pressure. A trim that falls with load is an air leak, one that "
        "grows with flow is supply or scalar, one at short pulses alone is dead time.",
        "Cannot be told",
    ),
}
