"""Arrays of systems: nested dataclasses whose leaves are arrays with the systems on the last axis.

Whatever is not an array (names, flags, None) is the same for every system of the set and makes its shape.
"""

from collections.abc import Callable, Hashable, Sequence
from math import prod
from typing import Any, TypeVar, cast

import numpy as np

from .arrays import Floats

Rows = TypeVar("Rows")
_Fields = tuple[str, ...]
_FIELDS: dict[type, _Fields | None] = {}
_PLAIN = frozenset({float, int, bool, str, type(None)})


def _fields(kind: type) -> _Fields | None:
    """Names of a dataclass's fields; None for any other type."""
    if kind not in _FIELDS:
        _FIELDS[kind] = tuple(kind.__dataclass_fields__) if hasattr(kind, "__dataclass_fields__") else None
    return _FIELDS[kind]


def _made(kind: type, values: dict[str, Any]) -> Any:
    """A frozen dataclass of these values; its own constructor sets them one by one at several times the cost."""
    made: Any = object.__new__(kind)
    made.__dict__.update(values)
    return made


def mapped(rows: Rows, change: Callable[[Any], Any]) -> Rows:
    """The same structure with every array changed."""
    return cast(Rows, _mapped(rows, change))


def _mapped(rows: Any, change: Callable[[Any], Any]) -> Any:
    kind = type(rows)
    if kind is np.ndarray:
        return change(rows)
    if kind is tuple:
        return tuple([_mapped(one, change) for one in rows])
    names = _fields(kind)
    if names is None:
        return rows
    held, values = rows.__dict__, {}
    for name in names:
        value = held[name]
        of = type(value)
        # Most fields are arrays or plain: they are not gone into.
        values[name] = change(value) if of is np.ndarray else value if of in _PLAIN else _mapped(value, change)
    return _made(kind, values)


def _collect(rows: Any, found: list[Floats]) -> None:
    """Every array of a structure in the order of its fields, nothing made anew."""
    kind = type(rows)
    if kind is np.ndarray:
        found.append(rows)
    elif kind is tuple:
        for one in rows:
            _collect(one, found)
    elif names := _fields(kind):
        held = rows.__dict__
        for name in names:
            value = held[name]
            of = type(value)
            if of is np.ndarray:
                found.append(value)
            elif of not in _PLAIN:
                _collect(value, found)


def take(rows: Rows, index: Any) -> Rows:
    """The systems at an index (array of positions, mask or slice); arrays of one system stay as they are."""
    if isinstance(index, slice):
        return mapped(rows, lambda array: array if array.shape[-1] == 1 else array[..., index])
    at = np.asarray(index)
    at = np.flatnonzero(at) if at.dtype == bool else at
    return mapped(rows, lambda array: array if array.shape[-1] == 1 else array.take(at, -1))


class Stack:
    """Rows of numbers in one matrix, so that taking some systems is one step; every array must have all systems."""

    def __init__(self, rows: Any, size: int):
        self._rows = rows
        lines: list[Floats] = []
        _collect(rows, lines)
        self._shapes = [one.shape[:-1] for one in lines]
        depths = [prod(shape) for shape in self._shapes]
        self.matrix = np.empty((sum(depths), size))
        start = 0
        for one, depth in zip(lines, depths, strict=True):
            self.matrix[start : start + depth] = one.reshape(depth, one.shape[-1])
            start += depth

    @property
    def shapes(self) -> tuple[tuple[int, ...], ...]:
        """Of every array all axes but the last."""
        return tuple(self._shapes)

    def take(self, index: Any) -> Any:
        """The rows of some systems."""
        chosen = self.matrix[:, index]
        shapes, start = iter(self._shapes), 0

        def rebuild(_one: Any) -> Any:
            nonlocal start
            shape = next(shapes)
            depth = prod(shape)
            part = chosen[start : start + depth]
            start += depth
            return part.reshape(*shape, part.shape[-1]) if shape else part[0]

        return mapped(self._rows, rebuild)


