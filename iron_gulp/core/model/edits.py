"""Edits: values set at slash-separated paths of a build, giving a new validated build.

List entries with an id are addressed by it (`targets/t1/boost_kpa`), others by position (`curves/0/flow_l_h/2`).
"""

from collections.abc import Iterable
from dataclasses import dataclass
from functools import lru_cache
from typing import Any, TypeAlias

from pydantic import BaseModel, ValidationError

from .build import Build
from .wording import worded

Edit = tuple[str, Any]


@dataclass(frozen=True)
class Problem:
    """One thing wrong with a build, at its path."""

    path: str
    message: str


class EditError(ValueError):
    """An edit that cannot be made; carries the problems."""

    def __init__(self, problems: list[Problem]):
        super().__init__("; ".join(f"{problem.path}: {problem.message}" for problem in problems))
        self.problems = problems


def dump(build: Build) -> dict[str, Any]:
    """The build as plain data, the way the build file holds it."""
    return build.model_dump(mode="json", by_alias=True)


def problems_of(error: ValidationError) -> list[Problem]:
    """Every problem of a validation error, each at its path, in plain words."""
    found = []
    items = error.errors(include_url=False, include_input=False)
    faulty = {item["loc"][:depth] for item in items for depth in range(len(item["loc"]))}
    for item in items:
        # A list counts as too short only because its faulty entries were left out: those are listed already.
        if item["type"] == "too_short" and item["loc"] in faulty:
            continue
        found.append(Problem("/".join(str(step) for step in item["loc"]), worded(item)))
    return found


def apply(build: Build, edits: Iterable[Edit]) -> Build:
    """A new build with the edits made. Raises EditError with every problem; the old build is untouched.

    Elements that no edit touches are the same objects in both builds, so that what was made from them is known already.
    """
    wanted = list(edits)
    shared = _shared(build, wanted)
    if shared is not None:
        return shared
    data = dump(build)
    for path, value in wanted:
        holder, key = _locate(data, path)
        holder[key] = value
    try:
        return Build.model_validate(data)
    except ValidationError as error:
        raise EditError(problems_of(error)) from error


@dataclass(frozen=True)
class _Leaf:
    """A value an edit sets."""

    value: Any


_Tree: TypeAlias = "dict[str, _Branch]"
_Branch: TypeAlias = "_Tree | _Leaf"


class _Entangled(Exception):
    """Edits that must be made one after the other."""


def _shared(build: Build, edits: list[Edit]) -> Build | None:
    """The new build with only the touched elements made anew; None where something is wrong or edits are entangled."""
    tree: _Tree = {}
    try:
        for path, value in edits:
            _grow(tree, path.split("/"), value)
        changed: Build = _rebuilt(build, tree)
    except (ValidationError, _Entangled):
        return None
    return changed


def _grow(tree: _Tree, steps: list[str], value: Any) -> None:
    branch = tree
    for step in steps[:-1]:
        below = branch.setdefault(step, {})
        if isinstance(below, _Leaf):
            raise _Entangled
        branch = below
    # What is renamed is found by its new name afterwards.
    if steps[-1] == "id" or isinstance(branch.get(steps[-1]), dict):
        raise _Entangled
    branch[steps[-1]] = _Leaf(value)


def _rebuilt(holder: Any, tree: _Branch) -> Any:
    if isinstance(tree, _Leaf):
        return tree.value
    if isinstance(holder, BaseModel):
        data = {step: getattr(holder, name) for step, name in _names(type(holder)).items()}
        for step, branch in tree.items():
            if step not in data:
                raise _Entangled
            data[step] = _rebuilt(data[step], branch)
        return type(holder).model_validate(data)
    if isinstance(holder, tuple):
        items: dict[int, Any] = dict(enumerate(holder))
        for step, branch in tree.items():
            place = _position(holder, step)
            if place is None or items[place] is not holder[place]:
                raise _Entangled
            items[place] = _rebuilt(holder[place], branch)
        return tuple(items.values())
    raise _Entangled


def _position(items: tuple[Any, ...], step: str) -> int | None:
    """Where an entry stands that is addressed by its id or its position; None if there is none."""
    for position, item in enumerate(items):
        if getattr(item, "id", None) == step:
            return position
    if step.isdecimal() and int(step) < len(items):
        return int(step)
    return None


def value_at(build: Build, path: str, known: dict[str, Any] | None = None) -> Any:
    """The plain value at a path. Raises EditError when there is no such place."""
    return _plain(held_at(build, path, known))


def held_at(build: Build, path: str, known: dict[str, Any] | None = None) -> Any:
    """What a build holds at a path, as it is: a model, a tuple, a value. Raises EditError when there is no such place.

    Whoever asks for many places hands the same `known` each time: elements walked to once are kept there by their path.
    """
    place: Any = build
    above, _, last = path.rpartition("/")
    if known is not None and above:
        if above not in known:
            known[above] = held_at(build, above)
        place, steps = known[above], [last]
    else:
        steps = path.split("/")
    for step in steps:
        found = _inside(place, step)
        if found is _NOWHERE:
            raise EditError([Problem(path, "there is no such field in this build")])
        place = found
    return place


_NOWHERE = object()


@lru_cache(maxsize=256)
def _names(kind: type[BaseModel]) -> dict[str, str]:
    """Attributes of a model by the step of a path that leads to them."""
    return {one.alias or name: name for name, one in kind.model_fields.items()}


def _inside(holder: Any, step: str) -> Any:
    if isinstance(holder, BaseModel):
        name = _names(type(holder)).get(step)
        return _NOWHERE if name is None else getattr(holder, name)
    if isinstance(holder, tuple):
        place = _position(holder, step)
        return _NOWHERE if place is None else holder[place]
    return _NOWHERE


def _plain(value: Any) -> Any:
    if isinstance(value, BaseModel):
        return value.model_dump(mode="json", by_alias=True)
    return [_plain(one) for one in value] if isinstance(value, tuple) else value


def _locate(data: Any, path: str) -> tuple[Any, Any]:
    holder, steps = data, path.split("/")
    for position, step in enumerate(steps):
        key = _key(holder, step)
        if key is None:
            raise EditError([Problem(path, "there is no such field in this build")])
        if position == len(steps) - 1:
            return holder, key
        holder = holder[key]
    raise EditError([Problem(path, "there is no such field in this build")])


def _key(holder: Any, step: str) -> Any:
    if isinstance(holder, dict):
        return step if step in holder else None
    if isinstance(holder, list):
        for index, item in enumerate(holder):
            if isinstance(item, dict) and item.get("id") == step:
                return index
        if step.isdecimal() and int(step) < len(holder):
            return int(step)
    return None
