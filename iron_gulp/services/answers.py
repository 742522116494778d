"""Answers of a new user read from what was typed, each in its own unit; what is wrong is told at its question."""

from collections.abc import Mapping, Sequence
from typing import Any, get_args

import annotated_types
from pydantic import ValidationError

from iron_gulp.core.model import LinePart, problems_of
from iron_gulp.core.plan import Answers
from iron_gulp.units import BenchUnits, Unreadable, read_quantity, show, unit_said, where_quoted

from .asking_back import meant
from .dash_sizes import sold_as


class Refused(ValueError):
    """Answers that cannot be taken: what is wrong, by question."""

    def __init__(self, problems: dict[str, str]):
        super().__init__("; ".join(f"{name}: {words}" for name, words in problems.items()))
        self.problems = problems


def read_answers(typed: Mapping[str, str], units: BenchUnits, lines: Sequence[LinePart] = ()) -> Answers:
    """Answers from texts by question; empty ones are not said. Raises Refused with every problem.

    A dash size is that of one of the `lines`, whose inner bore is its construction's.
    """
    problems: dict[str, str] = {}
    data: dict[str, Any] = {}
    for name, field in Answers.model_fields.items():
        text = typed.get(name, "").strip()
        if not text:
            continue
        try:
            data[name] = _value(name, field.annotation, text, units)
            if isinstance(data[name], int | float):
                _within(name, field.metadata, data[name], units)
        except Unreadable as error:
            problems[name] = str(error)
    if "feed_mm" in data and unit_said(typed["feed_mm"], "feed_mm", units) == "dash":
        construction = (
            "hard tube" if typed.get("feeding") == "carburettor" else LinePart.model_fields["construction"].default
        )
        line = sold_as(lines, construction, data["feed_mm"])
        data["feed_mm"] = data["feed_mm"] if line is None else line.bore_mm
    if (said := where_quoted(typed.get("power_kw", ""))) is not None:
        data["power_at"] = said
    if not problems:
        try:
            return Answers.model_validate(data)
        except ValidationError as error:
            for one in problems_of(error):
                problems[one.path.split("/")[0] or "power_kw"] = _plain(one.message)
    raise Refused(problems)


def meant_by(name: str, typed: str, units: BenchUnits) -> tuple[str, ...]:
    """What to write instead of an answer that was refused; nothing where that cannot be told."""
    field = Answers.model_fields[name]
    if not {float, int} & {field.annotation, *get_args(field.annotation)}:
        return ()

    def allowed(value: float) -> bool:
        try:
            _within(name, field.metadata, value, units)
        except Unreadable:
            return False
        return True

    return meant(typed, name, units, allowed)


def _value(name: str, annotation: Any, text: str, units: BenchUnits) -> Any:
    kinds = {annotation, *get_args(annotation)}
    if float in kinds:
        return read_quantity(text, name, units)
    if int in kinds:
        value = read_quantity(text, name, units)
        if value != int(value):
            raise Unreadable("a whole number is needed")
        return int(value)
    return text


def _within(name: str, metadata: list[Any], value: float, units: BenchUnits) -> None:
    """Refuse what lies outside a question's range, told in the units chosen. Raises Unreadable."""
    lowest: list[Any] = [one.ge for one in metadata if isinstance(one, annotated_types.Ge)]
    highest: list[Any] = [one.le for one in metadata if isinstance(one, annotated_types.Le)]
    if all(value >= one for one in lowest) and all(value <= one for one in highest):
        return
    ends = [" ".join(show(float(one), name, units)).strip() for one in (*lowest, *highest)]
    raise Unreadable("must lie from " + " to ".join(ends))


def _plain(message: str) -> str:
    return "this must be answered" if message == "is missing" else message
