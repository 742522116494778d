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


def _blend(text: Show, value: float, name: str) -> str:
    """A blend as it is called."""
    return text(value, name, f"E{value:.3g}")


def _mix(x: Values, text: Show) -> str:
    asked, priced = _priced(x)
    fill = fill_to_blend(**asked)
    strong, weak = text(fill.strong_l, "strong_l"), text(fill.weak_l, "weak_l")
    reached = _blend(text, fill.reached_pct, "reached_pct")
    how = f"ill to the top with {strong} of the strong fuel and {weak} of the weak fuel"
    if fill.reachable:
        return f"F{how}: {reached}{_cost(text, fill.strong_l, fill.weak_l, priced)}."
    low, high = _blend(text, fill.lowest_pct, "lowest_pct"), _blend(text, fill.highest_pct, "highest_pct")
    return (
        f"E{fill.wanted_pct:.3g} cannot be reached in this tank: from {low} to {high} can. "
        f"Nearest: f{how}, giving {reached}."
    )


def _sensor(x: Values, text: Show) -> str:
    reading = read_ethanol_sensor(**x)
    if reading.fault is not None or reading.ethanol_pct is None or reading.output_v is None:
        return f"Sensor fault: {reading.fault}. Do not run a strong blend on a signal that cannot be trusted."
    temp = "" if reading.temp_c is None else f", fuel at {text(reading.temp_c, 'fuel_temp_c')}"
    return (
        f"{_blend(text, reading.ethanol_pct, 'ethanol_pct')}{temp}; {text(reading.output_v, 'output_v')} at the output."
    )


def _cans(x: Values, text: Show) -> str:
    asked, priced = _priced(x)
    pour = whole_cans(**asked)
    left = x["tank_l"] - x["held_l"] - pour.strong_l - pour.weak_l
    room = f"; room for {text(left, 'room_l')} stays" if left > 0.05 else ""
    strong, weak = (text(cans, name, f"{cans}") for cans, name in _counted(pour.strong_cans, pour.weak_cans))
    litres = f"{text(pour.strong_l, 'strong_l')} and {text(pour.weak_l, 'weak_l')}"
    return (
        f"Pour {strong} of the strong and {weak} of the weak fuel: {_blend(text, pour.reached_pct, 'reached_pct')}"
        f" ({litres}{_cost(text, pour.strong_l, pour.weak_l, priced)}){room}."
    )


def _counted(strong: int, weak: int) -> tuple[tuple[int, str], tuple[int, str]]:
    """Cans of both fuels with the names of their numbers."""
    return (strong, "strong_cans_count"), (weak, "weak_cans_count")


def _priced(x: Values) -> tuple[dict[str, float], tuple[float, float]]:
    """What is poured apart from what a litre of the strong and of the weak fuel costs."""
    return {name: value for name, value in x.items() if not name.startswith("price_")}, (
        x["price_strong"],
        x["price_weak"],
    )


def _cost(text: Show, strong_l: float, weak_l: float, priced: tuple[float, float]) -> str:
    """What the pour costs in the shop's money; nothing where no price was typed."""
    cost = strong_l * priced[0] + weak_l * priced[1]
    return f", for {text(cost, 'cost', f'{cost:.2f}')} in all" if cost > 0 else ""


def _drain(x: Values, text: Show) -> str:
    drain = drain_to_blend(**x)
    if not drain.reachable:
        nearest = _blend(text, drain.nearest_pct, "nearest_pct")
        return f"E{x['wanted_pct']:.3g} lies beyond both fuels: filling up cannot come nearer than {nearest}."
    level = "to the top" if drain.level_l > x["tank_l"] - 0.05 else f"to {text(drain.level_l, 'level_l')}"
    if drain.drain_l < 0.05:
        return f"Nothing need go: fill it {level}."
    cans = text(drain.cans, "cans_count", "one can" if drain.cans == 1 else f"{drain.cans} cans")
    took = text(drain.minutes, "drain_minutes", f"{drain.minutes:.3g} min")
    charge = text(drain.ampere_h, "drain_a_h", f"{drain.ampere_h:.2g} A·h")
    keep, gone = text(drain.keep_l, "keep_l"), text(drain.drain_l, "drain_l")
    return (
        f"At most {keep} may stay: drain {gone}, {cans}, {took} of its own pump, {charge} of the battery; then fill it "
        f"{level}."
    )


def _signal(x: Values, text: Show) -> str:
    found = ethanol_signal(**x)
    volts = text(found.output_v, "output_v")
    return f"{text(found.frequency_hz, 'frequency_hz')}, pulse {text(found.pulse_ms, 'pulse_ms')}; {volts} at the output."


