"""What a high side and the port injectors beside it take from the node that feeds them, m³/s of the low side's fuel."""

from collections.abc import Callable
from dataclasses import dataclass

import numpy as np

from ..physics import Floats, floats, rising_root, take
from .high_side import HighAt
from .pump_curves import Index
from .settling import passed_kg_s, sunk_kpa

_KPA = 1e-7


@dataclass(frozen=True)
class Taking:
    """Points with a high side: `port_m3_s` is what port injectors take at the pulse meant for `meant_kpa` across them.

    Of `port_wanted_m3_s` that is less where they are held open: above what is meant they then pass more, up to what a
    regulator of their own lets stand across them.
    """

    high: HighAt
    port_m3_s: Floats
    port_wanted_m3_s: Floats
    port_most_kpa: Floats
    manifold_kpa: Floats
    meant_kpa: Floats

    def of(self, only: Index) -> "Taking":
        """Some of the points."""
        return take(self, only)

    def direct_m3_s(self, node_kpa: Floats) -> Floats:
        """What the direct side takes with the node at a pressure."""
        return floats(passed_kg_s(self.high, node_kpa) / self.high.low_density)

    def at(self, node_kpa: Floats) -> Floats:
        """What both take."""
        return floats(self.direct_m3_s(node_kpa) + self._port_m3_s(node_kpa))

    def _port_m3_s(self, node_kpa: Floats) -> Floats:
        """A port side below its pressure passes less; above it the controller corrects, but for one held open."""
        if not self.port_m3_s.any():
            return floats(np.zeros_like(node_kpa))
        with np.errstate(divide="ignore", invalid="ignore"):
            across = np.minimum(node_kpa - self.manifold_kpa, self.port_most_kpa)
            share = np.sqrt(np.maximum(across / self.meant_kpa, 0.0))
        return floats(np.where(self.meant_kpa > 0, np.minimum(self.port_m3_s * share, self.port_wanted_m3_s), 0.0))

    def node_kpa(self, brings: Callable[[Floats], Floats], highest_kpa: Floats) -> Floats:
        """The pressure at which what is taken meets what the low side `brings` at it; down to the vapour's."""
        density = self.high.low_density

        def left(node: Floats) -> Floats:
            return floats((brings(node) - self._port_m3_s(node)) * density)

        found = sunk_kpa(self.high, left, highest_kpa)
        return self.node_by_taken_kpa(lambda node, _taken: brings(node), highest_kpa) if found is None else found

    def node_by_taken_kpa(self, brings: Callable[[Floats, Floats], Floats], highest_kpa: Floats) -> Floats:
        """The same where what the low side brings at a pressure depends on what is taken, too."""

        def excess(node: Floats) -> Floats:
            taken = self.at(node)
            return floats(taken - brings(node, taken))

        lowest = floats(np.minimum(self.high.lowest_kpa, highest_kpa))
        return rising_root(excess, lowest, highest_kpa, _KPA)
