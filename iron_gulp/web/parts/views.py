"""Small views that templates read; made by the presenter."""

from dataclasses import dataclass

from iron_gulp.services.fields import Field


@dataclass(frozen=True)
class FigureView:
    key: str
    label: str
    number: str
    unit: str


HALF_COLUMN = 11  # characters of a choice that half a column of inputs shows


@dataclass(frozen=True)
class FieldView:
    path: str
    id: str
    title: str
    value: str
    unit: str
    field: Field
    error: str
    shelf_value: str
    labels: tuple[tuple[str, str], ...] = ()  # of choices that are not their own label
    empty: str = ""  # what an empty field stands for
    meant: tuple[str, ...] = ()  # what may be written instead of what was refused
    note: str = ""  # what is to be known of the value

    @property
    def options(self) -> list[tuple[str, str]]:
        """(value, label) of a choice or switch."""
        if self.field.kind == "switch":
            return [("yes", "yes"), ("no", "no")]
        return [(choice, dict(self.labels).get(choice, choice)) for choice in self.field.choices]

    @property
    def short_words(self) -> bool:
        """Whether every choice can be read in half a column."""
        return all(len(label) <= HALF_COLUMN for _, label in self.options)


@dataclass(frozen=True)
class StationView:
    key: str
    title: str
    line: str
    percent: str
    bar: float
    status: str
    limit: bool
    selected: bool
    problems: int
    band: tuple[float, float] | None = None  # where its bar may end, % of its place
    outside: tuple[str, ...] = ()  # rules of the shop that are not kept there


@dataclass(frozen=True)
class SizeView:
    way: str
    shelf_id: str
    name: str
    effect: str


@dataclass(frozen=True)
class LoadView:
    title: str
    percent: str
    bar: float
    status: str
    measure: str
    station: str
    ceiling: str
    component: str
    ends: bool
    expected: str  # the same at the expected consumption


@dataclass(frozen=True)
class RemedyView:
    index: int
    label: str
    one_click: bool
    finding: int
    code: str


@dataclass(frozen=True)
class PlanView:
    steps: tuple[tuple[str, str], ...]
    left: tuple[str, ...]


@dataclass(frozen=True)
class FindingView:
    number: int
    code: str
    severity: str
    word: str
    station: str
    title: str
    text: str
    why: str
    targets: tuple[str, ...]
    follows: str
    here: bool
