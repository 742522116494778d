"""All rules, and running them. To add a rule: write it in its topic's module and name it in that module's RULES."""

from ..judge import DutyVerdict
from ..model import Build, Catalogue, Option
from . import calibration, carburettor, demand, injectors, lines, pumps, regulator, staging, suction, wiring
from .base import Context, Finding, Rule

RULES: tuple[Rule, ...] = (
    *demand.RULES,
    *suction.RULES,
    *pumps.RULES,
    *wiring.RULES,
    *staging.RULES,
    *lines.RULES,
    *injectors.RULES,
    *calibration.RULES,
    *carburettor.RULES,
    *regulator.RULES,
)
_ORDER = {"stop": 0, "warn": 1, "note": 2}


def find(build: Build, option: Option, verdicts: list[DutyVerdict], catalogue: Catalogue) -> list[Finding]:
    """All findings on one option, gravest first, in the order of the rules within a grade."""
    context = Context(build, option, tuple(verdicts), catalogue)
    found = [finding for rule in RULES for finding in rule(context)]
    return sorted(found, key=lambda finding: _ORDER[finding.severity])
