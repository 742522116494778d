"""Size it for me: the cheapest complete system of the shelf that carries every target, with a plain account of it."""

import os
from collections.abc import Callable, Iterator, Mapping
from contextlib import contextmanager
from dataclasses import dataclass, field
from threading import Lock

from iron_gulp.core.model import Build, Catalogue, Option, Rates
from iron_gulp.core.plan import (
    ONE_SET,
    Answers,
    Chosen,
    Design,
    Leave,
    Locks,
    Search,
    bare,
    choices_text,
    choose,
    reasons,
)
from iron_gulp.core.plan.design import Kept
from iron_gulp.shelf import KINDS, Shelf
from iron_gulp.units import BenchUnits

from .as_found import AS_FOUND, as_found, bought
from .asking import asked_build
from .edits import Edits, Outcome
from .garage import Garage
from .jobs import Jobs, Task, Watched
from .judging import Judging, ShelfHolder
from .own_parts import is_own
from .progress import Progress
from .roads import Roads, today_of
from .sizing_words import cannot, in_words, noted, out_of_air, over_budget, taken_for_granted
from .starter import fresh_id
from .typed import TypedUnits, places_of

__all__ = ["SIZED", "Answers", "Sized", "Sizing"]
SIZED = "Sized for these targets"
NEAREST = "The nearest that can be had"

WORKERS = min(os.cpu_count() or 1, 2)
KEPT = 64


_POOL = Lock()


@contextmanager
def processes() -> Iterator[int]:
    """How many processes a search may use: all of them for one search at a time, none but this one for others.

    Searches share them otherwise, and one that ends would end them for all.
    """
    mine = _POOL.acquire(blocking=False)
    try:
        yield WORKERS if mine else 1
    finally:
        if mine:
            _POOL.release()


@dataclass(frozen=True)
class Sized:
    """What came of it: a design that carries, or the nearest that does not; the account of it in words."""

    design: Design
    carries: bool
    account: tuple[str, ...]


@dataclass
class Work(Watched):
    """A sizing: for which target, and once done how it went and the option it made ("" for none)."""

    target: str
    progress: Progress = field(default_factory=Progress)
    outcome: Outcome | None = None
    option_id: str = ""

    @property
    def told(self) -> Outcome | None:
        """How it went; None while it goes on."""
        if self.outcome is not None or self.running:
            return self.outcome
        return Outcome(False, "", "", self.unfinished("sizing"))


@dataclass
class Made(Watched):
    """A new build: its id once it is there, or why there is none."""

    answers: Answers
    progress: Progress = field(default_factory=Progress)
    build_id: int | None = None
    refused: str = ""

    @property
    def told(self) -> str:
        """Why there is no build; empty while it goes on or where there is one."""
        if self.running or self.build_id is not None:
            return ""
        return self.refused or self.unfinished("sizing")


