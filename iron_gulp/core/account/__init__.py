"""Numbers that open, reports and lists. This face says what other rooms may use."""

from .figures import FIGURES, Context, Explanation, Input, explain, value
from .numbers import ARRANGED, NUMBERS, PAIRS, Place, opened
from .odds import chance_report
from .parts_list import SPARE_LENGTH, Item, parts_list
from .plain import plain
from .report import report, solve_report
from .values_sheet import Changed, SheetRow, SheetSection, sheet_changes, values_sheet

__all__ = [
    "ARRANGED",
    "FIGURES",
    "NUMBERS",
    "PAIRS",
    "SPARE_LENGTH",
    "Changed",
    "Context",
    "Explanation",
    "Input",
    "Item",
    "Place",
    "SheetRow",
    "SheetSection",
    "chance_report",
    "explain",
    "opened",
    "parts_list",
    "plain",
    "report",
    "sheet_changes",
    "solve_report",
    "value",
    "values_sheet",
]
