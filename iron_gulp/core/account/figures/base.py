"""What a figure is: a pure function of named inputs with formula, source and sensitivity. Names end in their unit."""

from collections.abc import Callable, Mapping
from contextlib import suppress
from dataclasses import dataclass

import numpy as np

from ...judge import DutyVerdict, judge_many
from ...model import Build, EditError, apply, value_at

Values = Mapping[str, float]


@dataclass(frozen=True)
class Context:
    """What a figure may look at: a build and one judged duty."""

    build: Build
    verdict: DutyVerdict


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
    """A figure opened: its value, formula, source and inputs."""

    key: str
    label: str
    name: str
    value: float
    formula: str
    source: str
    note: str
    inputs: tuple[Input, ...]


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

    Sensitivity changes the field in the build and solves again. Paths may hold `{duty}`, `{option}`, `{group}`.
    """

    key: str
    label: str
    formula: str
    inputs: tuple[tuple[str, str, str], ...]
    read: Callable[[DutyVerdict], float]
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
            "duty": f"duties/{verdict.duty.id}",
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
        """The figure with each field changed alone; None where the build does not allow it."""
        option, duty = context.verdict.option.id, context.verdict.duty.id
        found: list[float | None] = [None] * len(edits)
        builds = {}
        for row, edit in enumerate(edits):
            with suppress(EditError):
                builds[row] = apply(context.build, [edit])
        verdicts = judge_many([(one, one.option(option), one.duty(duty)) for one in builds.values()])
        for row, verdict in zip(builds, verdicts, strict=True):
            changed = float(self.read(verdict))
            found[row] = changed if np.isfinite(changed) else None
        return found


AnyFigure = Figure | SystemFigure
