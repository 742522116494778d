"""The shelf page: parts searched and compared, the form for an own part, and the flow-bottle test."""

from collections.abc import Mapping
from dataclasses import dataclass, field
from typing import Any

from iron_gulp.core.model import Part, PumpPart, SensorPart
from iron_gulp.core.study import BottleTest, Reading, working_kpa
from iron_gulp.formats.parts_csv import CURVE, PartsFileError, columns, together
from iron_gulp.services.workshop import PAGE_SIZE, is_own
from iron_gulp.shelf import KINDS, Shelf
from iron_gulp.units import BenchUnits, Unreadable, quantity_of, read_quantity, show

from .compare import CompareView, compare_charts

LABELS = {
    "voltage_v": "Table voltage",
    "pressure_kpa": "Pressures, kPa (0; 200; 300 …)",
    "flow_l_h": "Flows, L/h",
    "current_a": "Currents, A",
    "dead_time_v": "Dead-time voltages, V (8; 10; 12 …)",
    "dead_time_ms": "Dead times, ms",
    "dead_more_kpa": "Further pressures of dead times, kPa (400; 500 …)",
    "dead_more_ms": "Dead times there, ms, pressure by pressure",
}
SHOWN = {
    "pumps": ("kind",),
    "injectors": ("rated_flow_cc_min", "rated_pressure_kpa", "rated_on", "min_pulse_ms", "max_pressure_kpa"),
    "lines": ("size", "construction", "bore_mm"),
    "regulators": ("min_base_kpa", "max_base_kpa", "capacity_l_h", "max_pressure_kpa"),
    "filters": ("grade_um", "rated_flow_l_h", "rated_drop_kpa"),
    "high_pumps": ("driven", "bore_mm", "lift_mm", "lobes", "max_rail_kpa"),
    "rails": ("bore_mm", "length_m"),
    "sensors": ("measures", "supply"),
    "port_sets": ("rails", "bore_mm", "length_m", "rated_flow_cc_min", "rated_pressure_kpa", "max_pressure_kpa"),
    "direct_injectors": ("rated_flow_cc_min", "rated_pressure_kpa", "min_pulse_ms", "max_rail_kpa"),
}
EXTRA = {"pumps": ["Flow", "at", "Current there", "Free flow"], "sensors": ["from", "up to", "Signal from", "to"]}
BOTTLE_ROWS = 6
BOTTLE_COLUMNS = ("pressure_kpa", "volume_l", "seconds_s", "voltage_v", "current_a")


@dataclass(frozen=True)
class FormField:
    name: str
    title: str
    text: str
    error: str
    choices: tuple[str, ...] = ()


@dataclass(frozen=True)
class ShelfView:
    kind: str
    kinds: tuple[str, ...]
    heads: list[str]
    rows: list[dict[str, Any]]
    found: int
    at: int
    own: int  # of those found
    compared: list[str]
    elsewhere: list[str]  # compared, and on another page
    charts: list[CompareView]
    form: list[FormField]
    problems: list[str] = field(default_factory=list)


def shelf_view(
    shelf: Shelf,
    units: BenchUnits,
    kind: str,
    q: str = "",
    compare: list[str] | None = None,
    typed: Mapping[str, str] | None = None,
    error: PartsFileError | None = None,
    at: int = 1,
) -> ShelfView:
    """The shelf of a kind, a page of it; `typed` and `error` are a refused own part, `error` alone a refused file."""
    parts = shelf.search(kind, q)
    shown = parts[(at - 1) * PAGE_SIZE : at * PAGE_SIZE]
    chosen = [part for part in shelf.parts(kind) if part.shelf_id in (compare or [])][:4]
    rows = [
        {
            "id": part.shelf_id,
            "name": part.name,
            "provenance": part.provenance,
            "alcohol": "yes" if part.alcohol_ok else "no",
            "cells": _cells(kind, part, units),
            "own": is_own(part),
            "chosen": part in chosen,
        }
        for part in shown
    ]
    model = KINDS[kind]
    heads = [model.model_fields[name].title or name for name in SHOWN[kind]] + EXTRA.get(kind, [])
    problems = [] if error is None or typed is not None else [_problem(*one) for one in together(error.problems)]
    return ShelfView(
        kind,
        tuple(KINDS),
        heads,
        rows,
        len(parts),
        at,
        sum(is_own(part) for part in parts),
        [str(part.shelf_id) for part in chosen],
        [str(part.shelf_id) for part in chosen if part not in shown],
        compare_charts(chosen, units),
        _form(kind, typed or {}, error if typed is not None else None),
        problems,
    )


def _problem(rows: str, column: str, message: str) -> str:
    named = f"{'row' if rows.isdecimal() else 'rows'} {rows}" if rows else ""
    where = ", ".join(filter(None, (named, column)))
    return f"{where}: {message}" if where else message


