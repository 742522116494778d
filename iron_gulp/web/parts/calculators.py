"""Small bench calculators: a form with a few quantities and its answer. Nothing typed here is stored."""

from collections.abc import Callable, Mapping
from dataclasses import dataclass

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


def answered(
    key: str,
    calculator: Calculator,
    typed: Mapping[str, str],
    units: BenchUnits,
    starts: Mapping[str, float] | None = None,
) -> CalculatorView:
    """A calculator with its answer; `typed` holds texts by field name, missing ones start from `starts` or defaults."""
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
