"""Roads as whole systems of the Design search: regulator, lines, filter, low pumps and circuits besides the hardware.

The quick road of each kind varies what it is named for. Under the same lock the search varies everything else too; its
system takes the road's place where the quick one cannot be signed, or costs more.
"""

from collections.abc import Callable
from dataclasses import replace
from itertools import product
from typing import Literal, get_args

from ..model import Build, Option, Rates
from .costs import bill
from .design import Design, Kept, Locks, Search, kinds_of, rewired
from .roads import Kind, Road, blend_road, on_blend, pumps_first, road_to, tried_blends

WHOLE: tuple[Kind, ...] = ("direct", "pump", "port", "plenum", "both", "blend")
LowSide = Literal["as on the car", "with a return", "returnless", "either"]
LOW_SIDES: tuple[LowSide, ...] = get_args(LowSide)
Searches = Callable[[Build, Option, Locks], Search]
Stop = Callable[[], bool]
DEAREST = 0.5  # of a currency: what is no dearer by more costs the same


def lock_of(road: Road, low_side: LowSide = "as on the car") -> Locks:
    """What a road's search leaves alone: the way of returning unless another is asked for, and the direct side where a
    port rail helps it, or its injectors where they come later."""
    option = road.option
    plain = not any(group.part.kind == "brushless" for group in option.pumps)
    own: LowSide = "returnless" if _returnless(option) else "with a return"
    returns = own if low_side == "as on the car" else low_side
    return Locks(
        keep=tuple(one for one in kinds_of(option) if one in _kept(road.kind)),
        returns=returns,
        brushless="none" if plain and returns == own else "where it helps",
        most_pumps=min(max(3, sum(group.count for group in option.pumps)), 6),
    )


def _kept(kind: Kind) -> tuple[Kept, ...]:
    if kind == "direct":
        return ("injectors",)
    if kind == "pump":
        return ("injectors", "direct injectors")
    both: tuple[Kept, ...] = ("high-pressure pumps", "direct injectors")
    return (*both, "injectors") if kind == "blend" else both


def _returnless(option: Option) -> bool:
    return option.regulator.arrangement.startswith("returnless")


def whole_road(
    build: Build,
    before: Option,
    road: Road,
    searches: Searches,
    rates: Rates,
    stop: Stop = lambda: False,
    workers: int = 1,
    low_side: LowSide = "as on the car",
    direct: Road | None = None,
) -> Road | None:
    """The road as the cheapest whole system under its lock; the quick one where that can be signed and costs no more, or
    where nothing is found. `before` is what is paid already, `direct` the whole road of larger direct hardware, of which
    pumps alone are the first step: None where it has no such step. A road that is not as its low side was asked for says
    so (`as_asked`).
    """
    if road.kind not in WHOLE:
        return road
    if road.kind == "pump" and direct is not None and not pumps_first(before, direct.option):
        return None
    if road.kind == "blend":
        return _whole_blend(build, before, road, searches, rates, stop, workers, low_side)
    best, search = None, None
    for locks in _ways(road, low_side):
        best, search = _searched(build, road, searches, stop, workers, locks, search)
        if stop():
            return road
        if best is not None:
            break
    if best is None or search is None:
        first = pumps_first(before, direct.option) if road.kind == "pump" and direct is not None else []
        made = road_to(build, before, "pump", first[0], rates) if first else road
        return replace(made, as_asked=_as_asked(made.option, low_side))
    signed = _as_asked(road.option, low_side) and search.signs(road.option, road.verdicts)
    if signed and road.bill.total <= best.bill.total + DEAREST:
        return road
    return road_to(build, before, road.kind, rewired(search, best).option, rates)


def _whole_blend(
    build: Build,
    before: Option,
    road: Road,
    searches: Searches,
    rates: Rates,
    stop: Stop,
    workers: int,
    low_side: LowSide,
) -> Road:
    """The strongest of the weaker blends on which today's injectors and high-pressure pumps are in a system that leaves
    the headroom wanted; the road as it is where there is none."""
    top = max(target.ethanol_pct for target in build.targets)
    weaker = [one for one in reversed(tried_blends(top)) if one < top]
    for locks, blend in product(_ways(road, low_side), weaker):
        best, search = _searched(on_blend(build, blend), road, searches, stop, workers, locks)
        if stop():
            return road
        if best is None:
            continue
        as_it_is = blend_road(build, before, road.option, rates, blend)
        signed = _as_asked(road.option, low_side) and search.signs(road.option, as_it_is.verdicts)
        # What another blend costs to calibrate is the same for both.
        if signed and bill(build, before, road.option, rates).total <= best.bill.total + DEAREST:
            return as_it_is
        return blend_road(build, before, rewired(search, best).option, rates, blend)
    return replace(road, as_asked=_as_asked(road.option, low_side))


def _as_asked(option: Option, low_side: LowSide) -> bool:
    """Whether fuel returns, or does not, as was asked."""
    return low_side in ("as on the car", "either") or (low_side == "returnless") == _returnless(option)


def _ways(road: Road, low_side: LowSide) -> list[Locks]:
    """Locks to search under, in turn: another way of returning than the car's only where that carries nothing."""
    locks = lock_of(road, low_side)
    if low_side != "as on the car":
        return [locks]
    return [locks, locks.model_copy(update={"returns": "either", "brushless": "where it helps"})]


def _searched(
    build: Build,
    road: Road,
    searches: Searches,
    stop: Stop,
    workers: int,
    locks: Locks,
    narrower: Search | None = None,
) -> tuple[Design | None, Search]:
    """The cheapest system under a lock, and the search that found it; one that was `narrower` is not done again."""
    search = searches(build, road.option, locks) if narrower is None else narrower.wider(locks)
    for _ in search.run(stop, first_only=True, workers=workers):
        pass
    return search.found.best, search
