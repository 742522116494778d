"""The calculators of the fuel bench: mixing, draining, the ethanol sensor both ways and its proof."""

from collections.abc import Mapping

from iron_gulp.core.physics import (
    drain_to_blend,
    ethanol_signal,
    fill_to_blend,
    prove_sensor,
    read_ethanol_sensor,
    whole_cans,
)
from iron_gulp.units import BenchUnits

from ...parts.calculators import Calculator, CalculatorView, Show, Spec, Values, answered


def _mix(x: Values, text: Show) -> str:
    asked, priced = _priced(x)
    fill = fill_to_blend(**asked)
    strong, weak = text(fill.strong_l, "fill_l"), text(fill.weak_l, "fill_l")
    how = f"Fill to the top with {strong} of the strong fuel and {weak} of the weak fuel"
    if fill.reachable:
        return f"{how}: E{fill.reached_pct:.3g}{_cost(fill.strong_l, fill.weak_l, priced)}."
    return (
        f"E{fill.wanted_pct:.3g} cannot be reached in this tank: from E{fill.lowest_pct:.3g} to E{fill.highest_pct:.3g} "
        f"can. Nearest: {how[0].lower()}{how[1:]}, giving E{fill.reached_pct:.3g}."
    )


def _sensor(x: Values, text: Show) -> str:
    reading = read_ethanol_sensor(**x)
    if reading.fault is not None or reading.ethanol_pct is None or reading.output_v is None:
        return f"Sensor fault: {reading.fault}. Do not run a strong blend on a signal that cannot be trusted."
    temp = "" if reading.temp_c is None else f", fuel at {text(reading.temp_c, 'temp_c')}"
    return f"E{reading.ethanol_pct:.3g}{temp}; {text(reading.output_v, 'output_v')} at the output."


def _cans(x: Values, text: Show) -> str:
    asked, priced = _priced(x)
    pour = whole_cans(**asked)
    left = x["tank_l"] - x["held_l"] - pour.strong_l - pour.weak_l
    room = f"; room for {text(left, 'left_l')} stays" if left > 0.05 else ""
    return (
        f"Pour {pour.strong_cans} of the strong and {pour.weak_cans} of the weak fuel: E{pour.reached_pct:.3g}"
        f" ({pour.strong_l:.3g} and {pour.weak_l:.3g} L{_cost(pour.strong_l, pour.weak_l, priced)}){room}."
    )


def _priced(x: Values) -> tuple[dict[str, float], tuple[float, float]]:
    """What is poured apart from what a litre of the strong and of the weak fuel costs."""
    return {name: value for name, value in x.items() if not name.startswith("price_")}, (
        x["price_strong"],
        x["price_weak"],
    )


def _cost(strong_l: float, weak_l: float, priced: tuple[float, float]) -> str:
    """What the pour costs in the shop's money; nothing where no price was typed."""
    cost = strong_l * priced[0] + weak_l * priced[1]
    return f", for {cost:.2f} in all" if cost > 0 else ""


def _drain(x: Values, text: Show) -> str:
    drain = drain_to_blend(**x)
    if not drain.reachable:
        return (
            f"E{x['wanted_pct']:.3g} lies beyond both fuels: filling up cannot come nearer than E{drain.nearest_pct:.3g}."
        )
    level = "to the top" if drain.level_l > x["tank_l"] - 0.05 else f"to {text(drain.level_l, 'level_l')}"
    if drain.drain_l < 0.05:
        return f"Nothing need go: fill it {level}."
    cans = "one can" if drain.cans == 1 else f"{drain.cans} cans"
    pumped = f"{drain.minutes:.3g} min of its own pump, {drain.ampere_h:.2g} A·h of the battery"
    keep, gone = text(drain.keep_l, "keep_l"), text(drain.drain_l, "drain_l")
    return f"At most {keep} may stay: drain {gone}, {cans}, {pumped}; then fill it {level}."


def _signal(x: Values, text: Show) -> str:
    found = ethanol_signal(**x)
    volts = text(found.output_v, "output_v")
    return f"{text(found.frequency_hz, 'frequency_hz')}, pulse {text(found.pulse_ms, 'pulse_ms')}; {volts} at the output."


def _proof(x: Values, text: Show) -> str:
    found = prove_sensor(**x)
    off = f"{abs(found.off_points):.2g} points {'above' if found.off_points > 0 else 'below'}"
    verdict = "passes" if found.passes else "does not pass: clean or replace it, and prove it again"
    return f"It should read E{found.expected_pct:.3g}; it reads {off}: {verdict}."


