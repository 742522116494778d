"""Numbers of tables: which one, how it is read from any build with the same option and target, and what moves it.

A number's sensitivity is the same reading of the build with one field changed.
"""

from collections.abc import Callable, Sequence
from contextlib import suppress
from dataclasses import dataclass

import numpy as np

from ...model import Build, Component, EditError, Option, Target, apply, value_at
from ...study import Axis
from ..figures import Input
from ..figures.ceilings import INPUTS

Asked = tuple[Build, Option, Target]
Path = tuple[str, str, str]  # a field that may move a number: where it is, its label, a name that ends in its unit

PHYSICS = "coupled solution of pumps, voltage, lines, regulator, return and injectors"


# What the model takes of each axis.
RANGES: dict[Axis, tuple[float, float]] = {
    "ethanol_pct": (0.0, 100.0),
    "rpm": (300.0, 20_000.0),
    "base_kpa": (1.0, 2000.0),
}


@dataclass(frozen=True)
class Place:
    """Which number of its table: what a kind does not look at stays as it is.

    `at` is the place on `axis`, its unit in the axis's name, or an injector size in cc/min with `pulse_ms` its smallest
    pulse; `row` counts corners or regulator arrangements as the core lists them; `case` is "best" or "worst" of brackets,
    "cold", "entered" or "hot" of idle pulses, "read" or "wrong" of boost permitted, an arrangement's figure and point, or
    a tolerance.
    """

    component: Component | None = None
    axis: Axis = "ethanol_pct"
    at: float = 0.0
    rising: bool = False
    row: int = 0
    fuel: str = "gasoline"
    case: str = ""
    every: bool = False
    pulse_ms: float | None = None

    def on(self, axis: Axis) -> float:
        """The place on an axis. Raises KeyError off its range."""
        low, high = RANGES[axis]
        if not low <= self.at <= high:
            raise KeyError(f"{self.at:g} is no place on this axis")
        return self.at


PATHS: tuple[Path, ...] = (
    *INPUTS,
    ("{option}/injectors/part/rated_flow_cc_min", "Injector size", "rated_flow_cc_min"),
    ("rules/headroom_pct", "Headroom wanted", "headroom_pct"),
)


@dataclass(frozen=True)
class Number:
    """A number told: `read` gives it for builds with the same option and target.

    `paths` are the fields that may move it; `rows` stand where its own are known; one that is `entered` was typed.
    """

    label: str
    name: str
    formula: str
    read: Callable[[Sequence[Asked]], list[float]]
    source: str = PHYSICS
    note: str = ""
    rows: tuple[Input, ...] | None = None
    paths: Sequence[Path] = PATHS
    entered: bool = False


def or_none(value: float | None) -> float:
    """A value that may not be there, as not a number."""
    return float("nan") if value is None else value


def moved(number: Number, build: Build, option: Option, target: Target) -> tuple[Input, ...]:
    """The fields that may move it, each with the number read again at 10 % less and more of it alone."""
    places = {"target": f"targets/{target.id}", "option": f"options/{option.id}"}
    known: list[tuple[str, str, str, float]] = []
    for template, label, name in number.paths:
        path = template.format(**places)
        with suppress(EditError):
            value = value_at(build, path)
            if isinstance(value, int | float) and value != 0 and all(path != one[0] for one in known):
                known.append((path, label, name, float(value)))
    builds: dict[tuple[int, float], Build] = {}
    for row, (path, _, _, value) in enumerate(known):
        for factor in (0.9, 1.1):
            with suppress(EditError):  # past what the field allows: no number there
                builds[row, factor] = apply(build, [(path, value * factor)])
    read = number.read([(one, one.option(option.id), one.target(target.id)) for one in builds.values()])
    found = {key: value for key, value in zip(builds, read, strict=True) if np.isfinite(value)}
    now = number.read([(build, option, target)])[0]
    rows = [
        Input("", label, name, value, found.get((row, 0.9)), found.get((row, 1.1)))
        for row, (_, label, name, value) in enumerate(known)
    ]
    return tuple(row for row in rows if any(one is not None and not np.isclose(one, now) for one in (row.low, row.high)))
