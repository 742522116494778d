"""One runner for all that takes long: a lane a kind of work, one job of it at a time, a bounded queue, a job a question.

Who asks the same again while it waits or runs is given the job that is there. A job is told to stop by its event and
looks at it often; at the end of the server none is waited for longer than a moment.
"""

import logging
import time
from collections import deque
from collections.abc import Callable, Hashable
from dataclasses import dataclass, field
from enum import StrEnum
from threading import Condition, Event, Thread
from typing import Literal

MOST_WAITING = 12
KEPT = 256  # of those that ended, by their questions
ENDS_WITHIN_S = 1.0
Lane = Literal["searches", "sizing", "cures", "upkeep"]
log = logging.getLogger("iron_gulp.jobs")


class Busy(RuntimeError):
    """The queue of a lane is full; the message says so."""


def _nothing(_job: "Task") -> None:
    """What a job that has ended still does."""


class State(StrEnum):
    """How a job stands."""

    WAITING = "waiting"
    RUNNING = "running"
    ENDED = "ended"


@dataclass(eq=False)
class Task:
    """A piece of long work: what is asked, how it stands, whether it broke off; `stop` is set to end it."""

    runner: "Jobs" = field(repr=False)
    key: Hashable
    lane: Lane
    work: Callable[["Task"], None]
    stop: Event = field(default_factory=Event)
    ended: Event = field(default_factory=Event)
    state: State = State.WAITING
    broke_off: bool = False
    started: float = field(default_factory=time.monotonic)

    @property
    def running(self) -> bool:
        """Whether it waits or works."""
        return self.state is not State.ENDED

    @property
    def stopped(self) -> bool:
        """Whether it was told to stop before it had ended by itself."""
        return not self.running and self.stop.is_set()

    @property
    def ahead(self) -> int:
        """How many jobs of its lane come before it while it waits."""
        return self.runner.ahead(self)


@dataclass
class Watched:
    """Something a job works on, as a page shows it: whether it runs, how long, how many come before it."""

    task: Task | None = field(default=None, kw_only=True)
    started: float = field(default_factory=time.monotonic, kw_only=True)

    @property
    def running(self) -> bool:
        """Whether it waits or works."""
        return self.task is None or self.task.running

    @property
    def broke_off(self) -> bool:
        """Whether it ended by a fault."""
        return self.task is not None and self.task.broke_off

    @property
    def stopped(self) -> bool:
        """Whether it was stopped: what it has not found by then may still be there."""
        return self.task is not None and self.task.stopped

    def unfinished(self, what: str) -> str:
        """Why work that came to no end did not, in words."""
        return f"{what} broke off; the log says why" if self.broke_off else f"{what} was stopped"

    @property
    def ahead(self) -> int:
        """How many jobs come before it while it waits."""
        return 0 if self.task is None else self.task.ahead

    @property
    def seconds(self) -> float:
        """How long since it was asked for."""
        return time.monotonic() - self.started

    @property
    def went(self) -> str:
        """How it goes, in words."""
        if self.ahead:
            return f"waits: {self.ahead} {'others' if self.ahead > 1 else 'other'} before it"
        return f"{self.seconds:.0f} s so far" if self.seconds >= 1 else "just begun"


class Jobs:
    """The runner. Its threads come with the first job of a lane and go when nothing waits."""

    def __init__(self) -> None:
        self._changed = Condition()
        self._waiting: dict[Lane, deque[Task]] = {}
        self._at_work: dict[Lane, Task] = {}
        self._known: dict[Hashable, Task] = {}
        self._closed = False

    def ask(self, lane: Lane, key: Hashable, work: Callable[[Task], None], anew: bool = False) -> Task:
        """The job of a question: the one that waits or works for it, else a new one at the end of its lane.

        `anew` stops the one that is there and queues another. Raises Busy.
        """
        with self._changed:
            there = self._known.get(key)
            if there is not None and there.running and not anew:
                return there
            queue = self._waiting.setdefault(lane, deque())
            if there is not None and anew:
                self._stop(there)
            if len(queue) >= MOST_WAITING:
                raise Busy("too much is under way already; try again when some of it has ended")
            if self._closed:
                raise Busy("the server is stopping")
            job = Task(self, key, lane, work)
            self._known.pop(key, None)
            self._known[key] = job
            self._forget()
            queue.append(job)
            if lane not in self._at_work:
                self._at_work[lane] = job
                Thread(target=self._lane, args=(lane,), name=f"jobs: {lane}", daemon=True).start()
        return job

    def of(self, key: Hashable) -> Task | None:
        """The last job of a question that is remembered; None where there was none."""
        return self._known.get(key)

    def ahead(self, job: Task) -> int:
        """How many jobs of its lane come before a waiting one."""
        with self._changed:
            queue = self._waiting.get(job.lane, deque())
            return list(queue).index(job) + 1 if job in queue else 0

    def stop(self, key: Hashable, within_s: float = ENDS_WITHIN_S) -> None:
        """End the job of a question; one that works is given a moment."""
        with self._changed:
            job = self._known.get(key)
            if job is None:
                return
            self._stop(job)
        job.ended.wait(within_s)

    def wait(self, key: Hashable) -> None:
        """Until the job of a question has ended."""
        job = self._known.get(key)
        if job is not None:
            job.ended.wait()

    def close(self) -> bool:
        """End everything; True where all of it ended in time."""
        with self._changed:
            self._closed = True
            jobs = [job for job in self._known.values() if job.running] + list(self._at_work.values())
            for job in jobs:
                self._stop(job)
        until = time.monotonic() + ENDS_WITHIN_S
        return all(job.ended.wait(max(until - time.monotonic(), 0.0)) for job in jobs)

    def _stop(self, job: Task) -> None:
        if not job.running:
            return
        job.stop.set()
        queue = self._waiting.get(job.lane, deque())
        if job in queue:
            queue.remove(job)
            self._end(job)

    @staticmethod
    def _end(job: Task) -> None:
        job.state = State.ENDED
        job.work = _nothing  # and with it all that it worked on
        job.ended.set()

    def _forget(self) -> None:
        ended = [key for key, job in self._known.items() if not job.running]
        for key in ended[: max(len(ended) - KEPT, 0)]:
            del self._known[key]

    def _lane(self, lane: Lane) -> None:
        while True:
            with self._changed:
                queue = self._waiting[lane]
                if not queue:
                    del self._at_work[lane]
                    return
                job = queue.popleft()
                job.state = State.RUNNING
                self._at_work[lane] = job
            try:
                job.work(job)
            except Exception:
                job.broke_off = not job.stop.is_set()
                log.exception("a job of the lane %s broke off", lane)
            finally:
                self._end(job)
