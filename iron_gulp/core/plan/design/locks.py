"""What a search must leave alone, and what it is to reach: one list for the page, the command line and whoever sizes."""

from dataclasses import dataclass
from typing import ClassVar, Literal, get_args

from pydantic import Field

from ...model import Model, Option
from .sitting import may_move_pumps

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


OWN_FIRST = "own parts before others"


class Locks(Model):
    """Locks of a search. Empty numbers lock nothing; headroom empty is the shop's own."""

    not_asked: ClassVar[tuple[str, ...]] = ("keep",)
    when_empty: ClassVar[dict[str, str]] = {"budget": "none", "headroom_pct": "the shop's"}

    keep: tuple[Kept, ...] = Field((), max_length=7)
    returns: Literal["with a return", "returnless", "either"] = Field("either", title="Return")
    base_pressure: Literal["may change", "usual alone", "as it is"] = Field("may change", title="Base pressure")
    brushless: Literal["where it helps", "none"] = Field("where it helps", title="Brushless pumps")
    surge: Literal["as it is", "none"] = Field("as it is", title="Surge tank")
    pumps_sit: Literal["as it is", "may change"] = Field("as it is", title="Pumps in the tank or outside")
    regulator_sits: Literal["as it is", "may change"] = Field(
        "as it is", title="Regulator at rail or throttle body, or near the tank"
    )
    most_pumps: int = Field(3, ge=1, le=6, title="Pumps at most")
    budget: float | None = Field(None, ge=0, le=10_000_000, title="Budget, all in")
    headroom_pct: float | None = Field(None, ge=0, le=100, title="Headroom wanted")
    second_set: Literal["none", "where it helps"] = Field("none", title="Second set of injectors")
    idle: Literal["on every target", "on the strongest blend alone"] = Field("on every target", title="Idles")
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
        open_already = ("keep", "second_set", "booster", "idle", "pumps_sit", "regulator_sits")
        fields = [name for name in type(self).model_fields if name not in open_already]
        return (*self.keep, *(name for name in fields if getattr(self, name) != getattr(plain, name)))


@dataclass(frozen=True)
class Lock:
    """A lock that can be asked for: its name, title, what it may be (nothing: a number), and what it is by itself."""

    name: str
    title: str
    choices: tuple[str, ...]
    usual: str


def locks_of(option: Option | None = None) -> list[Lock]:
    """Every lock but what is kept, in their order; of an option those that say anything there."""
    found = []
    for name, field in Locks.model_fields.items():
        if name == "keep" or (option is not None and not _says(name, option)):
            continue
        choices = tuple(str(one) for one in get_args(field.annotation) if isinstance(one, str))
        usual = "" if field.default is None else str(field.default)
        found.append(Lock(name, str(field.title), choices, usual))
    return found


def _says(name: str, option: Option) -> bool:
    if name == "surge":
        return option.lift is not None
    if name == "second_set":
        return option.injectors is not None
    if name == "pumps_sit":
        return may_move_pumps(option)
    return option.carburettor is None or name not in ("base_pressure", "brushless", "booster", "idle", "regulator_sits")
