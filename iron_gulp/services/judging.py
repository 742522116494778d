"""Judged builds: stored builds on the bench, remembered by text so that a page and its fragments share one."""

from dataclasses import dataclass
from functools import lru_cache
from typing import Any

from iron_gulp.core import advise
from iron_gulp.core.account import Context as FigureContext
from iron_gulp.core.account import Explanation, explain, opened, plain
from iron_gulp.core.account import Place as Place
from iron_gulp.core.advise import Finding, Plan, put_right
from iron_gulp.core.judge import TargetVerdict, worst
from iron_gulp.core.model import RULES, STATIONS, Build, Option, alcohol_counted, station_of
from iron_gulp.core.model import Component as Component
from iron_gulp.core.study import IdlePulse, SizeWindow, idle_pulses, judged_beside, size_window
from iron_gulp.formats.build_file import BuildFileError, read, write
from iron_gulp.shelf import Shelf
from iron_gulp.storage import BuildRepository, Stored, Unreadable

from .latest import Latest
from .moved import Movements

# Raised whenever the same build may be judged otherwise than before: stored verdicts of another number are made anew.
PHYSICS = 8


@dataclass(frozen=True)
class Judged:
    """One option of a build with every target judged and all findings."""

    build: Build
    option: Option
    verdicts: tuple[TargetVerdict, ...]
    findings: tuple[Finding, ...]
    expected: tuple[TargetVerdict, ...]  # the same targets at what the engine is expected to burn

    def verdict(self, target_id: str) -> TargetVerdict:
        return next(verdict for verdict in self.verdicts if verdict.target.id == target_id)

    def expected_verdict(self, target_id: str) -> TargetVerdict:
        """A target judged at what the engine is expected to burn."""
        return next(verdict for verdict in self.expected if verdict.target.id == target_id)


@dataclass(frozen=True)
class Bench:
    """One build on the bench: stored revision, option and target chosen, everything judged."""

    stored: Stored
    build: Build
    option: Option
    verdict: TargetVerdict
    judged: Judged

    @property
    def figures(self) -> FigureContext:
        return FigureContext(self.build, self.verdict)


_PARSED: Latest[Build] = Latest(64)


def parsed(body: str) -> Build:
    """A stored body as a build. Raises Unreadable."""
    known = _PARSED.get(body)
    if known is not None:
        return known
    try:
        return _PARSED.put(body, read(body))
    except BuildFileError as error:
        raise Unreadable(f"its stored text cannot be read: {str(error)[:200]}") from None


def written(build: Build) -> str:
    """A build as the text to store; it need not be read again."""
    body = write(build)
    _PARSED.put(body, build)
    return body


@lru_cache(maxsize=32)
def _judged_beside(body: str, option_id: str) -> tuple[tuple[TargetVerdict, ...], tuple[TargetVerdict, ...]]:
    build = parsed(body)
    sized, expected = judged_beside(build, build.option(option_id))
    return tuple(sized), tuple(expected)


def verdicts_of(body: str, option_id: str) -> tuple[TargetVerdict, ...]:
    """Every target of a stored build judged on one option. Raises KeyError for an unknown option."""
    return _judged_beside(body, option_id)[0]


@lru_cache(maxsize=16)
def judged(body: str, option_id: str, shelf: Shelf) -> Judged:
    """Judge every target of a stored build on one option, with findings. Raises KeyError for an unknown option."""
    build, (verdicts, expected) = parsed(body), _judged_beside(body, option_id)
    option = build.option(option_id)
    return Judged(build, option, verdicts, tuple(advise.find(build, option, list(verdicts), shelf.catalogue)), expected)


@lru_cache(maxsize=16)
def plan_of(body: str, option_id: str, shelf: Shelf) -> Plan:
    """What clears the stops and checks of an option of a stored build. Raises KeyError for an unknown option."""
    return put_right(parsed(body), option_id, shelf.catalogue)


