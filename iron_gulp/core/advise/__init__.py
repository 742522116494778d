"""Findings and remedies: what a specialist would say of a judged system. This face says what other rooms may use."""

from .base import Context, Finding, Remedy, Severity
from .registry import RULES, find

__all__ = [
    "RULES",
    "Context",
    "Finding",
    "Remedy",
    "Severity",
    "find",
]
