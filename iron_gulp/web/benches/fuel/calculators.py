"""Small bench calculators: a form with a few quantities and its answer. Nothing typed here is stored."""

from collections.abc import Callable, Mapping
from dataclasses import dataclass

from iron_gulp.core.physics import fill_to_blend, read_ethanol_sensor
from iron_gulp.units import BenchUnits, Unreadable, as_input, quantity_of, read_quantity, show

Values = Mapping[str, float]
Show = Callable[[float, str], str]
FINER = 1  # digits beyond those of an estimate: what is worked out here was typed here


@dataclass(frozen=True)
class Spec:
    """A field: name (ending in its unit), title, start, lowest and highest in that unit."""

    name: str
    title: str
    start: float
    low: float
    high: float


@dataclass(frozen=True)
class Calculator:
    """A calculator's fields, its answer in words, and what to bear in mind. `answer` raises ValueError in words."""

    title: str
    fields: tuple[Spec, ...]
    answer: Callable[[Values, Show], str]
    note: str
    refusal: str


@dataclass(frozen=True)
class CalculatorField:
    name: str
    title: str
    text: str
    unit: str
    error: str


@dataclass(frozen=True)
class CalculatorView:
    key: str
    title: str
    fields: tuple[CalculatorField, ...]
    answer: str
    note: str


def _mix(x: Values, text: Show) -> str:
    fill = fill_to_blend(**x)
    strong, weak = text(fill.strong_l, "fill_l"), text(fill.weak_l, "fill_l")
    how = f"Fill to the top with {strong} of the strong fuel and {weak} of the weak fuel"
    if fill.reachable:
        return f"{how}: E{fill.reached_pct:.3g}."
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


CALCULATORS: dict[str, Calculator] = {
    "mixing": Calculator(
        "Mix at the pump",
        (
            Spec("tank_l", "Tank", 60.0, 0.1, 1000.0),
            Spec("held_l", "In it now", 8.0, 0.0, 1000.0),
            Spec("held_pct", "at ethanol", 12.0, 0.0, 100.0),
            Spec("wanted_pct", "Wanted", 50.0, 0.0, 100.0),
            Spec("strong_pct", "Strong fuel", 85.0, 0.0, 100.0),
            Spec("weak_pct", "Weak fuel", 10.0, 0.0, 100.0),
        ),
        _mix,
        "Volumes add up. What is sold as a strong blend varies with the season: the measured value counts.",
        "Cannot be mixed",
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
    """A calculator with its answer; `typed` holds texts by field name, missing ones start from `starts` or defaults.

    Raises KeyError for an unknown calculator.
    """
    calculator = CALCULATORS[key]
    fields, values = [], {}
    for spec in calculator.fields:
        start = (starts or {}).get(spec.name, spec.start)
        text = typed.get(spec.name, as_input(start, spec.name, units))[:100]
        error = ""
        try:
            values[spec.name] = read_quantity(text, spec.name, units)
            if not spec.low <= values[spec.name] <= spec.high:
                high = " ".join(show(spec.high, spec.name, units))
                error = f"from {show(spec.low, spec.name, units)[0]} to {high}"
        except Unreadable as problem:
            error = str(problem)
        symbol = units.unit(quantity_of(spec.name)).key
        fields.append(CalculatorField(spec.name, spec.title, text, symbol, error))
    answer = ""
    if not any(field.error for field in fields):
        try:
            answer = calculator.answer(values, lambda value, name: " ".join(show(value, name, units, FINER)))
        except ValueError as problem:
            answer = f"{calculator.refusal}: {problem}."
    return CalculatorView(key, calculator.title, tuple(fields), answer, calculator.note)