def _proof(x: Values, text: Show) -> str:
    found = prove_sensor(**x)
    points = f"{abs(found.off_points):.2g} points {'above' if found.off_points > 0 else 'below'}"
    off = text(found.off_points, "off_points", points)
    verdict = "passes" if found.passes else "does not pass: clean or replace it, and prove it again"
    return f"It should read {_blend(text, found.expected_pct, 'expected_pct')}; it reads {off}: {verdict}."


MIXED = (
    Spec("tank_l", "Tank", 60.0, 0.1, 1000.0, "V"),
    Spec("held_l", "In it now", 8.0, 0.0, 1000.0, "h"),
    Spec("held_pct", "at ethanol", 12.0, 0.0, 100.0, "e"),
    Spec("wanted_pct", "Wanted", 50.0, 0.0, 100.0, "w"),
    Spec("strong_pct", "Strong fuel", 85.0, 0.0, 100.0, "s"),
    Spec("weak_pct", "Weak fuel", 10.0, 0.0, 100.0, "k"),
    Spec("price_strong", "A litre of the strong costs", 0.0, 0.0, 1000.0, "p"),
    Spec("price_weak", "of the weak", 0.0, 0.0, 1000.0, "q"),
)

_VOLUMES, _CONVENTION = "volumes add up, ethanol with them", "the automotive convention of ethanol sensors"
_REACHED = "blend = (e·h + s·strong + k·weak) ÷ (h + strong + weak)"
_COSTS = ("What is poured costs", "cost = p·strong + q·weak, litres of each")
_MIXES = {
    "strong_l": ("Strong fuel to pour", "strong = (w·V − e·h − k·(V − h)) ÷ (s − k), at least none, at most V − h"),
    "weak_l": ("Weak fuel to pour", "weak = V − h − (w·V − e·h − k·(V − h)) ÷ (s − k), at least none, at most V − h"),
    "reached_pct": ("Blend then in the tank", f"{_REACHED}; here w = w where it can be reached"),
    "lowest_pct": ("Lowest this tank can come to", "lowest = (e·h + k·(V − h)) ÷ V"),
    "highest_pct": ("Highest this tank can come to", "highest = (e·h + s·(V − h)) ÷ V"),
    "cost": _COSTS,
}
_POURS = {
    "strong_cans_count": (
        "Cans of the strong fuel",
        "of all pours in cans of c that fit V − h, the one nearest w by e, s and k",
    ),
    "weak_cans_count": (
        "Cans of the weak fuel",
        "of all pours in cans of c that fit V − h, the one nearest w by e, s and k",
    ),
    "strong_l": ("Strong fuel to pour", "strong = cans × c, of all that fit V − h the nearest to w by e, s and k"),
    "weak_l": ("Weak fuel to pour", "weak = cans × c, of all that fit V − h the nearest to w by e, s and k"),
    "reached_pct": ("Blend then in the tank", f"{_REACHED}, in cans of c"),
    "room_l": ("Room left", "room = V − h − strong − weak, in cans of c"),
    "cost": _COSTS,
}
_DRAINS = {
    "keep_l": ("What may stay", "keep = V·(f − w) ÷ (f − e), at most h"),
    "drain_l": ("What must go", "drain = h − V·(f − w) ÷ (f − e)"),
    "level_l": ("Filled up to", "level = keep·(f − e) ÷ (f − w), at most V"),
    "cans_count": ("Cans for what goes", "cans = (h − keep) ÷ c, the next whole one; keep = V·(f − w) ÷ (f − e)"),
    "drain_minutes": ("Time the pump takes", "minutes = 60·(h − keep) ÷ Q; keep = V·(f − w) ÷ (f − e)"),
    "drain_a_h": ("Out of the battery", "charge = I·(h − keep) ÷ Q; keep = V·(f − w) ÷ (f − e)"),
    "nearest_pct": ("Nearest it can come", "nearest = the nearer of e and f to w"),
}
_SIGNALS = {
    "frequency_hz": ("Frequency", "frequency = 50 + E"),
    "pulse_ms": ("Pulse width", "pulse = 1 + 4·(T + 40) ÷ 165"),
    "output_v": ("At the output", "output = U_0 + (U_1 − U_0)·E ÷ 100"),
}
_READS = {
    "ethanol_pct": ("Ethanol", "ethanol = f − 50"),
    "fuel_temp_c": ("Fuel temperature", "temperature = −40 + 165·(t − 1) ÷ 4"),
    "output_v": ("At the output", "output = U_0 + (U_1 − U_0)·(f − 50) ÷ 100"),
}
_PROVES = {
    "expected_pct": ("What it should read", "expected = (x·a + y·b) ÷ (a + b)"),
    "off_points": ("How far it is off, points", "off = r − (x·a + y·b) ÷ (a + b)"),
}

