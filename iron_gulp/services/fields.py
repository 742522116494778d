"""What a field of the build is: its kind, title, range and choices, read from the model itself."""

import types
from dataclasses import dataclass
from functools import lru_cache
from typing import Annotated, Any, Literal, Union, get_args, get_origin

import annotated_types
from pydantic import BaseModel
from pydantic.fields import FieldInfo

from iron_gulp.core.model import Build
from iron_gulp.units import BenchUnits, Unreadable, quantity_of, read_quantity, show

from .asking_back import hardly, meant

Kind = Literal["number", "whole", "text", "choice", "switch", "other"]


NOTHING_SAID = "–"


@dataclass(frozen=True)
class Field:
    """A field: `name` ends in its unit; `low` and `high` are in that unit and None when open."""

    name: str
    title: str
    kind: Kind
    optional: bool
    low: float | None
    high: float | None
    strict_low: bool
    choices: tuple[str, ...]
    longest: int | None
    when_empty: str
    blank: bool = False  # a text that may be empty

    @property
    def stands_for_something(self) -> bool:
        """Whether a text left empty says something."""
        return self.blank and self.when_empty != NOTHING_SAID


class BadValue(ValueError):
    """What was typed does not fit the field; the message is for beside the field."""


def field_at(path: str) -> Field:
    """The field at an edit path. Raises BadValue when the model has no such place."""
    return _field(path)


@lru_cache(maxsize=2048)
def model_at(path: str) -> type[BaseModel]:
    """The model at an edit path ("" for the build). Raises BadValue where there is none."""
    annotation: Any = Build
    for step in path.split("/") if path else ():
        annotation, _ = _without_none(annotation)
        if get_origin(annotation) is tuple:
            annotation = get_args(annotation)[0]
            continue
        is_model = isinstance(annotation, type) and issubclass(annotation, BaseModel)
        found = annotation.model_fields.get(step) if is_model else None
        if found is None:
            raise BadValue("there is no such element")
        annotation = found.annotation
    annotation, _ = _without_none(annotation)
    if not (isinstance(annotation, type) and issubclass(annotation, BaseModel)):
        raise BadValue("there is no such element")
    return annotation


Asked = tuple[str, tuple[tuple[str, tuple[str, str | tuple[str, ...]] | None], ...]]


@lru_cache(maxsize=512)
def asked_of(path: str) -> tuple[Asked, ...]:
    """The single fields of the model at a path by group, in its own order: (group, ((name, shown when), …)).

    The main group is called "". Lists and elements inside have inputs of their own.
    """
    model = model_at(path)
    in_groups: dict[str, tuple[str, ...]] = getattr(model, "in_groups", {}) | getattr(model, "common_groups", {})
    shown_when = getattr(model, "shown_when", {})
    elsewhere = {name for names in in_groups.values() for name in names}
    single = []
    for name, found in model.model_fields.items():
        shown = found.alias or name
        kind = field_at(f"{path}/{shown}" if path else shown).kind
        if kind != "other" and name not in getattr(model, "not_asked", ()):
            single.append((name, shown))
    groups = {"": [pair for pair in single if pair[0] not in elsewhere]}
    groups |= {title: [pair for pair in single if pair[0] in names] for title, names in in_groups.items()}
    return tuple(
        (title, tuple((shown, shown_when.get(name)) for name, shown in pairs)) for title, pairs in groups.items()
    )


@lru_cache(maxsize=2048)
def _field(path: str) -> Field:
    annotation: Any = Build
    title, name, when_empty, blank = "", "", "", False
    metadata: tuple[Any, ...] = ()
    for step in path.split("/"):
        annotation, optional = _without_none(annotation)
        if get_origin(annotation) is tuple:
            annotation = get_args(annotation)[0]
            if get_origin(annotation) is Annotated:
                annotation, *extra = get_args(annotation)
                metadata = _constraints(extra)
            continue
        if not (isinstance(annotation, type) and issubclass(annotation, BaseModel)):
            raise BadValue("there is no such field")
        found = annotation.model_fields.get(step) or _by_alias(annotation, step)
        if found is None:
            raise BadValue("there is no such field")
        when_empty = getattr(annotation, "when_empty", {}).get(step, NOTHING_SAID)
        annotation, title, name = found.annotation, found.title or step.replace("_", " "), step
        metadata, blank = tuple(found.metadata), found.default == ""
    annotation, optional = _without_none(annotation)
    if get_origin(annotation) is Annotated:
        annotation, *extra = get_args(annotation)
        metadata = _constraints(extra)
    low = _bound(metadata, annotated_types.Ge, "ge")
    above = _bound(metadata, annotated_types.Gt, "gt")
    high = _bound(metadata, annotated_types.Le, "le")
    longest = next((m.max_length for m in metadata if isinstance(m, annotated_types.MaxLen)), None)
    choices = tuple(str(choice) for choice in get_args(annotation)) if get_origin(annotation) is Literal else ()
    return Field(
        name,
        title,
        _kind(annotation),
        optional,
        above if low is None else low,
        high,
        above is not None,
        choices,
        longest,
        when_empty,
        blank,
    )