def _merged(several: Sequence[Any], merge: Callable[[list[Any]], Any], alike: Callable[[Any], Any] | None = None) -> Any:
    """Structures of one shape made one, array by array; tables of unequal length are filled up with bends of nothing.

    What is the very same in all of them is made by `alike`, where given.
    """
    first = several[0]
    if alike is not None and several[-1] is first and all(one is first for one in several):
        return alike(first)
    if isinstance(first, np.ndarray):
        arrays = list(several)
        if first.ndim > 1 and not all(array is first for array in arrays):
            deepest = max(array.shape[0] for array in arrays)
            arrays = [one if one.shape[0] == deepest else _deepened(one, deepest) for one in arrays]
        return merge(arrays)
    if isinstance(first, tuple):
        return tuple([_merged(column, merge, alike) for column in zip(*several, strict=True)])
    names = _fields(type(first))
    if names is None:
        return first
    held = [one.__dict__ for one in several]
    parts = {}
    for name in names:
        value = held[0][name]
        parts[name] = value if type(value) in _PLAIN else _merged([one[name] for one in held], merge, alike)
    return _made(type(first), parts)


def _deepened(table: Floats, deepest: int) -> Floats:
    """A table with bends of nothing behind its own; NumPy's own padding takes many times as long."""
    made = np.zeros((deepest, *table.shape[1:]), table.dtype)
    made[: table.shape[0]] = table
    return made


def join(several: Sequence[Rows]) -> Rows:
    """Sets of one shape put behind each other on the axis of systems.

    What is the very same array of one system in all of them stays that: it broadcasts.
    """

    def merge(arrays: list[Any]) -> Any:
        return np.concatenate(arrays, axis=-1)

    def alike(rows: Any) -> Any:
        if size_of(rows) == 1:
            return rows
        return mapped(rows, lambda array: array if array.shape[-1] == 1 else merge([array] * len(several)))

    return cast(Rows, _merged(several, merge, alike))


def beside(several: Sequence[Rows]) -> Rows:
    """Sets of one shape and size put beside each other: arrays (…, systems) become (…, sets, 1, systems)."""

    def merge(arrays: list[Any]) -> Any:
        first = arrays[0]
        if len(arrays) == 1:
            return first[..., None, None, :]
        size = max([array.shape[-1] for array in arrays])
        whole = np.empty((*first.shape[:-1], len(arrays), 1, size), first.dtype)
        for at, array in enumerate(arrays):
            whole[..., at, 0, :] = array
        return whole

    return cast(Rows, _merged(several, merge))


def shape_of(rows: Any) -> Hashable:
    """What systems must have in common to be put into one set."""
    kind = type(rows)
    if kind is np.ndarray:
        return "array"
    if kind is tuple:
        return tuple([shape_of(one) for one in rows])
    names = _fields(kind)
    if names is None:
        return cast(Hashable, rows)
    held, shape = rows.__dict__, list[Any]([kind.__name__])
    for name in names:
        value = held[name]
        of = type(value)
        shape.append("array" if of is np.ndarray else value if of in _PLAIN else shape_of(value))
    return tuple(shape)


def key_of(rows: Any) -> Hashable:
    """Systems by their values: equal for equal numbers, cheap to compare."""
    kind = type(rows)
    if kind is np.ndarray:
        return cast(Hashable, rows.tobytes())
    if kind is tuple:
        return tuple([key_of(one) for one in rows])
    names = _fields(kind)
    if names is None:
        return cast(Hashable, rows)
    held = rows.__dict__
    return tuple([held[name].tobytes() if type(held[name]) is np.ndarray else key_of(held[name]) for name in names])


def keys_of(rows: Any, size: int) -> list[Hashable]:
    """Each of `size` systems by its own values, as `key_of` does it for a whole set."""
    stack = Stack(rows, size)
    shape = (shape_of(rows), stack.shapes)
    return [(shape, line.tobytes()) for line in np.ascontiguousarray(stack.matrix.T)]


def size_of(rows: Any) -> int:
    """How many systems a set holds."""
    lines: list[Floats] = []
    _collect(rows, lines)
    return max([one.shape[-1] for one in lines], default=1)


def bytes_of(rows: Any) -> int:
    """Memory of the numbers held."""
    lines: list[Floats] = []
    _collect(rows, lines)
    return sum([one.nbytes for one in lines])


def array(value: float) -> Floats:
    """One system's number as an array of one."""
    return np.array([float(value)])
