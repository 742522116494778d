"""The calculators of the injector bench: what an unmarked injector is, and what a swap does to an untold controller."""

from iron_gulp.core.physics import rated_from_catch_cc_min, swap_lambda
from iron_gulp.units import signed

from ...parts.calculators import Calculator, Show, Spec, Values

LB_H_CC_MIN = 10.5  # the catalogue figure, 0.72 kg/L


def _identify(x: Values, text: Show) -> str:
    measured = x["caught_cc"] / x["seconds_s"] * 60.0
    rated = float(rated_from_catch_cc_min(x["caught_cc"], x["seconds_s"], x["held_kpa"], x["fluid_kg_m3"]))
    pounds = text(rated / LB_H_CC_MIN, "catalogue", f"{rated / LB_H_CC_MIN:.3g} lb/h")
    flow, own = text(rated, "rated_cc_min"), text(measured, "measured_cc_min")
    return f"{own} of this fluid there: {flow} of n-heptane at 300 kPa, about {pounds} by the catalogue figure."


def _swap(x: Values, text: Show) -> str:
    def factor(pulse_ms: float) -> float:
        return float(
            swap_lambda(1.0, x["told_cc_min"], x["fitted_cc_min"], pulse_ms, x["told_dead_ms"], x["fitted_dead_ms"])
        )

    idle, load = factor(x["idle_pulse_ms"]), factor(x["load_pulse_ms"])
    if not (idle < 100 and load < 100):
        return "The pulse is shorter than the dead time of these injectors: they do not open."
    trim = (idle - 1.0) * 100.0
    asks = text(trim, "trim_pct", f"{signed(trim)}\u00a0%")
    within = abs(trim) <= x["authority_pct"]
    covered = "within its authority" if within else f"beyond its {x['authority_pct']:g} %"
    runs = text(load * x["meant_lambda"], "load_lambda")
    way = "lean" if load > 1.005 else "rich" if load < 0.995 else "as meant"
    return (
        f"At idle the closed loop has to trim {asks}, {covered}. At full load, where nothing trims, it runs "
        f"{runs} for {text(x['meant_lambda'], 'meant_lambda')} meant: {way}."
    )


_IDENTIFIES = {
    "measured_cc_min": ("Flow of this fluid", "flow = 60·V ÷ t"),
    "rated_cc_min": ("Rated flow, n-heptane at 300 kPa", "rated = 60·V ÷ t · √(300 ÷ p) · √(ρ ÷ 684)"),
    "catalogue": ("By the catalogue figure, lb/h", "pounds = 60·V ÷ t · √(300 ÷ p) · √(ρ ÷ 684) ÷ 10.5"),
}
_SWAPS = {
    "trim_pct": ("Trim at idle", "trim = q_0·t_i ÷ (q_1·(t_i + d_0 − d_1)) − 1"),
    "load_lambda": ("Mixture at full load", "mixture = λ·q_0·t_l ÷ (q_1·(t_l + d_0 − d_1))"),
    "meant_lambda": ("Mixture meant", "meant = λ"),
}

INJECTOR_CALCULATORS: dict[str, Calculator] = {
    "identify": Calculator(
        "What is this injector? Caught on a bench",
        (
            Spec("caught_cc", "Caught", 100.0, 0.1, 10_000.0, "V"),
            Spec("seconds_s", "held open for", 15.0, 0.5, 600.0, "t"),
            Spec("held_kpa", "at", 300.0, 20.0, 1500.0, "p"),
            Spec("fluid_kg_m3", "of fluid", 825.0, 600.0, 1100.0, "ρ"),
        ),
        _identify,
        "Calibration fluid is some 825 kg/m\u00b3, n-heptane 684, gasoline 741. Held open, not pulsed; eye protection, "
        "no spray of fuel where anything can light it.",
        "Cannot be told",
        _IDENTIFIES,
        "SAE J1832; orifice law",
    ),
    "swap": Calculator(
        "Another set, and a controller that was not told",
        (
            Spec("told_cc_min", "Controller counts on", 800.0, 20.0, 20_000.0, "q_0"),
            Spec("fitted_cc_min", "Fitted instead", 1000.0, 20.0, 20_000.0, "q_1"),
            Spec("told_dead_ms", "Dead time it counts on", 0.9, 0.0, 10.0, "d_0"),
            Spec("fitted_dead_ms", "of the new set", 0.9, 0.0, 10.0, "d_1"),
            Spec("idle_pulse_ms", "Pulse at idle", 1.2, 0.05, 50.0, "t_i"),
            Spec("load_pulse_ms", "at full load", 12.0, 0.05, 100.0, "t_l"),
            Spec("meant_lambda", "Mixture meant there", 0.8, 0.4, 1.5, "λ"),
            Spec("authority_pct", "Trim authority", 25.0, 1.0, 100.0),
        ),
        _swap,
        "Pulses without dead time, both flows at one pressure. A trim that falls with load is an air leak, one that "
        "grows with flow is supply or scalar, one at short pulses alone is dead time.",
        "Cannot be told",
        _SWAPS,
        "the controller's own sum: fuel goes with open time, dead time apart",
    ),
}
