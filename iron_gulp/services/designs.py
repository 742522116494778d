"""Design searches that go on in the background: started, watched, stopped; what they find opened as options."""

import time
from threading import Event, Lock

from joblib.externals.loky import reusable_executor
from pydantic import ValidationError

from iron_gulp.core.model import Build, Option, problems_of
from iron_gulp.core.plan import KEEPS as KEEPS
from iron_gulp.core.plan import (
    Design,
    Search,
    bare,
    beside,
    bill,
    fewest,
    opened,
    road_of,
    stages_of_targets,
    upgrade,
)
from iron_gulp.core.plan import Locks as Locks
from iron_gulp.core.study import chances
from iron_gulp.storage import SettingRepository

from .edits import Edits, Outcome
from .fronts import read as read_front
from .fronts import written as front_text
from .job import Chain, Job, Surer, Ways
from .jobs import Jobs, Task
from .judging import Bench, Judging
from .roads import today_of
from .sizing import Sizing, processes
from .starter import fresh_id

CHANCE_DRAWS, MOST_CHANCES = 400, 16
BROKE_OFF = "it broke off; the log says why"
MOST_REMEMBERED = 32
Key = tuple[int, str]


class Designs:
    """One search a build and option at a time; what it found is kept with them."""

    def __init__(self, judging: Judging, edits: Edits, sizing: Sizing, settings: SettingRepository, jobs: Jobs):
        self._judging, self._edits, self._sizing, self._settings = judging, edits, sizing, settings
        self._jobs = jobs
        self._kept: dict[Key, Job | None] = {}
        self._last: dict[Key, tuple[Job, Task]] = {}
        self._lock = Lock()

    def start(self, bench: Bench, locks: Locks, fewest_first: bool = False) -> Job:
        """Begin a search from the option on the bench; one that runs for it is stopped. Raises Busy.

        With `fewest_first` it changes one kind of part, then two, until every target is carried.
        """
        key = (bench.stored.id, bench.option.id)
        fitted = today_of(bench.build)
        job = Job(bench.stored.number, locks, fitted or bench.option, fitted, fewest_first)
        search = self._sizing.search(bench.build, bench.option, locks, fitted)
        job.found = search.found

        def work(task: Task) -> None:
            self._run(key, job, task.stop, search, bench.build)

        with self._lock:
            self._last[key] = (job, self._jobs.ask("searches", ("search", *key), work, anew=True))
            for old in [one for one, (each, _) in self._last.items() if not each.running][:-MOST_REMEMBERED]:
                del self._last[old]
        return job

    def of(self, build_id: int, option_id: str) -> Job | None:
        """The last search of a build and option, of an earlier server where this one had none; None where none was."""
        key = (build_id, option_id)
        found = self._last.get(key)
        if found is not None:
            job, task = found
            job.ahead = task.ahead
            if not task.running:
                job.running, job.stopped = False, task.stopped  # one stopped while it waited never began
            return job
        if key not in self._kept:
            text = self.kept(*key)
            self._kept[key] = None if text is None else self._read(text, *key)
        return self._kept[key]

    def _read(self, text: str, build_id: int, option_id: str) -> Job | None:
        return read_front(text, lambda number: self._judging.build_at(build_id, number), option_id, self._sizing.search)

    def kept(self, build_id: int, option_id: str) -> str | None:
        """The front kept with a build and option, as text; None where none is."""
        return self._settings.get(front_name(build_id, option_id))

    def keep(self, build_id: int, option_id: str, text: str) -> None:
        """Keep a front as text with a build and option."""
        self._settings.put(front_name(build_id, option_id), text)
        self._kept.pop((build_id, option_id), None)

    def stop(self, build_id: int, option_id: str) -> None:
        """End a search; what it has found stays."""
        self._jobs.stop(("search", build_id, option_id))

    def wait(self, build_id: int, option_id: str) -> None:
        """Until the search of a build and option is done."""
        self._jobs.wait(("search", build_id, option_id))

    def open(self, build_id: int, base: int, option_id: str, number: int) -> Outcome:
        """Put a design of the front, or the nearest where there is none, into the build as an option. Raises NotFound."""
        bench, job = self._judging.bench(build_id, option_id), self.of(build_id, option_id)
        if job is None or not 0 <= number < len(job.offered):
            return Outcome(False, "", "", "there is no such design; search again")
        design = job.offered[number]
        new_id = fresh_id("o", [one.id for one in bench.build.options])
        option = design.option.model_copy(update={"id": new_id, "name": job.name_of(number), "why": ""})
        data = [one.model_dump(mode="json", by_alias=True) for one in (*bench.build.options, option)]
        return self._edits.make(build_id, base, [("options", data)], f"design {number + 1} opened")

    def ways(self, bench: Bench, number: int) -> Ways | None:
        """Ways to a design of the front for targets now and later; None without such a design, or for one target."""
        job = self.of(bench.stored.id, bench.option.id)
        if job is None or job.number != bench.stored.number or not 0 <= number < len(job.front):
            return None
        build, end, stages = bench.build, job.front[number].option, stages_of_targets(bench.build)
        if len(stages) < 2:
            return None
        if id(end) not in job.ways:
            catalogue, rates, fitted = self._sizing.catalogue, self._sizing.rates, job.fitted
            wanted = build.rules.headroom_pct if job.locks.headroom_pct is None else job.locks.headroom_pct
            each = road_of(build, fitted, job.each_time, catalogue, rates) if job.each_time else None
            job.ways[id(end)] = Ways(
                upgrade(build, fitted, end, catalogue, rates, wanted / 100.0),
                road_of(build, fitted, [(tuple(build.targets), end)], catalogue, rates),
                each,
            )
        return job.ways[id(end)]

    def _surer(self, build: Build, job: Job, search: Search, design: Design) -> list[Surer]:
        """Neighbours of a design that more cars carry, the surest first."""
        found = []
        for one in beside(build, design, search.catalogue, search.wanted):
            dearer = bill(build, search.before, one.option, search.rates).total - design.bill.total
            sure = chances(build, one.option, CHANCE_DRAWS).carried
            if sure > job.sure.get(id(design.option), 1.0):
                found.append(Surer(one, dearer, sure))
        return sorted(found, key=lambda one: -one.sure)

    def _fewest(self, job: Job, event: Event, search: Search, build: Build, workers: int) -> None:
        """The cheapest design of each set of kinds that does with the fewest changed."""

        def other(locks: Locks) -> Search:
            return self._sizing.search(build, search.base, locks, job.before)

        for kinds, design, tried in fewest(other, search.base, job.locks, event.is_set, workers):
            job.found.tried += tried
            job.opened = " and ".join(kinds)
            known = [one.score for one in job.found.front]
            if design is not None and design.score not in known:
                job.found.front.append(design)
        job.found.done = not event.is_set()

    def _each_time(self, build: Build, job: Job, base: Option, event: Event) -> Chain:
        """The cheapest system for each step from the one before, as who never looks ahead would buy; nothing where one
        of the steps has none."""
        stages, chain, targets = stages_of_targets(build), Chain(), build.targets[:0]
        had = job.fitted or bare(base)
        for stage in stages if len(stages) > 1 else ():
            targets = (*targets, *stage)
            search = self._sizing.search(build.model_copy(update={"targets": targets}), base, job.locks, had)
            with processes() as workers:
                for _ in search.run(stop=event.is_set, first_only=True, workers=workers):
                    pass
            if search.found.best is None:
                return Chain()
            had = search.found.best.option
            chain.append((stage, had))
        return chain

    def _run(self, key: Key, job: Job, event: Event, search: Search, build: Build) -> None:
        job.started = time.monotonic()
        ended = False
        try:
            with processes() as workers:
                if job.fewest:
                    self._fewest(job, event, search, build, workers)
                else:
                    for _ in search.run(stop=event.is_set, workers=workers):
                        pass
            job.took_s = time.monotonic() - job.started  # the search alone: what is worked out of the front comes after
            if not job.found.front and not job.fewest and not event.is_set():
                wider = opened(
                    lambda locks: self._sizing.search(build, search.base, locks, search.before),
                    job.locks,
                    event.is_set,
                )
                job.opens = sorted(wider, key=lambda one: one[1].bill.total)
            for design in job.front[:MOST_CHANCES]:
                if event.is_set():
                    break
                job.sure[id(design.option)] = chances(build, design.option, CHANCE_DRAWS).carried
            for design in job.front[:MOST_CHANCES]:
                if event.is_set():
                    break
                job.surer[id(design.option)] = self._surer(build, job, search, design)
            if job.front and not job.fewest and not event.is_set():
                job.each_time = self._each_time(build, job, search.base, event)
            ended = True
        except (ValueError, LookupError, ArithmeticError, RuntimeError) as error:  # told on the page, never lost
            job.failed = "" if event.is_set() else str(error) or type(error).__name__
            ended = True
        finally:  # whatever else happened, nobody waits for ever
            job.took_s = job.took_s or time.monotonic() - job.started
            job.stopped = event.is_set()
            if not ended and not job.stopped:
                job.failed = BROKE_OFF
            text = None if job.failed else front_text(job)
            if text is not None:
                self.keep(*key, text)
            job.running = False


def front_name(build_id: int, option_id: str) -> str:
    """The name a front is kept under."""
    return f"front:{build_id}:{option_id}"


def read_locks(typed: dict[str, str], keep: list[str]) -> tuple[Locks | None, str]:
    """Locks from what was typed, or what is wrong with them."""
    given: dict[str, object] = {name: text.strip().replace(",", ".") for name, text in typed.items() if text.strip()}
    try:
        return Locks.model_validate({**given, "keep": tuple(keep)}), ""
    except ValidationError as error:
        fields = Locks.model_fields
        named = [(fields[one.path.split("/")[0]].title or "Keep", one.message) for one in problems_of(error)]
        return None, "; ".join(f"{title}: {message}" for title, message in named)


def end_processes() -> None:
    """End the processes of searches that did not end in time."""
    pool = reusable_executor._executor
    if pool is not None:
        # Never asked for by its own call: that would wait, with its lock held, for a thread that wants the lock.
        pool.shutdown(wait=False, kill_workers=True)
