"""Tables of whole curves, remembered by the numbers they were made from.

A page asks the same systems again and again; comparing numbers is cheap where comparing model trees is not. A supply
curve does not depend on what regulates, returns or injects behind it, so curves are remembered one by one as well: most
edits and trials find theirs made.
"""

import numpy as np

from ..model import remembered
from ..physics import Floats, floats, key_of, keys_of, take
from .curves import Drive, ReturnSide, SupplySide
from .keeping import Remembered
from .places import Table
from .pump_curves import NODES
from .systems import Systems

_TABLES: Remembered[Table] = Remembered(6_000_000)
_CURVES: Remembered[Floats] = Remembered(5_000_000)


def supply_table(systems: Systems, drive: Drive, with_feed: bool) -> Table:
    """The supply side's table, remembered by the numbers of systems and drive."""
    key = ("supply", remembered(systems, "key", key_of), key_of(drive), with_feed)
    return _TABLES.get_or_make(key, lambda: Table(_curves(SupplySide.of(systems, drive, with_feed))))


def _curves(side: SupplySide) -> Floats:
    """Every curve, shape (columns, nodes, systems); what stands alike shares one, and those seen lately are kept."""
    if not side.size:
        return side.table()
    keys = keys_of(side, side.size)
    found = {key: curve for key in keys if (curve := _CURVES.get(key)) is not None}
    fresh = [key for key in dict.fromkeys(keys) if key not in found]
    if fresh:
        made = take(side, np.array([keys.index(key) for key in fresh])).table()
        found |= {key: _CURVES.put(key, floats(made[:, :, at].copy())) for at, key in enumerate(fresh)}
    return np.stack([found[key] for key in keys], axis=-1)


def return_table(side: ReturnSide) -> Table:
    """The return side's table, remembered by its numbers."""

    def make() -> Table:
        return Table(side.nodes(np.repeat(np.arange(NODES)[:, None], side.most_m3_s.shape[-1], axis=1)))

    return _TABLES.get_or_make(("return", key_of(side)), make)
