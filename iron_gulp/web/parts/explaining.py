"""A figure opened, ready to show: the formula with symbols, the formula with values, inputs and sensitivities."""

import re
from dataclasses import dataclass

from iron_gulp.core.account import Explanation
from iron_gulp.units import BenchUnits, as_input, quantity_of, show


@dataclass(frozen=True)
class InputRow:
    symbol: str
    label: str
    number: str
    unit: str
    low: str
    high: str


LONGEST = 56  # letters of a formula in words that fit the drawer as mathematics
_SENTENCE = re.compile(r"(?:[a-z]{2,}[ ,;]+){4}")
VALUE = "⟨"  # before a value in a formula
FINER = 1  # an opened figure shows a digit more than is known, so that its formula adds up


@dataclass(frozen=True)
class ExplanationView:
    label: str
    number: str
    unit: str
    formula: str
    with_values: str
    source: str
    note: str
    rows: tuple[InputRow, ...]

    @staticmethod
    def worded(text: str) -> bool:
        """Whether a formula is a sentence, or too long for the drawer: it is set as text, which breaks into lines."""
        return "=" not in text or (len(text) > LONGEST and (VALUE in text or _SENTENCE.search(text) is not None))


def explanation_view(explanation: Explanation, units: BenchUnits) -> ExplanationView:
    """The explanation in bench units. The formula with values keeps the units named beside each value."""
    number, unit = show(explanation.value, explanation.name, units, FINER)
    if explanation.entered:
        number = as_input(explanation.value, explanation.name, units)

    def moved(value: float | None) -> str:
        return "–" if value is None else show(value, explanation.name, units, FINER)[0]

    rows = []
    for one in explanation.inputs:
        shown, symbol = show(one.value, one.name, units, FINER)
        rows.append(InputRow(one.symbol, one.label, shown, symbol, moved(one.low), moved(one.high)))
    return ExplanationView(
        explanation.label,
        number,
        unit,
        explanation.formula,
        _with_values(explanation, units, f"{number} {unit}".strip()),
        explanation.source,
        explanation.note,
        tuple(rows),
    )


def _with_values(explanation: Explanation, units: BenchUnits, result: str) -> str:
    """The right-hand side with each symbol replaced by its value; empty for figures whose inputs have no symbols."""
    if not explanation.inputs or not all(one.symbol for one in explanation.inputs) or "=" not in explanation.formula:
        return ""
    values = {}
    for one in explanation.inputs:
        shown, _ = show(one.value, one.name, units, FINER)
        symbol = units.unit(quantity_of(one.name)).key
        values[one.symbol] = f"{shown} {symbol}".strip()
    longest_first = sorted(values, key=len, reverse=True)
    pattern = r"(?<![\w_])(" + "|".join(re.escape(symbol) for symbol in longest_first) + r")(?![\w_])"
    right = explanation.formula.split("=", 1)[1]
    return re.sub(pattern, lambda match: f"⟨{values[match.group(1)]}⟩", right).strip() + f" = {result}"
