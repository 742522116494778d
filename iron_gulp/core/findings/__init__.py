"""Findings: judgements with evidence and remedies. One module a topic; a rule is a function from context to findings."""

from .base import Context, Finding, Remedy, Severity, Station
from .registry import RULES, find

__all__ = ["RULES", "Context", "Finding", "Remedy", "Severity", "Station", "find"]
