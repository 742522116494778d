"""What every part of a page starts from: the bench, the page's key, units, shelf, and a refused edit to show."""

from collections.abc import Mapping
from typing import Any

from iron_gulp.services.workshop import Bench, Outcome
from iron_gulp.shelf import Shelf
from iron_gulp.units import BenchUnits, quantity_of, show


class Context:
    """A bench in the units chosen; `outcome` is a refused edit to show at its field, `typed` in which units some places
    were typed."""

    def __init__(
        self,
        bench: Bench,
        page: str,
        units: BenchUnits,
        shelf: Shelf,
        outcome: Outcome | None = None,
        typed: Mapping[str, str] | None = None,
    ):
        self._typed: Mapping[str, str] = typed or {}
        self.bench, self.page, self.units, self.shelf = bench, page, units, shelf
        self.build, self.option, self.verdict = bench.build, bench.option, bench.verdict
        self.target = bench.verdict.target
        self.outcome = outcome if outcome is not None and not outcome.ok else None
        self._shown_error = False
        self._known: dict[str, Any] = {}
        self._shelved: dict[str, Any] = {}

    def quantity(self, value: float | None, name: str) -> str:
        """A value with its unit; `name` ends in the unit it is kept in."""
        number, unit = show(value, name, self.units)
        return f"{number}\u00a0{unit}" if unit else number

    def unit(self, name: str) -> str:
        """The unit a quantity is shown in."""
        return self.units.unit(quantity_of(name)).key

    def at(self, tail: str) -> str:
        """The edit path of a field of the option on the bench."""
        return f"options/{self.option.id}/{tail}"

    def of_target(self, tail: str, target_id: str | None = None) -> str:
        """The edit path of a field of a target (the one on the bench unless given)."""
        return f"targets/{target_id or self.target.id}/{tail}"

    def inside_option(self, path: str) -> str:
        """A path of this option without the option itself."""
        return path.removeprefix(self.at(""))

    @property
    def url(self) -> str:
        """The build's address."""
        return f"/builds/{self.bench.stored.id}"

    @property
    def where(self) -> dict[str, str]:
        """What an address needs beside its path: option and target."""
        return {"option": self.option.id, "target": self.target.id}

    @property
    def loose_error(self) -> str:
        """The message of a refused change that belongs to no field on this page (call after the fields)."""
        return self.outcome.message if self.outcome is not None and not self._shown_error else ""
