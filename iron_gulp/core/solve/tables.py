"""Tables of whole curves, remembered by the numbers they were made from."""

from collections import OrderedDict
from collections.abc import Callable, Hashable

import numpy as np

from ..model import remembered
from ..physics import key_of
from .curves import NODES, Drive, ReturnSide, SupplySide
from .places import Table
from .systems import Systems


class _Remembered(OrderedDict[Hashable, Table]):
    """The latest tables, so that a page that asks the same systems again does not walk their curves again."""

    most = 64

    def get_or_make(self, key: Hashable, make: Callable[[], Table]) -> Table:
        if key in self:
            self.move_to_end(key)
            return self[key]
        table = make()
        self[key] = table
        while len(self) > self.most:
            self.popitem(last=False)
        return table


_TABLES = _Remembered()


def supply_table(systems: Systems, drive: Drive, with_feed: bool) -> Table:
    """The supply side's table, read-only, remembered by the numbers of systems and drive."""
    key = ("supply", remembered(systems, "key", key_of), key_of(drive), with_feed)
    return _TABLES.get_or_make(key, lambda: Table(SupplySide.of(systems, drive, with_feed).table()))


def return_table(side: ReturnSide) -> Table:
    """The return side's table, read-only, remembered by its numbers."""

    def make() -> Table:
        return Table(side.nodes(np.repeat(np.arange(NODES)[:, None], side.most_m3_s.shape[-1], axis=1)))

    return _TABLES.get_or_make(("return", key_of(side)), make)
