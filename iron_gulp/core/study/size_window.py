"""The window of injector sizes by base pressure: the smallest that carries every target, the largest that idles."""

from collections.abc import Sequence
from dataclasses import dataclass

import numpy as np

from ..judge import along_sizes, judge_rows
from ..model import Build, Catalogue, Component, InjectorPart, Option, rated_at_300_kpa
from ..physics import Floats, floats

SIZES = floats(np.geomspace(80.0, 4000.0, 120))
BASES_KPA = (300.0, 350.0, 400.0, 450.0)
SHELF_AROUND = 2


@dataclass(frozen=True)
class Window:
    """At one base pressure, cc/min of n-heptane at 300 kPa: None where no size carries, or none idles.

    `wanted` is the smallest with the shop's headroom left, `smallest` the one just at the limit.
    """

    base_kpa: float
    fitted: bool
    wanted: float | None
    smallest: float | None
    largest: float | None


@dataclass(frozen=True)
class Size:
    """A size of the shelf, or the one fitted, at the base pressure fitted: highest loads over all targets."""

    name: str
    cc_min: float
    fitted: bool
    load: float
    idle: float
    pulse_ms: float


@dataclass(frozen=True)
class SizeWindow:
    """The window at every base pressure the regulator can hold, and the shelf's sizes around it."""

    size: float
    windows: tuple[Window, ...]
    sizes: tuple[Size, ...]


def size_window(build: Build, option: Option, catalogue: Catalogue) -> SizeWindow:
    """Which port injectors carry all targets and idle on each. Raises KeyError without port injectors."""
    fitted = option.injectors
    if fitted is None:
        raise KeyError("there are no port injectors")
    part, regulator = option.regulator.part, option.regulator
    own = regulator.base_kpa
    bases = sorted({own, *(one for one in BASES_KPA if part.min_base_kpa <= one <= part.max_base_kpa)})
    windows = [window_at(build, option, base) for base in bases]
    size = rated_at_300_kpa(fitted.part)
    shelf = sorted(catalogue.injectors, key=rated_at_300_kpa)
    near = [one for one in shelf if abs(rated_at_300_kpa(one) / size - 1.0) > 1e-3]
    below = [one for one in near if rated_at_300_kpa(one) < size][-SHELF_AROUND:]
    above = [one for one in near if rated_at_300_kpa(one) > size][:SHELF_AROUND]
    return SizeWindow(size, tuple(windows), _sizes(build, option, [*below, fitted.part, *above], own))


def window_at(build: Build, option: Option, base_kpa: float) -> Window:
    """The window at a base pressure. The option has port injectors."""
    headroom = build.rules.headroom_pct / 100.0
    loads, idles = _loads(build, option, SIZES, base_kpa)
    fitted = base_kpa == option.regulator.base_kpa
    return Window(base_kpa, fitted, _first(loads, 1.0 - headroom), _first(loads, 1.0), _last(idles))


def _sizes(build: Build, option: Option, parts: Sequence[InjectorPart], base: float) -> tuple[Size, ...]:
    fitted = option.injectors
    assert fitted is not None
    at = floats([rated_at_300_kpa(one) for one in parts])
    loads, idles = _loads(build, option, at, base, floats([one.smallest_pulse_ms for one in parts]))
    return tuple(
        Size(one.name, float(size), one is fitted.part, float(load), float(idle), one.smallest_pulse_ms)
        for one, size, load, idle in zip(parts, at, loads, idles, strict=True)
    )


def size_loads(
    build: Build, option: Option, sizes: Floats, base_kpa: float, pulses_ms: Floats | None = None
) -> dict[Component, Floats]:
    """Highest load and highest idle load of port injectors over all targets, by size (cc/min at 300 kPa, shape (n,))."""
    found: dict[Component, Floats] = {one: floats(np.zeros(sizes.size)) for one in ("injectors", "injector idle")}
    for target in build.targets:
        for share in judge_rows(along_sizes(build, option, target, sizes, base_kpa, pulses_ms)).shares:
            if share.component in found:
                found[share.component] = floats(np.maximum(found[share.component], share.load))
    return found


def _loads(
    build: Build, option: Option, sizes: Floats, base_kpa: float, pulses_ms: Floats | None = None
) -> tuple[Floats, Floats]:
    found = size_loads(build, option, sizes, base_kpa, pulses_ms)
    return found["injectors"], found["injector idle"]


def _first(loads: Floats, limit: float) -> float | None:
    """The size from which the load, which falls with size, stays within a limit; between two sizes by its logarithm."""
    fine = loads <= limit
    if not fine.any():
        return None
    at = int(fine.argmax())
    if at == 0:
        return float(SIZES[0])
    low, high = float(loads[at - 1]), float(loads[at])
    share = (np.log(low) - np.log(limit)) / (np.log(low) - np.log(high)) if np.isfinite(low) and high > 0 else 1.0
    return float(np.exp(np.log(SIZES[at - 1]) + share * (np.log(SIZES[at]) - np.log(SIZES[at - 1]))))


def _last(idles: Floats) -> float | None:
    """The largest size that still idles."""
    fine = np.flatnonzero(idles <= 1.0)
    return float(SIZES[fine[-1]]) if fine.size else None
