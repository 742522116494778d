"""Findings and remedies: what a specialist would say of a judged system. This face says what other rooms may use."""

from .base import Context, Finding, Remedy, Severity
from .high_pumps import STIFFEST
from .putting_right import Plan, Step, put_right
from .registry import RULES, find, find_troubles

__all__ = [
    "RULES",
    "STIFFEST",
    "Context",
    "Finding",
    "Plan",
    "Remedy",
    "Severity",
    "Step",
    "find",
    "find_troubles",
    "put_right",
]
