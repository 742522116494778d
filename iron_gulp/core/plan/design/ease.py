"""How loads count in a search: as they are, or no worse than they were."""

from collections.abc import Mapping
from dataclasses import dataclass, field

from ...model import Build
from .locks import Locks


@dataclass(frozen=True)
class Ease:
    """What loads are multiplied by before they are held against what is wanted.

    `excused` is, by component and target id, that of loads that were high already, such that the same again is just
    enough.
    """

    excused: Mapping[tuple[str, str], float] = field(default_factory=dict)

    def of(self, component: str, target_id: str) -> float:
        """That of a component on a target."""
        return self.excused.get((component, target_id), 1.0)


PLAIN = Ease()


@dataclass(frozen=True)
class Leave:
    """What a search lets be: loads by their ease, and codes of findings that may stay; stops among them where said."""

    ease: Ease
    codes: frozenset[str]
    stops: bool


IDLES = {"injector idle": "injector-idle", "direct injector idle": "direct-idle"}


def idling(build: Build, locks: Locks, codes: frozenset[str]) -> Leave:
    """What a search lets be: some codes, and where it idles on the strongest blend alone its idle on the others."""
    if locks.idle == "on every target":
        return Leave(PLAIN, codes, stops=False)
    strongest = max(one.ethanol_pct for one in build.targets)
    weaker = [one.id for one in build.targets if one.ethanol_pct < strongest and one.base_fuel != "methanol"]
    excused = {(name, one): 0.0 for name in IDLES for one in weaker}
    return Leave(Ease(excused), codes | frozenset(IDLES.values()) if weaker else codes, stops=False)


def wanted_of(build: Build, locks: Locks) -> float:
    """The headroom wanted, a share: that of the locks, else the shop's."""
    return (build.rules.headroom_pct if locks.headroom_pct is None else locks.headroom_pct) / 100.0
