"""What a figure is: a pure function of named inputs with formula, source and sensitivity. Names end in their unit."""

from collections.abc import Callable, Mapping, Sequence
from contextlib import suppress
from dataclasses import dataclass, field

import numpy as np

from ...judge import TargetVerdict, judge_many
from ...model import Build, EditError, apply, value_at

Values = Mapping[str, float]


@dataclass(frozen=True)
class Context:
    """What a figure may look at: a build and one judged target."""

    build: Build
    verdict: TargetVerdict
    _neighbours: dict[tuple[str, float], TargetVerdict | None] = field(default_factory=dict, repr=False, compare=False)

    def neighbours(self, edits: Sequence[tuple[str, float]]) -> list[TargetVerdict | None]:
        """The target judged with each field changed alone; None where the build does not allow it. Judged once each."""
        option, target = self.verdict.option.id, self.verdict.target.id
        builds = {}
        for edit in dict.fromkeys(edits):
            if edit not in self._neighbours:
                self._neighbours[edit] = None
                with suppress(EditError):
                    builds[edit] = apply(self.build, [edit])
        judged = judge_many([(one, one.option(option), one.target(target)) for one in builds.values()], ceilings=False)
        self._neighbours.update(zip(builds, judged, strict=True))
        return [self._neighbours[edit] for edit in edits]


@dataclass(frozen=True)
class Input:
    """An input of a figure: symbol in the formula, label, value, and the figure at −10 % and +10 % of it.

    `low` and `high` are None where the changed input leaves the range in which the formula or the model holds.
    """

    symbol: str
    label: str
    name: str
    value: float
    low: float | None
    high: float | None


@dataclass(frozen=True)
class Explanation:
    """A figure opened: its value, formula, source and inputs; `entered` where the value is one that was typed."""

    key: str
    label: str
    name: str
    value: float
    formula: str
    source: str
    note: str
    inputs: tuple[Input, ...]
    entered: bool = False


@dataclass(frozen=True)
class Figure:
    """A figure's definition. `inputs` are (symbol, label, name); `read` gives their values, `compute` the figure."""

    key: str
    label: str
    formula: str
    source: str
    inputs: tuple[tuple[str, str, str], ...]
    read: Callable[[Context], Values]
    compute: Callable[[Context, Values], float]
    note: str = ""

    @property
    def name(self) -> str:
        """The figure's name with its unit suffix: the key without its station."""
        return self.key.split(".", 1)[1]

    def value(self, context: Context) -> float:
        """The figure at this context, in its own unit."""
        return float(self.compute(context, self.read(context)))

    def rows(self, context: Context) -> tuple[Input, ...]:
        """The inputs as rows of the explanation, with what a nudge of each does."""
        given = self.read(context)

        def at(symbol: str, factor: float) -> float | None:
            try:
                changed = float(self.compute(context, {**given, symbol: given[symbol] * factor}))
            except ValueError:
                return None
            return changed if np.isfinite(changed) else None

        return tuple(
            Input(symbol, label, name, float(given[symbol]), at(symbol, 0.9), at(symbol, 1.1))
            for symbol, label, name in self.inputs
        )


@dataclass(frozen=True)
class SystemFigure:
    """A figure of the coupled solution. Its inputs are fields of the build (path, label, name).

    Sensitivity changes the field in the build and solves again. Paths may hold `{target}`, `{option}`, `{group}`.
    """

    key: str
    label: str
    formula: str
    inputs: tuple[tuple[str, str, str], ...]
    read: Callable[[TargetVerdict], float]
    source: str = "coupled solution of pumps, voltage, lines, regulator, return and injectors"
    note: str = ""

    @property
    def name(self) -> str:
        """The figure's name with its unit suffix: the key without its station."""
        return self.key.split(".", 1)[1]

    def value(self, context: Context) -> float:
        """The figure as the verdict holds it."""
        return float(self.read(context.verdict))

    def rows(self, context: Context) -> tuple[Input, ...]:
        """The inputs that move a figure of the whole system, each with its place."""
        build, verdict = context.build, context.verdict
        option = f"options/{verdict.option.id}"
        places = {
            "target": f"targets/{verdict.target.id}",
            "option": option,
            "group": f"{option}/pumps/{verdict.option.pumps[0].id}",
        }

        paths = [(template.format(**places), label, name) for template, label, name in self.inputs]
        now = [float(value_at(build, path)) for path, _, _ in paths]
        asked = [(path, value * factor) for (path, _, _), value in zip(paths, now, strict=True) for factor in (0.9, 1.1)]
        moved = self._moved(context, asked)
        return tuple(
            Input("", label, name, value, moved[2 * row], moved[2 * row + 1])
            for row, ((_, label, name), value) in enumerate(zip(paths, now, strict=True))
        )

    def _moved(self, context: Context, edits: list[tuple[str, float]]) -> list[float | None]:
        """The figure with each field changed alone; None where the build or the model does not allow it."""
        read = [None if one is None else float(self.read(one)) for one in context.neighbours(edits)]
        return [one if one is not None and np.isfinite(one) else None for one in read]


AnyFigure = Figure | SystemFigure
