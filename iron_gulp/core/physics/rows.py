"""Arrays of systems: nested dataclasses whose leaves are arrays with the systems on the last axis.

Whatever is not an array (names, flags, None) is the same for every system of the set and makes its shape.
"""

from collections.abc import Callable, Hashable, Sequence
from typing import Any, TypeVar, cast

import numpy as np

from .arrays import Floats

Rows = TypeVar("Rows")
_Fields = tuple[str, ...]
_FIELDS: dict[type, _Fields] = {}


def _fields(kind: type) -> _Fields | None:
    if kind not in _FIELDS and not hasattr(kind, "__dataclass_fields__"):
        return None
    return _FIELDS.setdefault(kind, tuple(kind.__dataclass_fields__))  # type: ignore[attr-defined]


def mapped(rows: Rows, change: Callable[[Any], Any]) -> Rows:
    """The same structure with every array changed."""
    if isinstance(rows, np.ndarray):
        return cast(Rows, change(rows))
    if isinstance(rows, tuple):
        return cast(Rows, tuple(mapped(one, change) for one in rows))
    names = _fields(type(rows))
    if names is None:
        return rows
    return type(rows)(*(mapped(getattr(rows, name), change) for name in names))


def take(rows: Rows, index: Any) -> Rows:
    """The systems at an index (array of positions, mask or slice); arrays of one system stay as they are."""
    return mapped(rows, lambda array: array if array.shape[-1] == 1 else array[..., index])


def join(several: Sequence[Rows]) -> Rows:
    """Sets of one shape put behind each other. Tables of unequal length are filled up with bends of nothing."""
    if len(several) == 1:
        return several[0]
    first = several[0]
    if isinstance(first, np.ndarray):
        arrays = cast(Sequence[Floats], several)
        if first.ndim > 1:
            deepest = max(array.shape[0] for array in arrays)
            arrays = [np.pad(array, ((0, deepest - array.shape[0]), (0, 0))) for array in arrays]
        return cast(Rows, np.concatenate(arrays, axis=-1))
    if isinstance(first, tuple):
        return cast(Rows, tuple(join(column) for column in zip(*cast(Sequence[tuple[Any, ...]], several), strict=True)))
    names = _fields(type(first))
    if names is None:
        return first
    return type(first)(*(join([getattr(one, name) for one in several]) for name in names))


def shape_of(rows: Any) -> Hashable:
    """What systems must have in common to be put into one set."""
    if isinstance(rows, np.ndarray):
        return "array"
    if isinstance(rows, tuple):
        return tuple(shape_of(one) for one in rows)
    names = _fields(type(rows))
    if names is None:
        return cast(Hashable, rows)
    return (type(rows).__name__, *(shape_of(getattr(rows, name)) for name in names))


def key_of(rows: Any) -> Hashable:
    """Systems by their values: equal for equal numbers, cheap to compare."""
    if isinstance(rows, np.ndarray):
        return rows.tobytes()
    if isinstance(rows, tuple):
        return tuple(key_of(one) for one in rows)
    names = _fields(type(rows))
    if names is None:
        return cast(Hashable, rows)
    return tuple(key_of(getattr(rows, name)) for name in names)


def size_of(rows: Any) -> int:
    """How many systems a set holds."""
    found = 1

    def look(array: Any) -> Any:
        nonlocal found
        found = max(found, array.shape[-1])
        return array

    mapped(rows, look)
    return found


def array(value: float) -> Floats:
    """One system's number as an array of one."""
    return np.array([value], dtype=np.float64)