CALCULATORS: dict[str, Calculator] = {
    "mixing": Calculator(
        "Mix at the pump",
        MIXED,
        _mix,
        "Volumes add up. What is sold as a strong blend varies with the season: the measured value counts.",
        "Cannot be mixed",
        _MIXES,
        _VOLUMES,
    ),
    "cans": Calculator(
        "The same in whole cans",
        (
            *MIXED,
            Spec("can_l", "A can holds", 10.0, 0.5, 200.0, "c"),
        ),
        _cans,
        "The pour that comes nearest, fullest tank first. Cans bonded against static, approved, never filled in the car.",
        "Cannot be poured",
        _POURS,
        _VOLUMES,
    ),
    "drain": Calculator(
        "Bring it down to a blend",
        (
            Spec("tank_l", "Tank", 60.0, 0.1, 1000.0, "V"),
            Spec("held_l", "In it now", 40.0, 0.0, 1000.0, "h"),
            Spec("held_pct", "at ethanol", 78.0, 0.0, 100.0, "e"),
            Spec("wanted_pct", "Wanted", 30.0, 0.0, 100.0, "w"),
            Spec("fill_pct", "Filled up with", 10.0, 0.0, 100.0, "f"),
            Spec("can_l", "A can holds", 20.0, 0.5, 200.0, "c"),
            Spec("flow_l_h", "Pump moves", 200.0, 1.0, 5000.0, "Q"),
            Spec("current_a", "at", 10.0, 0.0, 200.0, "I"),
        ),
        _drain,
        "Ventilated, no ignition source, extinguisher to hand, cans bonded and approved; mark what is drained "
        "with its blend and date.",
        "Cannot be brought down",
        _DRAINS,
        _VOLUMES,
    ),
    "signal": Calculator(
        "What an ethanol sensor should give",
        (
            Spec("ethanol_pct", "Ethanol", 50.0, 0.0, 100.0, "E"),
            Spec("temp_c", "Fuel at", 30.0, -40.0, 125.0, "T"),
            Spec("zero_v", "Output at 0 %", 0.0, 0.0, 10.0, "U_0"),
            Spec("full_v", "at 100 %", 5.0, 0.0, 10.0, "U_1"),
        ),
        _signal,
        "For the controller: 0 % is 50 Hz, 50 % is 100 Hz, 100 % is 150 Hz; in between it is a straight line.",
        "Cannot be told",
        _SIGNALS,
        _CONVENTION,
    ),
    "proof": Calculator(
        "Prove a sensor against a known mix",
        (
            Spec("first_l", "Of one fuel", 1.0, 0.0, 100.0, "a"),
            Spec("first_pct", "at ethanol", 0.0, 0.0, 100.0, "x"),
            Spec("second_l", "Of the other", 1.0, 0.0, 100.0, "b"),
            Spec("second_pct", "at ethanol", 100.0, 0.0, 100.0, "y"),
            Spec("read_pct", "It reads", 52.0, 0.0, 100.0, "r"),
            Spec("tolerance_points", "Allowed, points", 3.0, 0.1, 30.0),
        ),
        _proof,
        "Measure both volumes at one temperature; a sensor where nothing flows reads old fuel.",
        "Cannot be proven",
        _PROVES,
        _VOLUMES,
    ),
    "sensor": Calculator(
        "Read an ethanol sensor",
        (
            Spec("frequency_hz", "Frequency", 85.0, 0.0, 1000.0, "f"),
            Spec("pulse_ms", "Pulse width", 2.6, 0.0, 20.0, "t"),
            Spec("zero_v", "Output at 0 %", 0.0, 0.0, 10.0, "U_0"),
            Spec("full_v", "at 100 %", 5.0, 0.0, 10.0, "U_1"),
        ),
        _sensor,
        "Automotive convention: 50 to 150 Hz is 0 to 100 %, 1 to 5 ms is −40 to 125 °C. Prove it against a known mix.",
        "Cannot be read",
        _READS,
        _CONVENTION,
    ),
}


def calculator_view(
    key: str, typed: Mapping[str, str], units: BenchUnits, starts: Mapping[str, float] | None = None
) -> CalculatorView:
    """A calculator of this bench with its answer. Raises KeyError for an unknown one."""
    return answered(key, CALCULATORS[key], typed, units, starts)
