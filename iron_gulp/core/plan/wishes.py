"""What a specialist would rather not give up when a system is sized, and in which order he does where he must.

One set of injectors; a port rail at 300 or 400 kPa, as injectors are rated; the direct side as it is where port injectors
help it; pumps without a controller of their own, unless a whole system with one costs a tenth less.
"""

from collections.abc import Callable, Iterator
from dataclasses import dataclass
from itertools import product

from ..model import Option
from .design import Design, Kept, Locks, Search, rewired

ONE_SET = "one set of injectors"
USUAL = "300 or 400 kPa at the rail"
TURBINES = "pumps without a controller of their own"
DIRECT_STAYS = "the direct side as it is"
DIRECT: tuple[Kept, ...] = ("high-pressure pumps", "direct injectors")
SPARES = 0.10  # a share of the money: for that a pump with a controller is chosen where one without would do


@dataclass(frozen=True)
class Wish:
    """Locks to size with, and what is held to besides the locks that were asked for."""

    locks: Locks
    held: frozenset[str]


@dataclass(frozen=True)
class Chosen:
    """What sizing came to: the design (None: nothing carries) or the nearest, and the wishes that nothing kept.

    `dearer` is what a system without a pump with a controller of its own would have cost, where money decided; `kept` are
    the kinds of parts that had to stay.
    """

    design: Design | None
    nearest: Design | None
    given_up: tuple[str, ...]
    dearer: float | None = None
    kept: tuple[str, ...] = ()


def wishes(option: Option, locks: Locks, must: frozenset[str] = frozenset()) -> Iterator[Wish]:
    """Locks in the order they are tried: what they already say is kept whatever comes, and not wished twice.

    What `must` be is not given up.
    """
    port = option.injectors is not None and option.high_side is None
    bases = [locks.base_pressure]
    if port and locks.base_pressure == "may change":
        bases = ["usual alone", "may change"]
    sets = [locks.second_set]
    if port and locks.second_set == "none" and "injectors" not in locks.keep and ONE_SET not in must:
        sets = ["none", "where it helps"]
    kinds = [locks.brushless]
    # Where nothing may return a pump with its own controller is what it takes.
    free = "pumps" not in locks.keep and option.carburettor is None and locks.returns != "returnless"
    if locks.brushless == "where it helps" and free:
        kinds = ["none", "where it helps"]
    # A direct side is fed either way; a return is looked at first, as the dearer controller seldom pays there.
    ways = ["with a return", "either"] if option.high_side is not None and locks.returns == "either" else [locks.returns]
    # What port injectors are there for is that the direct side need not grow.
    beside = option.injectors is not None and option.high_side is not None
    keeps = [tuple(dict.fromkeys((*locks.keep, *DIRECT))), locks.keep] if beside else [locks.keep]
    keeps = [one for at, one in enumerate(keeps) if one not in keeps[:at]]
    for keep, way, second, base, kind in product(keeps, ways, sets, bases, kinds):
        changed = {"keep": keep, "returns": way, "second_set": second, "base_pressure": base, "brushless": kind}
        wished = ((ONE_SET, sets, second), (USUAL, bases, base), (TURBINES, kinds, kind), (DIRECT_STAYS, keeps, keep))
        held = frozenset(name for name, several, one in wished if len(several) > 1 and one == several[0])
        yield Wish(locks.model_copy(update=changed), held)


def choose(
    search: Callable[[Locks], Search],
    run: Callable[[Search], bool],
    option: Option,
    locks: Locks,
    must: frozenset[str] = frozenset(),
) -> Chosen | None:
    """The cheapest design of the first wishes that any keeps; None where it was stopped.

    `run` runs a search to its first design and says whether it came to its end.
    """
    last: Search | None = None
    tried: list[Wish] = []
    for wish in wishes(option, locks, must):
        last = search(wish.locks) if last is None else last.wider(wish.locks)
        if not run(last):
            return None
        if last.found.best is None:
            tried.append(wish)
            continue
        given_up = tuple(
            one
            for one in (ONE_SET, USUAL, TURBINES, DIRECT_STAYS)
            if tried and one not in wish.held and _held(tried, one)
        )
        found = rewired(last, last.found.best)
        if TURBINES not in wish.held or option.high_side is not None:  # beside a high side's cost it decides nothing
            return Chosen(found, None, given_up, kept=locks.keep)
        spare = last.wider(wish.locks.model_copy(update={"brushless": locks.brushless, "budget": _less(found, locks)}))
        if not run(spare):
            return None
        if spare.found.best is None:
            return Chosen(found, None, given_up, kept=locks.keep)
        return Chosen(rewired(spare, spare.found.best), None, given_up, found.bill.total, locks.keep)
    return Chosen(None, None if last is None else last.nearest(), (), kept=locks.keep)


def _held(tried: list[Wish], name: str) -> bool:
    return any(name in one.held for one in tried)


def _less(found: Design, locks: Locks) -> float:
    """The budget within which another spares enough."""
    spared = found.bill.total * (1.0 - SPARES)
    return spared if locks.budget is None else min(spared, locks.budget)
