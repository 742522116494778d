"""Tables of whole curves, remembered by the numbers they were made from.

A page asks the same systems again and again; comparing numbers is cheap where comparing model trees is not.
"""

import numpy as np

from ..model import remembered
from ..physics import key_of
from .curves import NODES, Drive, Remembered, ReturnSide, SupplySide
from .places import Table
from .systems import Systems

_TABLES: Remembered[Table] = Remembered(6_000_000)


def supply_table(systems: Systems, drive: Drive, with_feed: bool) -> Table:
    """The supply side's table, remembered by the numbers of systems and drive."""
    key = ("supply", remembered(systems, "key", key_of), key_of(drive), with_feed)
    return _TABLES.get_or_make(key, lambda: Table(SupplySide.of(systems, drive, with_feed).table()))


def return_table(side: ReturnSide) -> Table:
    """The return side's table, remembered by its numbers."""

    def make() -> Table:
        return Table(side.nodes(np.repeat(np.arange(NODES)[:, None], side.most_m3_s.shape[-1], axis=1)))

    return _TABLES.get_or_make(("return", key_of(side)), make)
