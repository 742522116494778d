"""What a figure is: a pure function of named inputs with formula, source and sensitivity. Names end in their unit."""

from collections.abc import Callable, Mapping
from dataclasses import dataclass

import numpy as np

from ...judge import DutyVerdict, judge
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
        return float(self.compute(context, self.read(context)))

    def rows(self, context: Context) -> tuple[Input, ...]:
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
        return float(self.read(context.verdict))

    def rows(self, context: Context) -> tuple[Input, ...]:
        build, verdict = context.build, context.verdict
        option = f"options/{verdict.option.id}"
        places = {
            "duty": f"duties/{verdict.duty.id}",
            "option": option,
            "group": f"{option}/pumps/{verdict.option.pumps[0].id}",
        }

        def at(path: str, value: float) -> float | None:
            try:
                other = apply(build, [(path, value)])
            except EditError:
                return None
            again = judge(other, other.option(verdict.option.id), other.duty(verdict.duty.id))
            changed = float(self.read(again))
            return changed if np.isfinite(changed) else None

        rows = []
        for template, label, name in self.inputs:
            path = template.format(**places)
            now = float(value_at(build, path))
            rows.append(Input("", label, name, now, at(path, now * 0.9), at(path, now * 1.1)))
        return tuple(rows)


AnyFigure = Figure | SystemFigure