class Sizing:
    """Answers to builds, builds to sized systems."""

    def __init__(
        self,
        judging: Judging,
        edits: Edits,
        garage: Garage,
        roads: Roads,
        shelf_of: ShelfHolder,
        jobs: Jobs,
        typed_units: TypedUnits,
    ):
        self._typed = typed_units
        self._judging, self._edits, self._garage = judging, edits, garage
        self._roads, self._shelf_of, self._jobs = roads, shelf_of, jobs
        self._works: dict[int, Work] = {}
        self._made: dict[str, Made] = {}
        self._asking = Lock()

    @property
    def catalogue(self) -> Catalogue:
        """The shelf's parts."""
        return self._shelf_of.shelf.catalogue

    @property
    def rates(self) -> Rates:
        """The shop's rates."""
        return self._roads.rates()

    def start_build(
        self, answers: Answers, units: BenchUnits, wires: str, form: str, said: Mapping[str, str] | None = None
    ) -> Made:
        """Begin to make a new build of answers; the same answers of the same form make one build, however often sent.

        Raises Busy.
        """
        with self._asking:
            known = self._made.get(form)
            if known is not None and known.answers == answers and (known.running or known.build_id is not None):
                return known
            made = Made(answers)

            def work(task: Task) -> None:
                made.progress.stop = task.stop.is_set
                try:
                    made.build_id = self.create(answers, units, wires, made.progress, said)
                except LookupError as error:
                    made.refused = str(error)

            made.task = self._jobs.ask("sizing", ("build", form, answers), work)
            self._made[form] = made
            while len(self._made) > KEPT:
                self._made.pop(next(iter(self._made)))
        return made

    def made(self, form: str) -> Made | None:
        """The build that a form has asked for; None where it is not remembered."""
        return self._made.get(form)

    def create(
        self,
        answers: Answers,
        units: BenchUnits,
        wires: str,
        progress: Progress | None = None,
        said: Mapping[str, str] | None = None,
    ) -> int:
        """A new build from answers, sized; returns its id. What was assumed stands in its notes. Raises LookupError.

        `said` are the units that were typed with answers, by question.
        """
        shelf, rates = self._shelf_of.shelf, self._roads.rates()
        build, _, _ = size_answers(answers, shelf, rates, units, wires, progress=progress)
        return self._added(build, "sized from a few answers", said)

    def _added(self, build: Build, note: str, said: Mapping[str, str] | None) -> int:
        build_id = self._garage.add(build, note)
        self._typed.keep(build_id, places_of(said or {}, build))
        return build_id

    def draft(self, answers: Answers, units: BenchUnits, wires: str, said: Mapping[str, str] | None = None) -> int:
        """A new build from answers with a system to start from, nothing sized; returns its id."""
        shelf = self._shelf_of.shelf
        build, guesses = asked_build(shelf, answers, wires)
        option, _ = as_found(shelf, build.options[0], answers)
        taken = {"notes": noted(guesses, units), "assumed": taken_for_granted(build, guesses, units)}
        return self._added(build.model_copy(update={"options": (option,), **taken}), "new draft", said)

    def start(
        self,
        build_id: int,
        base: int,
        option_id: str,
        target_id: str,
        units: BenchUnits,
        locks: Locks | None = None,
        one_set_alone: bool = False,
    ) -> Work:
        """Begin to size a build in the background; one that is under way for it goes on. Raises NotFound."""
        self._judging.bench(build_id, option_id)
        self._edits.seen(build_id, base)
        with self._asking:
            under_way = self.of(build_id)
            if under_way is not None and under_way.running:
                return under_way
            work = Work(target_id)

            def run(task: Task) -> None:
                work.progress.stop = task.stop.is_set
                asked = (locks or Locks(), frozenset({ONE_SET}) if one_set_alone else frozenset[str]())
                outcome, work.option_id = self.size_option(build_id, base, option_id, units, work.progress, *asked)
                work.outcome = outcome

            work.task = self._jobs.ask("sizing", ("size", build_id), run)
            self._works[build_id] = work
            while len(self._works) > KEPT:
                self._works.pop(next(iter(self._works)))
        return work

    def of(self, build_id: int) -> Work | None:
        """The last sizing of a build; None where there was none."""
        return self._works.get(build_id)

    def stop(self, build_id: int) -> None:
        """End the sizing of a build."""
        self._jobs.stop(("size", build_id))

    def stop_build(self, form: str) -> None:
        """End what makes a new build of a form."""
        made = self._made.get(form)
        if made is not None and made.task is not None:
            self._jobs.stop(made.task.key)

    def wait(self, build_id: int) -> None:
        """Until a build's sizing is done."""
        self._jobs.wait(("size", build_id))

    def size_option(
        self,
        build_id: int,
        base: int,
        option_id: str,
        units: BenchUnits,
        progress: Progress | None = None,
        locks: Locks | None = None,
        must: frozenset[str] = frozenset(),
    ) -> tuple[Outcome, str]:
        """Put a sized system beside a build's options; how it went, and the new option's id. Raises NotFound."""
        bench = self._judging.bench(build_id, option_id)
        try:
            before = today_of(bench.build)
            sized = self.size(bench.build, bench.option, locks or Locks(), units, before, progress, must)
        except LookupError as error:
            return Outcome(False, "", "", str(error)), ""
        new_id = fresh_id("o", [one.id for one in bench.build.options])
        name = SIZED if sized.carries else NEAREST
        option = sized.design.option.model_copy(update={"id": new_id, "name": name, **accounted(sized)})
        data = [one.model_dump(mode="json", by_alias=True) for one in (*bench.build.options, option)]
        outcome = self._edits.make(build_id, base, [("options", data)], "sized for the targets")
        return outcome, new_id if outcome.ok else ""

    def size(
        self,
        build: Build,
        option: Option,
        locks: Locks,
        units: BenchUnits,
        before: Option | None = None,
        progress: Progress | None = None,
        must: frozenset[str] = frozenset(),
    ) -> Sized:
        """The cheapest system that carries, of what a specialist would rather fit. Raises LookupError."""

        def search(one: Locks) -> Search:
            return self.search(build, option, one, before)

        return size_build(search, build, option, locks, self.catalogue, units, progress, must)

    def search(
        self, build: Build, option: Option, locks: Locks, before: Option | None = None, leave: Leave | None = None
    ) -> Search:
        """A search at the shop's rates, its own parts known."""
        return search_of(self._shelf_of.shelf, self._roads.rates(), build, option, locks, before, leave)


