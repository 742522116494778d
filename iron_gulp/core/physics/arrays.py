"""Shared array types and the constants of unit-free physics."""

from functools import lru_cache
from typing import TypeAlias

import numpy as np
from numpy.typing import ArrayLike, NDArray

Floats: TypeAlias = NDArray[np.float64]
Number: TypeAlias = ArrayLike

KPA = 1000.0
M3_S_PER_L_H = 1e-3 / 3600.0
ATM_KPA = 101.325
R_AIR = 287.05  # J/(kg K), dry air
G_M_S2 = 9.80665
_FLOAT = np.dtype(np.float64)


@lru_cache(maxsize=256)
def level(value: float, size: int) -> Floats:
    """The same value at every point, read-only and without memory of its own."""
    return np.broadcast_to(np.float64(value), size)


def floats(value: Number) -> Floats:
    """Return `value` as a float64 array (zero-dimensional for a scalar)."""
    if type(value) is np.ndarray and value.dtype is _FLOAT:  # what most are already, at a third of the cost
        return value
    return np.asarray(value, dtype=np.float64)
