"""What a search must leave alone, and what it is to reach."""

from typing import ClassVar, Literal

from pydantic import Field

from ...model import Model

Kept = Literal["injectors", "pumps", "lines", "regulator", "filter", "high-pressure pumps", "direct injectors"]
KEEPS: tuple[Kept, ...] = (
    "injectors",
    "pumps",
    "lines",
    "regulator",
    "filter",
    "high-pressure pumps",
    "direct injectors",
)


class Locks(Model):
    """Locks of a search. Empty numbers lock nothing; headroom empty is the shop's own."""

    not_asked: ClassVar[tuple[str, ...]] = ("keep",)
    when_empty: ClassVar[dict[str, str]] = {"budget": "none", "headroom_pct": "the shop's"}

    keep: tuple[Kept, ...] = Field((), max_length=7)
    returns: Literal["with a return", "returnless", "either"] = Field("either", title="Return")
    base_pressure: Literal["may change", "usual alone", "as it is"] = Field("may change", title="Base pressure")
    brushless: Literal["where it helps", "none"] = Field("where it helps", title="Brushless pumps")
    surge: Literal["as it is", "none"] = Field("as it is", title="Surge tank")
    most_pumps: int = Field(3, ge=1, le=6, title="Pumps at most")
    budget: float | None = Field(None, ge=0, le=10_000_000, title="Budget, all in")
    headroom_pct: float | None = Field(None, ge=0, le=100, title="Headroom wanted")
    second_set: Literal["none", "where it helps"] = Field("none", title="Second set of injectors")
    booster: Literal["none", "where it helps"] = Field("none", title="Voltage booster or helper pump")
    shelf: Literal["the whole shelf", "own parts before others", "own parts alone"] = Field(
        "the whole shelf", title="Parts from"
    )

    def without(self, name: str) -> "Locks":
        """The same with one lock opened: a kind kept, or a field at what it is by itself."""
        if name in self.keep:
            return self.model_copy(update={"keep": tuple(one for one in self.keep if one != name)})
        return self.model_copy(update={name: type(self).model_fields[name].default})

    @property
    def closed(self) -> tuple[str, ...]:
        """The locks that are closed, by name."""
        plain = Locks()
        fields = [
            name for name in type(self).model_fields if name not in ("keep", "headroom_pct", "second_set", "booster")
        ]
        return (*self.keep, *(name for name in fields if getattr(self, name) != getattr(plain, name)))
