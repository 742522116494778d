"""A search in words: its progress, each design against today's, and what the others fell to."""

from dataclasses import dataclass

from iron_gulp.core.model import TITLES, Rates
from iron_gulp.core.plan import Design, Locks, differences, money, nearest_words
from iron_gulp.services.job import Job

MOST_REASONS = 8


@dataclass(frozen=True)
class DesignRow:
    """A design of the front."""

    number: int
    place: int
    cost: str
    headroom: str
    points: int
    parts: str
    sure: str
    first: str
    changes: list[tuple[str, str]]
    surer: list[str]


def progress(job: Job) -> str:
    """How far it is."""
    found = job.found
    if job.ahead:
        return f"It waits: {job.ahead} {'others' if job.ahead > 1 else 'other'} before it."
    if not found.tried and not job.running:
        return "No combination came as far as being judged."
    rate = found.tried / max(job.seconds, 0.1)
    taken = f"{job.seconds:.0f} s" if job.seconds >= 1.0 else "under 1 s"
    told = f"{spaced(found.tried)} systems judged in {taken}, {spaced(rate)} a second"
    if job.fewest and job.running and job.opened:
        told += f"; tried so far: {job.opened}"
    if found.total:
        told += f"; {spaced(found.total)} combinations weighed"
    if job.running and found.done:
        return told + ": all of them. How sure each is, and the roads there, are being worked out."
    if found.others:
        told += "; with own parts alone none carries, so the whole shelf was looked at"
    return told + (": all of them." if found.done else ", stopped." if job.stopped else ".")


def spaced(value: float) -> str:
    """A count with thin spaces between thousands."""
    return f"{value:,.0f}".replace(",", "\u202f")


def rows(job: Job, rates: Rates) -> list[DesignRow]:
    """The front so far."""
    return [_row(number, one, job, rates) for number, one in enumerate(job.front, start=1)]


def _row(number: int, one: Design, job: Job, rates: Rates) -> DesignRow:
    sure = job.chance(one)
    parts = one.parts
    counted = [f"{parts.pumps} pump{'s' * (parts.pumps != 1)}"]
    counted += [f"{parts.controllers} controller{'s' * (parts.controllers != 1)}"] if parts.controllers else []
    counted += [f"{len(parts.silent)} may fail unseen"] if parts.silent else []
    worst = one.first_out
    return DesignRow(
        number,
        number - 1,
        money(one.bill.total, rates),
        f"{one.headroom * 100:.0f}\u00a0%",
        one.score.complexity,
        ", ".join(counted),
        "…" if sure is None else f"{sure * 100:.0f} of 100",
        worst.target.name,
        [(what, now or "none") for what, _, now in differences(job.before, one.option)],
        [
            f"{each.beside.what} {each.beside.part.name}: {money(abs(each.dearer), rates)} "
            f"{'more' if each.dearer >= 0 else 'less'}, {each.sure * 100:.0f} of 100"
            for each in job.surer_than(one)
        ],
    )


def reasons(job: Job) -> list[tuple[str, str, float]]:
    """(what, how many, share) that combinations fell to, most first."""
    fell = [(name, count) for name, count in job.found.fell.most_common() if count]
    whole = sum(count for _, count in fell) + job.found.dominated
    titles = {str(component): title for component, title in TITLES.items()}
    rows = [(titles.get(name, name.capitalize()), count) for name, count in fell]
    rows.append(("Dearer or more complex for no more headroom", job.found.dominated))
    top = sorted((row for row in rows if row[1]), key=lambda row: -row[1])[:MOST_REASONS]
    return [(name, spaced(count), round(count / max(whole, 1) * 100, 1)) for name, count in top]


def unlocked(job: Job, rates: Rates) -> list[str]:
    """What opening a lock (two, where no one alone does) would give, where nothing was found; the cheapest first."""
    return [
        f"Without {' and '.join(_lock(name, job.locks) for name in names)}: from {money(one.bill.total, rates)}, "
        f"{one.headroom * 100:.0f}\u00a0% left."
        for names, one in job.opens
    ]


def _lock(name: str, locks: Locks) -> str:
    """A lock in the words of the form."""
    if name in locks.keep:
        return f"keeping the {name}"
    title, value = Locks.model_fields[name].title, getattr(locks, name)
    return f"“{title}: {value}”" if isinstance(value, str) else f"“{title}”"


def nearest(job: Job, rates: Rates) -> str:
    """The nearest where nothing carries, or where nothing that does is within the budget."""
    near = job.found.nearest
    if near is None and not job.found.done:
        return ""
    if near is None:
        return "No part of the shelf fits these locks at all: look at what is kept, and at the base pressure."
    told = f"On {near.first_out.target.name} the nearest {nearest_words(near.decides, near.wanted)}."
    if job.locks.budget is not None and near.bill.total > job.locks.budget:
        told += f" It costs {money(near.bill.total, rates)}, past the budget."
    return told