def _bound(metadata: tuple[Any, ...], kind: type, attribute: str) -> float | None:
    return next((float(getattr(item, attribute)) for item in metadata if isinstance(item, kind)), None)


def _constraints(extra: list[Any]) -> tuple[Any, ...]:
    found: list[Any] = []
    for item in extra:
        found.extend(item.metadata if isinstance(item, FieldInfo) else [item])
    return tuple(found)


def _by_alias(model: type[BaseModel], alias: str) -> FieldInfo | None:
    return next((field for field in model.model_fields.values() if field.alias == alias), None)


def _without_none(annotation: Any) -> tuple[Any, bool]:
    if get_origin(annotation) in (Union, types.UnionType):
        rest = [arg for arg in get_args(annotation) if arg is not type(None)]
        if len(rest) == 1:
            return rest[0], True
    return annotation, False


def _kind(annotation: Any) -> Kind:
    if get_origin(annotation) is Literal:
        return "choice"
    kinds: dict[Any, Kind] = {float: "number", int: "whole", str: "text", bool: "switch"}
    return kinds.get(annotation, "other")


def read_field(path: str, typed: str, units: BenchUnits) -> Any:
    """The value to store for what was typed. Raises BadValue with a message in bench units."""
    field = field_at(path)
    if field.kind == "switch":
        return typed.lower() in {"on", "true", "yes", "1"}
    if field.kind == "choice":
        if typed not in field.choices:
            raise BadValue("choose one of: " + ", ".join(field.choices))
        return typed
    if field.kind == "text":
        return _text(field, typed)
    if field.kind not in ("number", "whole"):
        raise BadValue("this is not a single value")
    if field.optional and not typed.strip():
        return None
    try:
        value = read_quantity(typed, field.name, units)
    except Unreadable as error:
        raise BadValue(str(error)) from None
    asked = " or ".join(meant_at(path, typed, units))
    try:
        _in_range(field, value, units)
    except BadValue as error:
        raise BadValue(f"{error}. Was {asked} meant? Write the unit with it" if asked else str(error)) from None
    if asked and hardly(typed, field.name, units):
        raise BadValue(f"{' '.join(show(value, field.name, units))}? Was {asked} meant? Write the unit with it")
    if field.kind == "whole":
        if value != int(value):
            raise BadValue("a whole number is needed")
        return int(value)
    return value


def _text(field: Field, typed: str) -> str:
    cleaned = "".join(char for char in typed.replace("\r\n", "\n") if char == "\n" or char.isprintable())
    if not cleaned.strip() and not field.blank:
        raise BadValue("a value is needed here")
    if field.longest is not None and len(cleaned) > field.longest:
        raise BadValue(f"at most {field.longest} characters; this has {len(cleaned)}")
    return cleaned


def meant_at(path: str, typed: str, units: BenchUnits) -> tuple[str, ...]:
    """What to write instead at a path where what was typed was refused; nothing where that cannot be told."""
    field = field_at(path)
    if field.kind not in ("number", "whole"):
        return ()

    def allowed(value: float) -> bool:
        try:
            _in_range(field, value, units)
        except BadValue:
            return False
        return True

    return meant(typed, field.name, units, allowed)


def _in_range(field: Field, value: float, units: BenchUnits) -> None:
    too_low = field.low is not None and (value <= field.low if field.strict_low else value < field.low)
    if not too_low and not (field.high is not None and value > field.high):
        return
    unit = units.unit(quantity_of(field.name)).key
    low, high = (None if bound is None else show(bound, field.name, units)[0] for bound in (field.low, field.high))
    above = f"above {low}" + ("," if high is not None else "")
    parts = [(above if field.strict_low else f"from {low}") if low is not None else ""]
    parts += [f"{'up ' if field.strict_low else ''}to {high}" if high is not None else "", unit]
    raise BadValue("must lie " + " ".join(part for part in parts if part))
