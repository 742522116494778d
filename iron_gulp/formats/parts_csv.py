"""Shelf parts as CSV: one part a row, units in the column names, lists separated by semicolons.

A pump row holds one table (`voltage_v`, `pressure_kpa`, `flow_l_h`, `current_a`).
"""

import csv
import io
import types
from dataclasses import dataclass
from typing import Any, Union, get_args, get_origin

from pydantic import ValidationError

from iron_gulp.core.model import Part, PumpCurve, problems_of
from iron_gulp.shelf import KINDS

from .cells import neutral, plain

LARGEST_BYTES = 2_000_000
MOST_TOLD = 100
MOST_PARTS = 2000  # of one file: what a shop types in, not a wholesaler's list
CURVE = ("voltage_v", "pressure_kpa", "flow_l_h", "current_a")
HIDDEN = ("shelf_id", "curves")


@dataclass(frozen=True)
class RowProblem:
    """What is wrong with a row (1 is the first below the header; 0 the file) at a column."""

    row: int
    column: str
    message: str


class PartsFileError(ValueError):
    """A file with faulty rows; carries every problem. Nothing of it is taken."""

    def __init__(self, problems: list[RowProblem]):
        super().__init__(f"{len(problems)} problems")
        self.problems = problems


def together(problems: list[RowProblem]) -> list[tuple[str, str, str]]:
    """Problems with the rows that share them, as (rows, column, message): every faulty row is named, each fault once."""
    rows: dict[tuple[str, str], list[int]] = {}
    for one in problems:
        rows.setdefault((one.column, one.message), []).append(one.row)
    return [(_spans(numbers), *fault) for fault, numbers in rows.items()]


def _spans(numbers: list[int]) -> str:
    """Row numbers as `1 to 4, 7`; empty for the file as a whole."""
    spans: list[list[int]] = []
    for number in sorted({one for one in numbers if one}):
        if spans and number == spans[-1][1] + 1:
            spans[-1][1] = number
        else:
            spans.append([number, number])
    return ", ".join(f"{low} to {high}" if high > low else str(low) for low, high in spans)


def columns(kind: str) -> list[str]:
    """Column names of a kind."""
    own = [name for name in KINDS[kind].model_fields if name not in HIDDEN]
    return [*own, *CURVE] if kind == "pumps" else own


def _is_list(kind: str, column: str) -> bool:
    if kind == "pumps" and column in CURVE:
        return column != "voltage_v"
    return get_origin(KINDS[kind].model_fields[column].annotation) is tuple


def _annotation(kind: str, column: str) -> Any:
    if kind == "pumps" and column in CURVE:
        return float
    annotation = KINDS[kind].model_fields[column].annotation
    if get_origin(annotation) in (Union, types.UnionType):
        return next(arg for arg in get_args(annotation) if arg is not type(None))
    return annotation


def _value(kind: str, column: str, text: str) -> Any:
    if _is_list(kind, column):
        return [_number(piece) for piece in text.split(";") if piece.strip()]
    annotation = _annotation(kind, column)
    if annotation is float:
        return _number(text)
    if annotation is bool:
        if text.lower() not in ("yes", "no", "true", "false"):
            raise ValueError("write yes or no")
        return text.lower() in ("yes", "true")
    return text


def _number(text: str) -> float:
    try:
        return float(text.strip())
    except ValueError:
        raise ValueError(f"“{text.strip()[:24]}” is not a number") from None


def part_of(kind: str, row: dict[str, str], number: int = 1) -> Part:
    """A part from texts by column; empty texts leave the default. Raises PartsFileError with every problem."""
    problems, data = [], {}
    for column in columns(kind):
        text = plain((row.get(column) or "").strip())
        if not text:
            continue
        try:
            data[column] = _value(kind, column, text)
        except ValueError as error:
            problems.append(RowProblem(number, column, str(error)))
    if kind == "pumps":
        curve = {name: data.pop(name) for name in CURVE if name in data}
        if not problems:
            try:
                data["curves"] = [PumpCurve.model_validate(curve).model_dump()]
            except ValidationError as error:
                problems += [
                    RowProblem(number, one.path.split("/")[0] or "flow_l_h", one.message) for one in problems_of(error)
                ]
    if not problems:
        data.setdefault("provenance", "own data")
        try:
            return KINDS[kind].model_validate(data)
        except ValidationError as error:
            problems += [RowProblem(number, one.path.split("/")[0] or "name", one.message) for one in problems_of(error)]
    raise PartsFileError(problems)


def read_parts(kind: str, content: bytes) -> list[Part]:
    """Every part of a CSV file. Raises PartsFileError with every faulty row; then nothing is taken."""
    if len(content) > LARGEST_BYTES:
        raise PartsFileError([RowProblem(0, "", "the file is larger than 2 MB")])
    try:
        text = content.decode("utf-8-sig")
        reader = csv.DictReader(io.StringIO(text, newline=""), strict=True)
        header = [name.strip() for name in reader.fieldnames or []]
        unknown = sorted(set(header) - set(columns(kind)))
        if "name" not in header:
            raise PartsFileError([RowProblem(0, "", "the first line must name the columns, `name` among them")])
        if unknown:
            raise PartsFileError([RowProblem(0, name, "there is no such column for this kind") for name in unknown])
        rows: list[dict[str, str]] = []
        for row in reader:
            if len(rows) == MOST_PARTS:
                raise PartsFileError([RowProblem(0, "", f"a file holds at most {MOST_PARTS} parts: divide it")])
            rows.append({(k or "").strip(): v for k, v in row.items() if isinstance(v, str)})
    except UnicodeDecodeError:
        raise PartsFileError([RowProblem(0, "", "the file is not UTF-8 text")]) from None
    except csv.Error as error:
        raise PartsFileError([RowProblem(0, "", f"this is not CSV: {error}")]) from None
    parts, problems = [], []
    for number, row in enumerate(rows, start=1):
        try:
            parts.append(part_of(kind, row, number))
        except PartsFileError as error:
            problems += error.problems
        if len(problems) > MOST_TOLD:
            rest = f"what is wrong below row {number} is not told: put these right first"
            raise PartsFileError([*problems[:MOST_TOLD], RowProblem(0, "", rest)])
    if problems:
        raise PartsFileError(problems)
    if not parts:
        raise PartsFileError([RowProblem(0, "", "the file holds no parts")])
    return parts


def write_parts(kind: str, parts: list[Part]) -> str:
    """Parts as CSV text; of a pump with several tables the one at the highest voltage."""
    out = io.StringIO(newline="")
    writer = csv.writer(out, lineterminator="\n")
    writer.writerow(columns(kind))
    for part in parts:
        data = part.model_dump(mode="json")
        if kind == "pumps":
            data |= max(data.pop("curves"), key=lambda curve: curve["voltage_v"])
        writer.writerow([_text(data.get(column)) for column in columns(kind)])
    return out.getvalue()


def _text(value: Any) -> str:
    if value is None:
        return ""
    if isinstance(value, bool):
        return "yes" if value else "no"
    if isinstance(value, list):
        return ";".join(str(one) for one in value)
    return neutral(str(value))
