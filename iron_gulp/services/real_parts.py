"""From generic to real: what a real part must offer on each line, and the real one entered in its place."""

from collections.abc import Mapping
from functools import lru_cache
from typing import Any

from pydantic import ValidationError

from iron_gulp.core.model import Build, Edit, EditError, Part, problems_of
from iron_gulp.core.plan import Need, needs, with_datum
from iron_gulp.units import BenchUnits, Unreadable, read_number, read_quantity

from .edits import Edits, Outcome
from .judging import Bench, Judging, parsed

# What may be typed of a real part.
TITLES = {
    "name": "Name",
    "datum": "What it offers",
    "price": "Price",
    "supplier": "Supplier",
    "lead_days": "Days to come",
}


class RealParts:
    """What lines of an option must be, and real parts in place of generic ones."""

    def __init__(self, judging: Judging, edits: Edits):
        self._judging, self._edits = judging, edits

    @staticmethod
    def needs(bench: Bench) -> tuple[Need, ...]:
        """What a real part must offer on each line of the option on the bench."""
        return _needs(bench.stored.body, bench.option.id)

    def enter(
        self, build_id: int, base: int, option_id: str, path: str, typed: Mapping[str, str], units: BenchUnits
    ) -> Outcome:
        """Put a real part in place of the one on a line; empty texts leave what is there. Raises NotFound."""
        bench = self._judging.bench(build_id, option_id)
        need = next((one for one in self.needs(bench) if one.path == path), None)
        place = f"real/{path}"
        if need is None:
            return Outcome(False, place, "", "there is no such line any more")
        changes: dict[str, Any] = {}
        for name in TITLES:
            text = typed.get(name, "").strip()
            if not text:
                continue
            try:
                changes[name] = _read(name, text, need, units)
            except Unreadable as error:
                return Outcome(False, place, text, f"{TITLES[name]}: {error}")
        if "name" not in changes:
            return Outcome(False, place, typed.get("datum", ""), "a real part has a name")

        def edits(build: Build) -> list[Edit]:
            option = build.option(option_id)
            datum = changes.get("datum")
            if datum is not None:
                option = with_datum(build, option, path, datum)
            places = _at(option, path)
            return [(f"options/{option_id}/{at}/part", _real(part, changes, need)) for at, part in places]

        return self._edits.change(build_id, base, edits, f"real part: {changes['name'][:40]}", place)


def _read(name: str, text: str, need: Need, units: BenchUnits) -> Any:
    if name == "datum":
        value = read_quantity(text, need.name, units)
        if value <= 0:
            raise Unreadable("must be more than nothing")
        return value
    if name == "price":
        return read_number(text)
    if name == "lead_days":
        days = read_number(text)
        if days != int(days):
            raise Unreadable("whole days are asked for")
        return int(days)
    return text


def _at(option: Any, path: str) -> list[tuple[str, Part]]:
    """The elements a line stands for, with their parts; a line of high-pressure pumps stands for all of them."""
    if path == "high_side/pumps/0":
        return [(f"high_side/pumps/{number}", one.part) for number, one in enumerate(option.high_side.pumps)]
    place = option
    for step in path.split("/"):
        place = next(one for one in place if one.id == step) if isinstance(place, tuple) else getattr(place, step)
    return [(path, place.part)]


def _real(part: Part, changes: Mapping[str, Any], need: Need) -> dict[str, Any]:
    """A part as the real one: it is none of the shelf's any more, and says what it stands in for."""
    data: dict[str, Any] = part.model_dump(mode="json", by_alias=True)
    told = {key: value for key, value in changes.items() if key != "datum"}
    fresh = {"shelf_id": None, "provenance": f"entered for {need.part.name}"[:120]}
    try:
        type(part).model_validate({**data, **fresh, **told})
    except ValidationError as error:
        raise EditError(problems_of(error)) from None
    return {**data, **fresh, **told}


@lru_cache(maxsize=8)
def _needs(body: str, option_id: str) -> tuple[Need, ...]:
    build = parsed(body)
    return needs(build, build.option(option_id))
