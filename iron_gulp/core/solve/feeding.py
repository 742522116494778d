"""What a high side and the port injectors beside it take from the node that feeds them, m³/s of the low side's fuel."""

from collections.abc import Callable
from dataclasses import dataclass

import numpy as np

from ..physics import Floats, floats, rising_root, take
from .curves import Index
from .high_side import HighAt, settled

_KPA = 1e-9


@dataclass(frozen=True)
class Taking:
    """Points with a high side: `port_m3_s` is what port injectors take at the pulse meant for `meant_kpa` across them."""

    high: HighAt
    port_m3_s: Floats
    manifold_kpa: Floats
    meant_kpa: Floats

    def of(self, only: Index) -> "Taking":
        """Some of the points."""
        return take(self, only)

    def direct_m3_s(self, node_kpa: Floats) -> Floats:
        """What the direct side takes with the node at a pressure."""
        return floats(settled(self.high, node_kpa).total_kg_s / self.high.low_density)

    def at(self, node_kpa: Floats) -> Floats:
        """What both take; a port side below its pressure passes less, above it the controller corrects."""
        with np.errstate(divide="ignore", invalid="ignore"):
            share = np.sqrt(np.clip((node_kpa - self.manifold_kpa) / self.meant_kpa, 0.0, 1.0))
        share = np.where(self.meant_kpa > 0, share, 0.0)
        return floats(self.direct_m3_s(node_kpa) + self.port_m3_s * share)

    def node_kpa(self, brings: Callable[[Floats, Floats], Floats], highest_kpa: Floats) -> Floats:
        """The pressure at which what is taken meets what `brings` at (pressure, taken); down to the vapour's."""

        def excess(node: Floats) -> Floats:
            taken = self.at(node)
            return floats(taken - brings(node, taken))

        lowest = floats(np.minimum(self.high.lowest_kpa, highest_kpa))
        return rising_root(excess, lowest, highest_kpa, _KPA)
