"""Reading many columns off one rising axis."""

import numpy as np

from .arrays import Floats, floats


class Lookup:
    """Where values lie on a rising axis: searched once, then read off any number of columns by linear interpolation.

    Beyond the ends the end values hold, as with `numpy.interp`.
    """

    def __init__(self, axis: Floats, at: Floats):
        self._below = np.clip(np.searchsorted(axis, at, side="right") - 1, 0, axis.size - 2)
        low = axis[self._below]
        width = axis[self._below + 1] - low
        with np.errstate(divide="ignore", invalid="ignore"):
            self._share = np.clip(np.where(width > 0, (at - low) / width, 0.0), 0.0, 1.0)

    def read(self, column: Floats) -> Floats:
        """The column's values there; read-only zeros without memory of their own where the column has nothing else."""
        if not column.any():
            return floats(np.broadcast_to(0.0, self._share.shape))
        low = column[self._below]
        return floats(low + self._share * (column[self._below + 1] - low))