def summarise(body: str) -> tuple[str, dict[str, Any], float | None]:
    """State at a glance for the garage, of the build's first option: name, summary, load of the first to run out."""
    build = parsed(body)
    verdict = worst(verdicts_of(body, build.options[0].id))
    limit = verdict.first_out
    summary = {
        "physics": PHYSICS,
        "car": build.car.description,
        "limit": limit.title,
        "load": plain(limit.load),
        "status": limit.status,
        "path": _path(verdict),
        "first": station_of(limit.component),
        "target": verdict.target.name,
        "power_kw": verdict.target.power_kw,
        "alcohol": alcohol_counted(build),
        "limit_power_kw": plain(verdict.power_limit.ceiling_kw),
        "targets": len(build.targets),
        "options": len(build.options),
    }
    return build.name, summary, plain(limit.load)


def _path(verdict: TargetVerdict) -> list[tuple[str, float | None, str]]:
    """Each station of the fuel path with its highest load and how that stands, in the order of the path."""
    found = []
    for station in STATIONS:
        loads = [one for one in verdict.loads if station_of(one.component) == station]
        if loads:
            limits = [one for one in loads if one.component not in RULES]
            top = max(limits or loads, key=lambda one: one.load)
            found.append((str(station), plain(top.load), str(top.status)))
    return found


class Judging:
    """Puts stored builds on the bench, judged with the shelf's parts for remedies."""

    def __init__(self, builds: BuildRepository, shelf_of: "ShelfHolder", movements: Movements):
        self._builds, self._shelf_of, self._movements = builds, shelf_of, movements

    def bench(self, build_id: int, option_id: str | None = None, target_id: str | None = None) -> Bench:
        """A build judged. An unknown option or target falls back to the first. Raises NotFound for an unknown build."""
        stored = self._builds.current(build_id)
        build = parsed(stored.body)
        if option_id not in {option.id for option in build.options}:
            option_id = None
        if target_id not in {target.id for target in build.targets}:
            target_id = None
        found = judged(stored.body, build.option(option_id).id, self._shelf_of.shelf)
        return Bench(stored, build, found.option, found.verdict(build.target(target_id).id), found)

    def last_readable(self, build_id: int) -> int | None:
        """The newest revision of a build that can be read whole; None where none can. Raises NotFound."""
        for number in self._builds.numbers(build_id):
            try:
                parsed(self._builds.body_at(build_id, number))
            except Unreadable:
                continue
            return number
        return None

    def build_at(self, build_id: int, number: int) -> Build:
        """A build as it was at a revision. Raises NotFound."""
        return parsed(self._builds.body_at(build_id, number))

    def size_window(self, bench: Bench) -> SizeWindow | None:
        """Injector sizes that carry every target of the option on the bench and idle; None without port injectors."""
        if bench.option.injectors is None or bench.option.mode == "direct only":
            return None
        return size_window(bench.build, bench.option, self._shelf_of.shelf.catalogue)

    @staticmethod
    def idle_pulses(bench: Bench) -> tuple[IdlePulse, ...]:
        """Idle pulses of every target on the option on the bench, cold and hot; none without port injectors."""
        return idle_pulses(bench.build, bench.option)

    def put_right(self, bench: Bench) -> Plan:
        """What clears the stops and checks of the option on the bench."""
        return plan_of(bench.stored.body, bench.option.id, self._shelf_of.shelf)

    @staticmethod
    def explain(bench: Bench, key: str) -> Explanation:
        """A figure opened. Raises KeyError for an unknown figure."""
        return explain(key, bench.figures)

    @staticmethod
    def number(bench: Bench, kind: str, place: Place) -> Explanation:
        """A number of a table opened. Raises KeyError where there is no such number."""
        return opened(kind, bench.build, bench.option, bench.verdict.target, place)

    def judge_anew(self, build_id: int) -> bool:
        """Bring the stored verdict of a build to today's physics; False when it already is."""
        anew = self._builds.refresh(
            build_id, _of_another_physics, lambda was, now: self._movements.noting(build_id, was, now)
        )
        self._movements.noted(build_id)
        return anew

    def outdated(self) -> list[int]:
        """Builds whose stored verdict another physics judged, last touched first."""
        return self._builds.where(_of_another_physics)


def _of_another_physics(summary: dict[str, Any]) -> bool:
    return summary.get("physics") != PHYSICS


class ShelfHolder:
    """Whoever knows the shelf as it is now."""

    shelf: Shelf
