"""Numbers that open, reports and lists. This face says what other rooms may use."""

from .figures import FIGURES, Context, Explanation, explain, value
from .odds import chance_report
from .parts_list import SPARE_LENGTH, Item, parts_list
from .plain import plain
from .report import report, solve_report

__all__ = [
    "FIGURES",
    "SPARE_LENGTH",
    "Context",
    "Explanation",
    "Item",
    "chance_report",
    "explain",
    "parts_list",
    "plain",
    "report",
    "solve_report",
    "value",
]
