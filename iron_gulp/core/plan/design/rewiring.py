"""Fuse and wire of a chosen system by the currents it was found to draw, as the bench of wiring proposes them.

A search sizes circuits by the most a pump draws up to the pressure its system may bring it to; what it really does is
known only once the whole is solved.
"""

from ...advise import find_troubles
from ...judge import TargetVerdict, circuits, judge_many
from ...model import Option, PumpGroup
from .found import Design
from .holding import broken, headroom_of
from .search import Search
from .start import NOT_BOUGHT

_TURNS = 3  # a thinner wire leaves fewer volts, and those draw another current


def rewired(search: Search, design: Design) -> Design:
    """The design with the fuse and wire proposed for each pump that is new; of main pumps the fuse alone where a
    thinner wire would lose too much; as it was where anything got worse."""
    return _tried(search, design, fuse_alone=False) or _tried(search, design, fuse_alone=True) or design


def _tried(search: Search, design: Design, fuse_alone: bool) -> Design | None:
    """The design so changed, where it settles and nothing of it is worse; None where it does not."""
    option, verdicts = design.option, design.verdicts
    for _ in range(_TURNS):
        changed = _proposed(search, option, verdicts, fuse_alone)
        if changed == option:
            break
        option = changed
        verdicts = tuple(judge_many([(search.build, option, one) for one in search.build.targets], ceilings=False))
    if option == design.option:
        return design
    if _proposed(search, option, verdicts, fuse_alone) != option:
        return None
    if headroom_of(verdicts, search.ease) < search.wanted - 1e-9 or broken(verdicts, search.ease, frozenset()):
        return None
    had = {one.code for one in find_troubles(search.build, design.option, list(design.verdicts), search.catalogue)}
    now = {one.code for one in find_troubles(search.build, option, list(verdicts), search.catalogue)}
    return search.design(option) if now <= had else None


def _proposed(search: Search, option: Option, verdicts: tuple[TargetVerdict, ...], fuse_alone: bool) -> Option:
    groups: dict[str, PumpGroup] = {f"pumps/{group.id}/wiring": group for group in option.pumps}
    lift, had = option.lift, search.before.lift
    fresh_lift = lift is not None and (had is None or had.part.name == NOT_BOUGHT)
    for one in circuits(option, verdicts, search.build.rules):
        sized = {"fuse_a": one.fuse_proposed_a, "area_mm2": one.area_proposed_mm2}
        if fuse_alone and one.path != "lift/wiring":
            del sized["area_mm2"]
        if one.path in groups and "pumps" not in search.locks.keep:
            wiring = groups[one.path].wiring.model_copy(update=sized)
            groups[one.path] = groups[one.path].model_copy(update={"wiring": wiring})
        elif one.path == "lift/wiring" and lift is not None and fresh_lift:
            lift = lift.model_copy(update={"wiring": lift.wiring.model_copy(update=sized)})
    return option.model_copy(update={"pumps": tuple(groups.values()), "lift": lift})