def _cells(kind: str, part: Part, units: BenchUnits) -> list[str]:
    def cell(value: Any, name: str) -> str:
        return value if isinstance(value, str) else "\u00a0".join(one for one in show(value, name, units) if one)

    cells = [cell(getattr(part, name), name) for name in SHOWN[kind]]
    if isinstance(part, PumpPart):
        table = max(part.tables(), key=lambda one: one.voltage_v)
        kpa = working_kpa(part)
        cells += [
            cell(float(table.flow(kpa)), "flow_l_h"),
            cell(kpa, "pressure_kpa"),
            cell(float(table.current(kpa)), "current_a"),
            cell(float(table.flow(0.0)), "flow_l_h"),
        ]
    if isinstance(part, SensorPart):
        low, high, unit = part.reach
        cells += [cell(low, f"low_{unit}"), cell(high, f"high_{unit}"), cell(part.low_v, "v"), cell(part.high_v, "v")]
    return cells


def _form(kind: str, typed: Mapping[str, str], error: PartsFileError | None) -> list[FormField]:
    found: dict[str, str] = {}
    for one in error.problems if error else []:
        found[one.column] = "; ".join(filter(None, (found.get(one.column), one.message)))
    fields = []
    for name in columns(kind):
        model_field = None if name in CURVE and kind == "pumps" else KINDS[kind].model_fields[name]
        title = LABELS.get(name) or (model_field.title if model_field else "") or name
        symbol = quantity_of(name).kept if name not in LABELS or name == "voltage_v" else ""
        choices: tuple[str, ...] = ()
        if model_field is not None:
            arguments = getattr(model_field.annotation, "__args__", ())
            choices = tuple(one for one in arguments if isinstance(one, str))
            choices = ("yes", "no") if model_field.annotation is bool else choices
        fields.append(
            FormField(name, f"{title}, {symbol}" if symbol else title, typed.get(name, ""), found.get(name, ""), choices)
        )
    return fields


@dataclass(frozen=True)
class BottleView:
    heads: tuple[tuple[str, str], ...]
    rows: list[list[FormField]]
    results: list[list[str]]
    sentence: str
    good: bool | None
    error: str
    claim: str
    name: str


def read_bottle(typed: Mapping[str, str], units: BenchUnits) -> tuple[list[Reading], list[list[FormField]]]:
    """The readings typed, and the form rows with what is wrong; wholly empty rows do not count."""
    readings, rows = [], []
    for index in range(BOTTLE_ROWS):
        texts = [typed.get(f"{name}-{index}", "")[:60] for name in BOTTLE_COLUMNS]
        cells, values = [], {}
        for name, text in zip(BOTTLE_COLUMNS, texts, strict=True):
            error = ""
            if any(one.strip() for one in texts):
                try:
                    values[name] = read_quantity(text, name, units)
                    if values[name] < 0 or (name != "pressure_kpa" and values[name] == 0):
                        error = "above zero, please"
                except Unreadable as problem:
                    error = str(problem)
            cells.append(FormField(f"{name}-{index}", "", text, error))
        rows.append(cells)
        if values and not any(cell.error for cell in cells):
            readings.append(Reading(**values))
    return readings, rows


def bottle_view(
    typed: Mapping[str, str], units: BenchUnits, rows: list[list[FormField]], test: BottleTest | None, error: str
) -> BottleView:
    """The flow-bottle form with its answer."""
    titles = ("Pressure", "Caught", "in", "Voltage", "Current")
    heads = tuple((title, units.unit(quantity_of(name)).key) for title, name in zip(titles, BOTTLE_COLUMNS, strict=True))

    def text(value: float | None, name: str) -> str:
        return "\u00a0".join(one for one in show(value, name, units) if one)

    results, sentence = [], ""
    if test is not None:
        results = [
            [
                text(point.reading.pressure_kpa, "pressure_kpa"),
                text(point.reading.flow_l_h, "flow_l_h"),
                text(point.claimed_l_h, "flow_l_h"),
                text(None if point.share is None else point.share * 100, "share_pct"),
            ]
            for point in test.points
        ]
        least = text((test.worst_share or 0.0) * 100, "share_pct")
        if test.matches is None:
            sentence = "A pump table from these readings. Choose the pump it claims to be for a verdict."
        elif test.matches:
            sentence = f"It is what it claims: at least {least} of the published flow."
        else:
            sentence = (
                f"It does not match its claim: as little as {least} of the published flow. Check voltage at its "
                "terminals, pickup and filter; otherwise it is worn or not what its label says."
            )
    good = None if test is None else test.matches
    return BottleView(heads, rows, results, sentence, good, error, typed.get("claim", ""), typed.get("name", ""))
