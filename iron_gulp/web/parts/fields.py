"""Inputs of a page: single fields, an element's fields as its model orders them, parts from the shelf, lines."""

from dataclasses import dataclass, replace
from typing import Any

from markupsafe import Markup

from iron_gulp.core.model import (
    KINDS,
    EditError,
    Kind,
    Line,
    Part,
    driveline_share,
    element_at,
    fitted,
    held_at,
    shelf_kind,
    value_at,
)
from iron_gulp.core.study import end_rise_kpa, lift_rise_kpa, offered
from iron_gulp.services.dash_sizes import differs_mm
from iron_gulp.services.fields import Field, asked_of, field_at, meant_at, model_at
from iron_gulp.units import BenchUnits, as_input, quantity_of, short_in, show

from .context import Context
from .lines import LineView, line_view
from .rendering import field_html, kept_piece
from .views import FieldView


@dataclass(frozen=True)
class Group:
    """Some fields of an element under a title ("" for the main ones)."""

    title: str
    id: str
    paths: tuple[str, ...]


class Fields(Context):
    """Makes what the input macros show."""

    def field(self, path: str, title: str = "", of_column: bool = False) -> FieldView:
        """A field of the build as an input, with the error and the text typed when an edit of it was refused.

        One `of_column` stands in the unit at the column's head, whatever it was typed in.
        """
        spec = field_at(path)
        labels: tuple[tuple[str, str], ...] = ()
        if spec.name == "base_fuel":
            labels = tuple((fuel.id, fuel.name) for fuel in self.build.fuels)
            spec = replace(spec, kind="choice", choices=("gasoline", "methanol", *(key for key, _ in labels)))
        stored = value_at(self.build, path, self._known)
        refused = self.outcome if self.outcome is not None and self.outcome.path == path else None
        if refused is not None:
            self._shown_error = True
        units = self.units if of_column else self._units_at(path, stored, spec)
        value = refused.typed if refused is not None else self._text(stored, spec, units)
        symbol = units.unit(quantity_of(spec.name)).key if spec.kind in ("number", "whole") else ""
        view_id = "f-" + path.replace("/", "-")
        error = refused.message if refused is not None else ""
        shelf_value = self._shelf_value(path, stored, spec, units)
        empty = self._empty(path, spec) if spec.optional or spec.stands_for_something else ""
        note = self._note(path, stored)
        meant = meant_at(path, refused.typed, units) if refused is not None else ()
        titled = title or spec.title
        return FieldView(path, view_id, titled, value, symbol, spec, error, shelf_value, labels, empty, meant, note)

    def _note(self, path: str, stored: Any) -> str:
        """What is to be said of a value: that a dash size is not the bore of a line."""
        size = self._dash_size(path)
        by_number = differs_mm(size, stored) if size else None
        if by_number is None:
            return ""
        units = self.units
        if units.chosen["bore"] == "dash":
            units = units.instead(quantity_of("bore_mm"), "inch")
        return f"{size} would be {' '.join(show(by_number, 'bore_mm', units))} by its number"

    def _units_at(self, path: str, stored: Any, spec: Field) -> BenchUnits:
        """The bench's units, with the one in which the value that stands at a path was typed."""
        unit, quantity = self._typed.get(path), quantity_of(spec.name)
        if "dash" in (unit, self.units.chosen["bore"]) and self._dash_size(path):
            # A dash size counts hoses, not what is open in them.
            return self.units.instead(quantity, "inch") if self.units.chosen["bore"] == "dash" else self.units
        if unit is None or not isinstance(stored, int | float):
            return self.units
        typed = self.units.instead(quantity, unit)
        return typed if short_in(stored, spec.name, typed) else self.units

    def _dash_size(self, path: str) -> str:
        """The size of the line whose bore stands at a path, where it is a dash size."""
        holder, tail = path.rpartition("/")[::2]
        if tail != "bore_mm" or not holder.endswith("/part"):
            return ""
        size = str(getattr(held_at(self.build, holder), "size", ""))
        return size if size.startswith("dash") else ""

    def refused(self, path: str) -> str:
        """Why the last edit at a path was refused; empty when it was not, or was of another place."""
        if self.outcome is None or self.outcome.ok or self.outcome.path != path:
            return ""
        self._shown_error = True
        return self.outcome.message

    def input(self, path: str, title: str, wide: bool, bare: bool) -> Markup:
        """A field as its input."""
        return field_html(self.field(path, title, bare), self.url, wide, bare)

    def part_input(self, path: str, label: str) -> Markup:
        """A part as a choice of the shelf; kept while it offers the same."""
        fitted, choices, kind = self.field(f"{path}/name"), tuple(self.choices(path)), self.kind_of(path)
        shown = {"path": path, "label": label, "fitted": fitted, "choices": choices, "shelf_id": self.part_id(path)}
        shown |= {"kind": kind, "url": self.url}
        return kept_piece("part.html", tuple(shown.values()), **shown)

    def groups(self, path: str) -> list[Group]:
        """The fields of the element at a path, in the groups and order of its model, less what does not apply."""
        holder = held_at(self.build, path) if path else None

        def applies(when: tuple[str, str | tuple[str, ...]] | None) -> bool:
            if when is None:
                return True
            place, wanted = when
            now = getattr(holder, place, None) if holder and "/" not in place else element_at(self.option, place)
            return now in wanted if isinstance(wanted, tuple) else bool(now == wanted)

        found = []
        for title, names in asked_of(path):
            paths = tuple(f"{path}/{name}" if path else name for name, when in names if applies(when))
            if paths:
                slug = f"{path}-{title}".replace("/", "-").replace(" ", "-").lower()
                found.append(Group(title, f"group-{slug}", paths))
        return found

    def _empty(self, path: str, spec: Field) -> str:
        """What an empty field stands for."""
        found = {"loss_pct": self._default_loss, "bsfc_kg_kwh": self._default_bsfc, "count": self._cylinders}
        return found[spec.name]() if spec.name in found else spec.when_empty

    def _default_loss(self) -> str:
        return f"{driveline_share(self.build) * 100:.0f}"

    def _default_bsfc(self) -> str:
        return show(self.verdict.demand.gasoline_bsfc_kg_kwh, "bsfc_kg_kwh", self.units)[0]

    def _cylinders(self) -> str:
        return str(self.build.engine.cylinders)

    def _text(self, stored: Any, spec: Field, units: BenchUnits) -> str:
        if spec.kind == "switch":
            return "yes" if stored else "no"
        if spec.kind in ("number", "whole"):
            return as_input(stored, spec.name, units)
        return "" if stored is None else str(stored)

    def _shelf_value(self, path: str, stored: Any, spec: Field, units: BenchUnits) -> str:
        """What the shelf part says, when this build overrides it."""
        holder, _, tail = path.partition("/part/")
        if not tail or tail in ("name", "shelf_id", "provenance"):
            return ""
        if holder not in self._shelved:
            self._shelved[holder] = self._shelf_part(holder)
        value: Any = self._shelved[holder]
        if value is None:
            return ""
        for step in tail.split("/"):
            if isinstance(value, tuple):
                # A table of one's own may be longer than the shelf's.
                value = value[int(step)] if int(step) < len(value) else None
            else:
                value = getattr(value, step, None)
            if value is None:
                return ""
        return self._text(value, spec, units) if value != stored else ""

    def _shelf_part(self, holder: str) -> Part | None:
        """The shelf's part that a part at a place was taken from."""
        try:
            shelf_id = value_at(self.build, f"{holder}/part/shelf_id", self._known)
            return self.shelf.part(self.kind_of(f"{holder}/part"), shelf_id) if shelf_id else None
        except (KeyError, EditError):
            return None

    @staticmethod
    def kind_of(part_path: str) -> str:
        """The shelf kind of the part at a path."""
        found = model_at(part_path)
        assert issubclass(found, Part)
        return shelf_kind(found)

    def choices(self, part_path: str) -> list[tuple[str, str]]:
        """(shelf id, name) of every shelf part that fits a place; pumps with what they move at the pressure there."""
        kind = self.kind_of(part_path)
        if kind != "pumps":
            return [(part.shelf_id or "", part.name) for part in self.shelf.parts(kind)]
        verdicts, option = self.bench.judged.verdicts, self.option
        if "/lift/" in part_path and option.lift is not None:
            fitted, rise = option.lift.part, lift_rise_kpa(verdicts)
        else:
            fitted = next(group.part for group in option.pumps if f"/pumps/{group.id}/" in part_path)
            rise = end_rise_kpa(verdicts)
        at = self.quantity(rise, "pressure_kpa")
        return [
            (one.part.shelf_id or "", f"{one.part.name} · {self.quantity(one.flow_l_h, 'flow_l_h')} at {at}")
            for one in offered(self.shelf.catalogue, fitted, rise)
        ]

    def part_id(self, part_path: str) -> str:
        """The shelf id of the part at a path; empty for own data."""
        return str(value_at(self.build, f"{part_path}/shelf_id") or "")

    def line_at(self, path: str) -> LineView:
        """The fittings of the line at a path."""
        line: Any = self.option
        for step in self.inside_option(path).split("/"):
            if isinstance(line, tuple):
                line = next((one for one in line if getattr(one, "id", "") == step), None) or line[int(step)]
            else:
                line = getattr(line, step)
        assert isinstance(line, Line)
        return line_view(line)

    def optional(self, restricts: str) -> list[Kind]:
        """Single components that may stand in a line or not."""
        return [kind for kind in KINDS if kind.restricts == restricts and kind.added and not kind.several]

    def has(self, kind: Kind) -> bool:
        """Whether a component is fitted."""
        return element_at(self.option, kind.path) is not None

    def fitted(self, *stations: Any) -> list[Any]:
        """The components of the option at some stations, along the path."""
        return list(fitted(self.option, *stations))
