"""Everything put right: the shortest list of one-click remedies found that clears an option's stops and checks."""

from collections.abc import Sequence
from dataclasses import dataclass

from ..judge import judge_many
from ..model import Build, Catalogue, Edit, EditError, apply
from .base import Finding, Remedy
from .registry import find_troubles

MOST_STEPS = 24


@dataclass(frozen=True)
class Step:
    """One remedy applied, and the finding it answers."""

    finding: Finding
    remedy: Remedy


@dataclass(frozen=True)
class Plan:
    """Steps in their order, and the stops and checks no step clears: they take a decision or work on the car."""

    steps: tuple[Step, ...]
    left: tuple[Finding, ...]

    @property
    def edits(self) -> tuple[Edit, ...]:
        """All steps' edits, in order."""
        return tuple(edit for step in self.steps for edit in step.remedy.edits)


def put_right(build: Build, option_id: str, catalogue: Catalogue) -> Plan:
    """What clears the stops and checks of one option; what is asked of the car (its targets) is left as it is.

    Root by root the first remedy of the hardware that cures is taken, also where it leaves something smaller to do; then
    steps that turned out to be needless are left out again. Raises KeyError for an unknown option.
    """
    troubles = _troubles(build, option_id, catalogue)
    steps: list[Step] = []
    now, seen = build, {frozenset(_codes(troubles))}
    while troubles and len(steps) < MOST_STEPS:
        found = _next(now, option_id, catalogue, troubles, seen)
        if found is None:
            break
        step, now, troubles = found
        steps.append(step)
        seen.add(frozenset(_codes(troubles)))
    steps = _needed(build, option_id, catalogue, steps, _codes(troubles))
    return Plan(tuple(steps), tuple(troubles))


def _next(
    build: Build, option_id: str, catalogue: Catalogue, troubles: list[Finding], seen: set[frozenset[str]]
) -> tuple[Step, Build, list[Finding]] | None:
    """The first remedy of the first trouble that cures it and does not lead back to where things stood before."""
    for finding in troubles:
        for remedy in finding.remedies:
            if not remedy.edits or any(path.startswith("targets/") for path, _ in remedy.edits):
                continue
            changed = apply(build, remedy.edits)
            after = _troubles(changed, option_id, catalogue)
            codes = _codes(after)
            if finding.code not in codes and frozenset(codes) not in seen:
                return Step(finding, remedy), changed, after
    return None


def _needed(build: Build, option_id: str, catalogue: Catalogue, steps: list[Step], left: list[str]) -> list[Step]:
    """The steps without those that can be left out with no more troubles than at the end."""
    kept = list(steps)
    for step in steps:
        fewer = [one for one in kept if one is not step]
        try:
            changed = apply(build, [edit for one in fewer for edit in one.remedy.edits]) if fewer else build
        except EditError:
            continue  # a later step changes what this one adds
        if set(_codes(_troubles(changed, option_id, catalogue))) <= set(left):
            kept = fewer
    return kept


def _troubles(build: Build, option_id: str, catalogue: Catalogue) -> list[Finding]:
    option = build.option(option_id)
    judged = judge_many([(build, option, target) for target in build.targets], ceilings=False)
    return find_troubles(build, option, judged, catalogue)


def _codes(found: Sequence[Finding]) -> list[str]:
    return [one.code for one in found]
