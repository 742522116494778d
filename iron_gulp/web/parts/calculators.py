"""Small bench calculators: a form with a few quantities and its answer. Nothing typed here is stored.

Every number of an answer opens: its formula, and the answer worked out anew with each field a tenth less and more.
"""

import re
from collections.abc import Callable, Mapping
from contextlib import suppress
from dataclasses import dataclass
from typing import Protocol

import numpy as np
from markupsafe import Markup, escape

from iron_gulp.core.account import Explanation, Input
from iron_gulp.units import BenchUnits, Unreadable, as_input, quantity_of, read_quantity, show

Values = Mapping[str, float]
FINER = 1  # digits beyond those of an estimate: what is worked out here was typed here
_OPENS, _SAYS, _ENDS = "\ue000", "\ue001", "\ue002"  # around a number of an answer; no keyboard has them
_NUMBER = re.compile(f"{_OPENS}(\\w+){_SAYS}([^{_ENDS}]*){_ENDS}")


class Show(Protocol):
    """Tells a number of an answer by its name, which ends in its unit; `shown` is how it reads where that is not all."""

    def __call__(self, value: float, name: str, shown: str = "") -> str: ...


@dataclass(frozen=True)
class Spec:
    """A field: name (ending in its unit), title, start, lowest and highest in that unit, symbol in formulas.

    With `choices` its value is the place of the one chosen; one that is `empty` may be left so and is NaN then: the words
    are what that means.
    """

    name: str
    title: str
    start: float
    low: float
    high: float
    symbol: str = ""
    choices: tuple[str, ...] = ()
    empty: str = ""


def choice(name: str, title: str, *choices: str) -> Spec:
    """A field of choices; the first of them to begin with."""
    return Spec(name, title, 0.0, 0.0, len(choices) - 1.0, choices=choices)


def unsaid(name: str, title: str, low: float, high: float, symbol: str, empty: str = "not said") -> Spec:
    """A field that may be left empty, and begins so."""
    return Spec(name, title, np.nan, low, high, symbol, empty=empty)


@dataclass(frozen=True)
class Calculator:
    """A calculator's fields, its answer in words, and what to bear in mind. `answer` raises ValueError in words.

    `opens` gives label and formula of every number the answer can hold, by its name.
    """

    title: str
    fields: tuple[Spec, ...]
    answer: Callable[[Values, Show], str]
    note: str
    refusal: str
    opens: Mapping[str, tuple[str, str]]
    source: str


@dataclass(frozen=True)
class CalculatorField:
    name: str
    title: str
    text: str
    unit: str
    error: str
    choices: tuple[str, ...] = ()
    empty: str = ""


@dataclass(frozen=True)
class CalculatorView:
    key: str
    title: str
    fields: tuple[CalculatorField, ...]
    answer: str
    note: str
    where: str = ""  # what an address of it ends with

    def linked(self, address: str) -> Markup:
        """The answer, each of its numbers opening under an address."""
        button = (
            '<button type="button" class="number" hx-get="{}/{}{}" hx-include="closest form" hx-target="#explain-body" '
            'hx-swap="innerHTML">{}</button>'
        )
        parts: list[Markup] = []
        at = 0
        for found in _NUMBER.finditer(self.answer):
            parts += [
                escape(self.answer[at : found.start()]),
                Markup(button).format(address, found[1], self.where, found[2]),
            ]
            at = found.end()
        return Markup("").join([*parts, escape(self.answer[at:])])


def answered(
    key: str,
    calculator: Calculator,
    typed: Mapping[str, str],
    units: BenchUnits,
    starts: Mapping[str, float] | None = None,
    where: str = "",
) -> CalculatorView:
    """A calculator with its answer; `typed` holds texts by field name, missing ones start from `starts` or defaults."""
    fields, values = _read(calculator, typed, units, starts or {})
    answer = ""
    if not any(field.error for field in fields):
        try:
            answer = calculator.answer(values, _linking(units))
        except ValueError as problem:
            answer = f"{calculator.refusal}: {problem}."
    return CalculatorView(key, calculator.title, fields, answer, calculator.note, where)


def opened(calculator: Calculator, name: str, typed: Mapping[str, str], units: BenchUnits) -> Explanation:
    """A number of the answer with formula, source and what moves it. Raises KeyError where the answer has none such."""
    fields, values = _read(calculator, typed, units, {})
    if any(field.error for field in fields):
        raise KeyError("there is no answer")
    value = _told(calculator, values)[name]
    label, formula = calculator.opens[name]

    def at(spec: Spec, factor: float) -> float | None:
        changed = values[spec.name] * factor
        found = _told(calculator, {**values, spec.name: changed}).get(name) if spec.low <= changed <= spec.high else None
        return found if found is not None and np.isfinite(found) else None

    inputs = tuple(
        Input(spec.symbol, spec.title, spec.name, values[spec.name], at(spec, 0.9), at(spec, 1.1))
        for spec in calculator.fields
        if spec.symbol and re.search(rf"(?<!\w){re.escape(spec.symbol)}(?!\w)", formula.split("=", 1)[-1])
    )
    return Explanation(name, label, name, value, formula, calculator.source, calculator.note, inputs)


def _told(calculator: Calculator, values: Values) -> dict[str, float]:
    """The numbers of an answer by name; none where there is no answer."""
    found: dict[str, float] = {}

    def keep(value: float, name: str, shown: str = "") -> str:
        found[name] = value
        return ""

    with suppress(ValueError):
        calculator.answer(values, keep)
    return found


def _linking(units: BenchUnits) -> Show:
    """Numbers as they read, each marked so that it opens."""

    def told(value: float, name: str, shown: str = "") -> str:
        return f"{_OPENS}{name}{_SAYS}{shown or ' '.join(show(value, name, units, FINER)).strip()}{_ENDS}"

    return told


def _read(
    calculator: Calculator, typed: Mapping[str, str], units: BenchUnits, starts: Values
) -> tuple[tuple[CalculatorField, ...], dict[str, float]]:
    """Fields as typed, each with what is wrong with it, and the values of those that can be read."""
    fields, values = [], {}
    for spec in calculator.fields:
        start = starts.get(spec.name, spec.start)
        error = ""
        if spec.choices:
            told = typed.get(spec.name, "")
            told = told if told in spec.choices else spec.choices[0]
            values[spec.name] = float(spec.choices.index(told))
            fields.append(CalculatorField(spec.name, spec.title, told, "", error, spec.choices))
            continue
        text = typed.get(spec.name, "" if np.isnan(start) else as_input(start, spec.name, units))[:100]
        try:
            if spec.empty and not text.strip():
                values[spec.name] = np.nan
                fields.append(_field(spec, text, units, error))
                continue
            values[spec.name] = read_quantity(text, spec.name, units)
            if not spec.low <= values[spec.name] <= spec.high:
                high = " ".join(show(spec.high, spec.name, units))
                error = f"from {show(spec.low, spec.name, units)[0]} to {high}"
        except Unreadable as problem:
            error = str(problem)
        fields.append(_field(spec, text, units, error))
    return tuple(fields), values


def _field(spec: Spec, text: str, units: BenchUnits, error: str) -> CalculatorField:
    symbol = units.unit(quantity_of(spec.name)).key
    return CalculatorField(spec.name, spec.title, text, symbol, error, empty=spec.empty)
