"""Judged builds, remembered by their text so that a page and its fragments share one solution."""

from dataclasses import dataclass
from functools import lru_cache
from typing import Any

from iron_gulp.core import advise as core_findings
from iron_gulp.core.account import plain
from iron_gulp.core.advise import Finding
from iron_gulp.core.judge import DutyVerdict, judge_all, worst
from iron_gulp.core.model import Build, Option
from iron_gulp.formats.build_file import read
from iron_gulp.shelf import Shelf


@lru_cache(maxsize=256)
def parsed(body: str) -> Build:
    """A stored body as a build."""
    return read(body)


@dataclass(frozen=True)
class Judged:
    """One option of a build with every duty judged and all findings."""

    build: Build
    option: Option
    verdicts: tuple[DutyVerdict, ...]
    findings: tuple[Finding, ...]

    def verdict(self, duty_id: str) -> DutyVerdict:
        return next(verdict for verdict in self.verdicts if verdict.duty.id == duty_id)


@lru_cache(maxsize=64)
def judged(body: str, option_id: str, shelf: Shelf) -> Judged:
    """Judge every duty of a stored build on one option. Raises KeyError for an unknown option."""
    build = parsed(body)
    option = build.option(option_id)
    verdicts = judge_all(build, option)
    found = core_findings.find(build, option, verdicts, shelf.catalogue)
    return Judged(build, option, tuple(verdicts), tuple(found))


def summarise(body: str) -> tuple[str, dict[str, Any], float | None]:
    """State at a glance for the garage, of the build's first option: name, summary, load of the first to run out."""
    build = parsed(body)
    verdict = worst(judge_all(build, build.options[0]))
    limit = verdict.first_out
    summary = {
        "car": build.car.description,
        "limit": limit.title,
        "load": plain(limit.load),
        "status": limit.status,
        "duty": verdict.duty.name,
        "power_kw": verdict.duty.power_kw,
        "limit_power_kw": plain(verdict.power_limit.ceiling_kw),
        "duties": len(build.duties),
        "options": len(build.options),
    }
    return build.name, summary, plain(limit.load)
