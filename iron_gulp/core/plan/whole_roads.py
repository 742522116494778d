"""Roads as whole systems of the Design search: regulator, lines, filter, low pumps and circuits besides the hardware.

The quick road of each kind varies what it is named for. Under the same lock the search varies everything else too; its
system takes the road's place where the quick one cannot be signed, or costs more.
"""

from collections.abc import Callable

from ..model import Option, Rates
from .design import Kept, Locks, Search, kinds_of, rewired
from .roads import Kind, Road, road_to

WHOLE: tuple[Kind, ...] = ("direct", "port", "plenum", "both")
Searches = Callable[[Option, Locks], Search]
Stop = Callable[[], bool]
DEAREST = 0.5  # of a currency: what is no dearer by more costs the same


def lock_of(road: Road) -> Locks:
    """What a road's search leaves alone: the way of returning, and the direct side where a port rail helps it."""
    option = road.option
    direct: tuple[Kept, ...] = ("high-pressure pumps", "direct injectors")
    kept: tuple[Kept, ...] = ("injectors",) if road.kind == "direct" else direct
    plain = not any(group.part.kind == "brushless" for group in option.pumps)
    returnless = option.regulator.arrangement.startswith("returnless")
    return Locks(
        keep=tuple(one for one in kinds_of(option) if one in kept),
        returns="returnless" if returnless else "with a return",
        brushless="none" if plain else "where it helps",
        most_pumps=min(max(3, sum(group.count for group in option.pumps)), 6),
    )


def whole_road(
    before: Option,
    road: Road,
    searches: Searches,
    rates: Rates,
    stop: Stop = lambda: False,
    workers: int = 1,
) -> Road:
    """The road as the cheapest whole system under its lock; the quick one where that can be signed and costs no more, or
    where nothing is found. `before` is what is paid already."""
    if road.kind not in WHOLE:
        return road
    locks = lock_of(road)
    search = searches(road.option, locks)
    for way in (locks, locks.model_copy(update={"returns": "either", "brushless": "where it helps"})):
        # Another way of returning only where the car's own carries nothing.
        search = search if way is locks else search.wider(way)
        for _ in search.run(stop, first_only=True, workers=workers):
            pass
        if search.found.best is not None or stop():
            break
    best = search.found.best
    if best is None or stop():
        return road
    if search.signs(road.option, road.verdicts) and road.bill.total <= best.bill.total + DEAREST:
        return road
    return road_to(search.build, before, road.kind, rewired(search, best).option, rates)