def search_of(
    shelf: Shelf,
    rates: Rates,
    build: Build,
    option: Option,
    locks: Locks,
    before: Option | None = None,
    leave: Leave | None = None,
) -> Search:
    """A search of a shelf at some rates, the shop's own parts known."""
    own = frozenset(one.shelf_id for kind in KINDS for one in shelf.parts(kind) if is_own(one) and one.shelf_id)
    return Search(build, option, shelf.catalogue, rates, locks, before or bare(option), own, leave)


def size_build(
    search: Callable[[Locks], Search],
    build: Build,
    option: Option,
    locks: Locks,
    catalogue: Catalogue,
    units: BenchUnits,
    progress: Progress | None = None,
    must: frozenset[str] = frozenset(),
) -> Sized:
    """The cheapest system of the wishes that anything keeps, or the nearest; with its account. Raises LookupError."""

    watched = progress or Progress()

    def run(one: Search) -> bool:
        with processes() as workers:
            for found in one.run(watched.stop, first_only=True, workers=workers):
                watched.saw(found)
        return not watched.stop()

    chosen = choose(search, run, option, locks, must)
    if chosen is None:
        raise LookupError("sizing was stopped")
    if chosen.design is not None:
        account = tuple(told(build, chosen, catalogue, units))
        short = out_of_air(build, chosen.design, units)
        return Sized(chosen.design, not short, (*short, *account))
    if locks.budget is not None:
        dearer = choose(search, run, option, locks.model_copy(update={"budget": None}), must)
        if dearer is not None and dearer.design is not None:
            told_it = over_budget(dearer.design, locks.budget, search(locks).rates)
            return Sized(dearer.design, False, (told_it, *told(build, dearer, catalogue, units)))
    if chosen.nearest is None:
        raise LookupError("no part of the shelf fits this system at all")
    return Sized(chosen.nearest, False, tuple(cannot(build, chosen.nearest, catalogue, units)))


def size_answers(
    answers: Answers,
    shelf: Shelf,
    rates: Rates,
    units: BenchUnits,
    wires: str = "mm²",
    locks: Locks | None = None,
    progress: Progress | None = None,
) -> tuple[Build, list[str], Sized]:
    """The build of answers with the system sized for it, what was assumed, and how it went. Raises LookupError."""
    build, guesses = asked_build(shelf, answers, wires)
    assumed = [in_words(one, units) for one in guesses]
    option, keep = as_found(shelf, build.options[0], answers)
    asked = locked_by(answers, locks or Locks(), keep)
    before = bought(option, answers) if answers.found else None

    def search(one: Locks) -> Search:
        return search_of(shelf, rates, build, option, one, before)

    must = frozenset({ONE_SET}) if answers.sets == "one alone" else frozenset[str]()
    sized = size_build(search, build, option, asked, shelf.catalogue, units, progress, must)
    named = {"name": SIZED if sized.carries else NEAREST, **accounted(sized)}
    taken: dict[str, object] = {"notes": noted(guesses, units), "assumed": taken_for_granted(build, guesses, units)}
    whole = sized.design.option.model_copy(update=named)
    if not answers.found:
        return build.model_copy(update={"options": (whole,), **taken}), assumed, sized
    today = option.model_copy(update={"id": "found", "name": AS_FOUND})
    both: dict[str, object] = {"options": (whole, today), "fitted_today": today.id, **taken}
    return build.model_copy(update=both), assumed, sized


def accounted(sized: Sized) -> dict[str, object]:
    """The account of a sized system, and the choices that it was written for."""
    return {"why": "\n".join(sized.account), "why_for": choices_text(sized.design.option)}


def locked_by(answers: Answers, locks: Locks, keep: tuple[Kept, ...]) -> Locks:
    """Locks with what the answers say: what stays, the return, the base pressure, the budget."""
    changed: dict[str, object] = {"keep": tuple(dict.fromkeys((*locks.keep, *keep)))}
    if locks.returns == "either":
        changed["returns"] = answers.returns
    if answers.base_kpa is not None or "regulator" in keep:
        changed["base_pressure"] = "as it is"
    for name in ("pumps_sit", "regulator_sits"):
        if getattr(answers, name) == "either":
            changed[name] = "may change"
    if answers.budget is not None and locks.budget is None:
        changed["budget"] = answers.budget
    return locks.model_copy(update=changed)


def told(build: Build, chosen: Chosen, catalogue: Catalogue, units: BenchUnits) -> list[str]:
    """The account of a sized system in bench units."""
    return [in_words(one, units) for one in reasons(build, chosen, catalogue)]