MIXED = (
    Spec("tank_l", "Tank", 60.0, 0.1, 1000.0),
    Spec("held_l", "In it now", 8.0, 0.0, 1000.0),
    Spec("held_pct", "at ethanol", 12.0, 0.0, 100.0),
    Spec("wanted_pct", "Wanted", 50.0, 0.0, 100.0),
    Spec("strong_pct", "Strong fuel", 85.0, 0.0, 100.0),
    Spec("weak_pct", "Weak fuel", 10.0, 0.0, 100.0),
    Spec("price_strong", "A litre of the strong costs", 0.0, 0.0, 1000.0),
    Spec("price_weak", "of the weak", 0.0, 0.0, 1000.0),
)

CALCULATORS: dict[str, Calculator] = {
    "mixing": Calculator(
        "Mix at the pump",
        MIXED,
        _mix,
        "Volumes add up. What is sold as a strong blend varies with the season: the measured value counts.",
        "Cannot be mixed",
    ),
    "cans": Calculator(
        "The same in whole cans",
        (
            *MIXED,
            Spec("can_l", "A can holds", 10.0, 0.5, 200.0),
        ),
        _cans,
        "The pour that comes nearest, fullest tank first. Cans bonded against static, approved, never filled in the car.",
        "Cannot be poured",
    ),
    "drain": Calculator(
        "Bring it down to a blend",
        (
            Spec("tank_l", "Tank", 60.0, 0.1, 1000.0),
            Spec("held_l", "In it now", 40.0, 0.0, 1000.0),
            Spec("held_pct", "at ethanol", 78.0, 0.0, 100.0),
            Spec("wanted_pct", "Wanted", 30.0, 0.0, 100.0),
            Spec("fill_pct", "Filled up with", 10.0, 0.0, 100.0),
            Spec("can_l", "A can holds", 20.0, 0.5, 200.0),
            Spec("flow_l_h", "Pump moves", 200.0, 1.0, 5000.0),
            Spec("current_a", "at", 10.0, 0.0, 200.0),
        ),
        _drain,
        "Ventilated, no ignition source, extinguisher to hand, cans bonded and approved; mark what is drained "
        "with its blend and date.",
        "Cannot be brought down",
    ),
    "signal": Calculator(
        "What an ethanol sensor should give",
        (
            Spec("ethanol_pct", "Ethanol", 50.0, 0.0, 100.0),
            Spec("temp_c", "Fuel at", 30.0, -40.0, 125.0),
            Spec("zero_v", "Output at 0 %", 0.0, 0.0, 10.0),
            Spec("full_v", "at 100 %", 5.0, 0.0, 10.0),
        ),
        _signal,
        "For the controller: 0 % is 50 Hz, 50 % is 100 Hz, 100 % is 150 Hz; in between it is a straight line.",
        "Cannot be told",
    ),
    "proof": Calculator(
        "Prove a sensor against a known mix",
        (
            Spec("first_l", "Of one fuel", 1.0, 0.0, 100.0),
            Spec("first_pct", "at ethanol", 0.0, 0.0, 100.0),
            Spec("second_l", "Of the other", 1.0, 0.0, 100.0),
            Spec("second_pct", "at ethanol", 100.0, 0.0, 100.0),
            Spec("read_pct", "It reads", 52.0, 0.0, 100.0),
            Spec("tolerance_points", "Allowed, points", 3.0, 0.1, 30.0),
        ),
        _proof,
        "Measure both volumes at one temperature; a sensor where nothing flows reads old fuel.",
        "Cannot be proven",
    ),
    "sensor": Calculator(
        "Read an ethanol sensor",
        (
            Spec("frequency_hz", "Frequency", 85.0, 0.0, 1000.0),
            Spec("pulse_ms", "Pulse width", 2.6, 0.0, 20.0),
            Spec("zero_v", "Output at 0 %", 0.0, 0.0, 10.0),
            Spec("full_v", "at 100 %", 5.0, 0.0, 10.0),
        ),
        _sensor,
        "Automotive convention: 50 to 150 Hz is 0 to 100 %, 1 to 5 ms is −40 to 125 °C. Prove it against a known mix.",
        "Cannot be read",
    ),
}


def calculator_view(
    key: str, typed: Mapping[str, str], units: BenchUnits, starts: Mapping[str, float] | None = None
) -> CalculatorView:
    """A calculator of this bench with its answer. Raises KeyError for an unknown one."""
    return answered(key, CALCULATORS[key], typed, units, starts)
