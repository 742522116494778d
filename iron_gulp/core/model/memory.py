"""What was made from a model, kept as long as the model itself: by identity, since comparing model trees is slow."""

from collections.abc import Callable
from typing import Any, TypeVar
from weakref import finalize

Model = TypeVar("Model")
Made = TypeVar("Made")

_KEPT: dict[int, dict[Any, Any]] = {}


def remembered(model: Model, kind: str, make: Callable[[Model], Made]) -> Made:
    """What `make` gives for this very object (frozen, so it cannot have changed), made once under `kind`."""
    key = id(model)
    kept = _KEPT.get(key)
    if kept is None:
        kept = _KEPT[key] = {}
        finalize(model, _KEPT.pop, key, None)
    if kind not in kept:
        kept[kind] = make(model)
    made: Made = kept[kind]
    return made


def remembered_of(model: Model, others: tuple[object, ...], kind: str, make: Callable[[], Made]) -> Made:
    """What `make` gives for this very object together with others equal to these; the latest kept.

    What is the very same object counts as equal without being looked into.
    """
    kept: dict[str, Any] = remembered(model, kind, lambda _: {})
    of, made = kept.get("of", (None, None))
    if of != others:
        made = make()
        kept["of"] = (others, made)
    found: Made = made
    return found
