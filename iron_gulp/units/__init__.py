"""Bench units at the edges: choosing, showing and reading quantities. Stored values never change with them."""

from .bench import CHOICES, DEFAULT_UNITS, PRESETS, BenchUnits
from .names import quantity_of
from .reading import Unreadable, read_number, read_quantity, unit_said, where_quoted
from .showing import as_input, short_in, show, show_text, signed

__all__ = [
    "CHOICES",
    "DEFAULT_UNITS",
    "PRESETS",
    "BenchUnits",
    "Unreadable",
    "as_input",
    "quantity_of",
    "read_number",
    "read_quantity",
    "short_in",
    "show",
    "show_text",
    "signed",
    "unit_said",
    "where_quoted",
]
