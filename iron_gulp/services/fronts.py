"""What a search found, kept with its build: a front outlives the server that searched it.

Kept are options, locks, counts and chances; loads, costs and scores are judged again from them, by today's physics and
prices, and what does not hold any more is left out.
"""

from collections import Counter
from collections.abc import Callable

from pydantic import Field, ValidationError

from iron_gulp.core.model import Build, Model, Option
from iron_gulp.core.plan import Design, Found, Locks, Search

from .job import Job
from .roads import today_of

MOST_KEPT_CHARACTERS = 4_000_000
Searching = Callable[[Build, Option, Locks, Option | None], Search]


class KeptDesign(Model):
    """A design of a front: its option, and in what share of cars it carries every target."""

    option: Option
    sure: float | None = Field(None, ge=0, le=1)


class KeptFront(Model):
    """A search that ended: of which revision, with which locks, what it found and how it went."""

    number: int = Field(ge=1)
    locks: Locks
    fewest: bool = False
    opened: str = ""
    designs: tuple[KeptDesign, ...] = ()
    nearest: Option | None = None
    tried: int = 0
    total: int = 0
    dominated: int = 0
    fell: dict[str, int] = Field(default_factory=dict)
    done: bool = True
    stopped: bool = False
    took_s: float = 0.0


def written(job: Job) -> str | None:
    """A search as text; None where it is too much to keep."""
    found = job.found
    kept = KeptFront(
        number=job.number,
        locks=job.locks,
        fewest=job.fewest,
        opened=job.opened,
        designs=tuple(KeptDesign(option=one.option, sure=job.chance(one)) for one in job.front),
        nearest=None if found.nearest is None else found.nearest.option,
        tried=found.tried,
        total=found.total,
        dominated=found.dominated,
        fell=dict(found.fell),
        done=found.done,
        stopped=job.stopped,
        took_s=job.took_s,
    )
    text = kept.model_dump_json(by_alias=True, exclude_defaults=True)
    return text if len(text) <= MOST_KEPT_CHARACTERS else None


def read(text: str, body_at: Callable[[int], Build], option_id: str, searching: Searching) -> Job | None:
    """A kept search, judged again on the revision it was made on; None where that revision, its option or the text is
    not what it was."""
    try:
        kept = KeptFront.model_validate_json(text)
        build = body_at(kept.number)
        base = build.option(option_id)
    except (ValidationError, LookupError):
        return None
    fitted = today_of(build)
    search = searching(build, base, kept.locks, fitted)
    designs = [search.design(one.option) for one in kept.designs]
    job = Job(kept.number, kept.locks, fitted or base, fitted, kept.fewest, kept.opened)
    job.found = Found(
        [one for one in designs if holds(one, search)],
        kept.tried,
        kept.total,
        Counter(kept.fell),
        kept.dominated,
        None if kept.nearest is None else search.design(kept.nearest),
        kept.done,
    )
    job.sure = {
        id(one.option): each.sure for one, each in zip(designs, kept.designs, strict=True) if each.sure is not None
    }
    job.running, job.stopped, job.took_s = False, kept.stopped, kept.took_s
    return job


def holds(design: Design, search: Search) -> bool:
    """Whether a kept design still leaves the headroom its search wanted."""
    return design.headroom >= search.wanted - 1e-6
