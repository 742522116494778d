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

_TURNS = 3  # a thinner wire leaves fewer volts, and those draw another current


def rewired(search: Search, design: Design) -> Design:
    """The design with the fuse and wire proposed for each pump; as it was where pumps are kept or anything got worse."""
    if "pumps" in search.locks.keep:
        return design
    option, verdicts = design.option, design.verdicts
    for _ in range(_TURNS):
        changed = _proposed(search, option, verdicts)
        if changed == option:
            break
        option = changed
        verdicts = tuple(judge_many([(search.build, option, one) for one in search.build.targets], ceilings=False))
    if option == design.option or _proposed(search, option, verdicts) != option:
        return design
    if headroom_of(verdicts, search.ease) < search.wanted - 1e-9 or broken(verdicts, search.ease, frozenset()):
        return design
    had = {one.code for one in find_troubles(search.build, design.option, list(design.verdicts), search.catalogue)}
    now = {one.code for one in find_troubles(search.build, option, list(verdicts), search.catalogue)}
    return search.design(option) if now <= had else design


def _proposed(search: Search, option: Option, verdicts: tuple[TargetVerdict, ...]) -> Option:
    groups: dict[str, PumpGroup] = {f"pumps/{group.id}/wiring": group for group in option.pumps}
    for one in circuits(option, verdicts, search.build.rules):
        if one.path in groups:
            sized = {"fuse_a": one.fuse_proposed_a, "area_mm2": one.area_proposed_mm2}
            wiring = groups[one.path].wiring.model_copy(update=sized)
            groups[one.path] = groups[one.path].model_copy(update={"wiring": wiring})
    return option.model_copy(update={"pumps": tuple(groups.values())})
