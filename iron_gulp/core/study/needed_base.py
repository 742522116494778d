"""Every regulator arrangement at the base pressure it needs for a target: what injectors pass over manifold pressure, and
what that base asks of pumps, current and heat (J09)."""

from dataclasses import dataclass, replace
from typing import Literal

import numpy as np

from ..judge import Cases, case_of, judge_rows
from ..model import Build, Catalogue, InjectorPart, Option, Target, rated_at_300_kpa
from ..physics import Floats, floats, mapped
from ..solve import solve_points
from .references import Arranged, arrangements, every_arrangement
from .staging import field_demand_kg_s
from .sweeps import Series, Sweep

LEAST_KPA, MOST_KPA, STEP_KPA = 100.0, 900.0, 50.0  # base pressures looked at
ROUND_KPA = 5.0
ALIKE = 1e-3  # flows that differ by no more are one line
PLACES = 61
VACUUM_KPA, BEYOND_KPA = -60.0, 20.0  # of the picture


@dataclass(frozen=True)
class Needed:
    """An arrangement at the base pressure it needs: that base, kPa (None where none up to MOST_KPA does), what the system
    does there, and what that spares against the system as it is (peak): A, W, and a share of pump supply; more where
    negative. `or_less` says that less was not looked at."""

    name: str
    base_kpa: float | None
    there: Arranged | None
    spared_a: float = 0.0
    spared_w: float = 0.0
    spared_load: float = 0.0

    @property
    def or_less(self) -> bool:
        """Whether it may need less than the least that was looked at."""
        return self.base_kpa == LEAST_KPA


def needed_bases(build: Build, option: Option, target: Target) -> list[Needed]:
    """Every arrangement at the least base at which the injectors fitted pass what the target asks within their duty."""
    if option.injectors is None or option.carburettor is not None:
        return []
    kinds = arrangements(build, option)
    least: dict[tuple[str, bool], float | None] = {}
    found = []
    for _, one, _ in kinds:
        # What injectors see goes by the reference, and by what a feed behind the regulator loses: by nothing else.
        key = one.regulator.reference, one.regulator.arrangement == "bypass near the tank"
        if key not in least:
            least[key] = _least_base(build, one, target)
        found.append(least[key])
    now = next((one for one in every_arrangement(build, option, target) if one.fitted), None)
    needed = []
    for (name, one, _), base in zip(kinds, found, strict=True):
        if base is None:
            needed.append(Needed(name, None, None))
            continue
        at_base = build.model_copy(update={"options": (_on(one, base),)})
        (there,) = every_arrangement(at_base, at_base.options[0], target, only=name)
        spared = _spared(now, there) if now is not None else (0.0, 0.0, 0.0)
        needed.append(Needed(name, base, there, *spared))
    return needed


def _spared(now: Arranged, there: Arranged) -> tuple[float, float, float]:
    return now.current_a[1] - there.current_a[1], now.heat_w[1] - there.heat_w[1], now.pump_load - there.pump_load


def _on(option: Option, base_kpa: float) -> Option:
    return option.model_copy(update={"regulator": option.regulator.model_copy(update={"base_kpa": base_kpa})})


def _least_base(build: Build, option: Option, target: Target) -> float | None:
    """The least base at which injectors hold within their duty limit, rounded up; None where none does."""
    case = case_of(build, option, target)
    bases = floats(np.arange(LEAST_KPA, MOST_KPA + STEP_KPA / 2.0, STEP_KPA))
    fit = np.flatnonzero(_injector_loads(case, bases) <= 1.0)
    if not fit.size or fit[0] == 0:
        return LEAST_KPA if fit.size else None
    closer = floats(np.arange(bases[fit[0] - 1] + ROUND_KPA, bases[fit[0]] + ROUND_KPA / 2.0, ROUND_KPA))
    return float(closer[int(np.flatnonzero(_injector_loads(case, closer) <= 1.0)[0])])


def _injector_loads(case: Cases, bases_kpa: Floats) -> Floats:
    """The injectors' load on one target at base pressures."""
    spread = mapped(case, lambda one: np.repeat(one, bases_kpa.size, axis=-1))
    cases = replace(spread, systems=replace(spread.systems, base_kpa=bases_kpa))
    return next(one.load for one in judge_rows(cases).shares if one.component == "injectors")


def _flow_g_s(build: Build, option: Option, target: Target, manifold: Floats) -> Floats:
    """What one injector passes held open at the pressure meant for it at each manifold pressure, g/s.

    Where pumps fall short or a return holds the rail up it is another: the table tells that.
    """
    wanted = field_demand_kg_s(build, option, target, floats(target.rpm), manifold)
    return floats(solve_points(build, option, target, target.rpm, manifold, wanted).open_at_set_kg_s * 1e3)


def _manifold_kpa(build: Build, target: Target) -> Floats:
    low = min(build.engine.idle_manifold_kpa, VACUUM_KPA)
    return floats(np.unique([*np.linspace(low, max(target.boost_kpa, 0.0) + BEYOND_KPA, PLACES), 0.0, target.boost_kpa]))


def flow_over_manifold(
    build: Build, option: Option, target: Target, catalogue: Catalogue, needed: bool, per_cent: bool
) -> Sweep:
    """Flow of one injector held open over manifold pressure under every arrangement: each at the base it needs, or all at
    the base fitted; in flow or per cent of the unboosted flow. Raises KeyError without port injectors.

    Faint beside: the next smaller and the next larger injector of the shelf in the arrangement as it is.
    """
    fitted = option.injectors
    if fitted is None or option.carburettor is not None:
        raise KeyError("there are no port injectors")
    manifold = _manifold_kpa(build, target)
    bases = {one.name: one.base_kpa for one in needed_bases(build, option, target)} if needed else {}
    series: list[Series] = []
    for name, one, is_fitted in arrangements(build, option):
        base = bases[name] if needed else option.regulator.base_kpa
        if base is None:
            continue
        flow = _flow_g_s(build, _on(one, base), target, manifold)
        said = name + f", {base:.0f} kPa" * needed + ", as fitted" * is_fitted
        same = next((at for at, had in enumerate(series) if np.allclose(had.y, flow, rtol=ALIKE)), None)
        if same is None:
            series.append(Series(said, manifold, flow, "main" if is_fitted else "each"))
        else:
            # Two that inject alike are one line.
            had = series[same]
            kind: Literal["main", "each"] = "main" if is_fitted or had.kind == "main" else "each"
            series[same] = replace(had, label=f"{had.label}; {said[0].lower()}{said[1:]}", kind=kind)
    now = _flow_g_s(build, option, target, manifold)
    for words, other in _neighbours(fitted.part, catalogue):
        share = rated_at_300_kpa(other) / rated_at_300_kpa(fitted.part)
        series.append(Series(f"{words}, {other.name}", manifold, floats(now * share), "pale"))
    if per_cent:
        at = int(np.flatnonzero(manifold == 0.0)[0])
        series = [replace(one, y=floats(100.0 * one.y / one.y[at])) for one in series if one.kind != "pale"]
    boost = target.boost_kpa
    if not per_cent:
        wanted = _asked_g_s(build, option, target)
        series.append(Series("This target asks", floats([boost]), floats([wanted]), "point"))
    where = "each at the base it needs" if needed else "all at the base fitted"
    of = "per cent of the unboosted flow" if per_cent else "one injector held open"
    y_label, y_name = ("Of the unboosted flow", "flow_pct") if per_cent else ("Flow", "open_g_s")
    title = f"{of[0].upper()}{of[1:]}, {where}"
    return Sweep(title, "Manifold pressure", "manifold_kpa", y_label, y_name, tuple(series))


def _neighbours(part: InjectorPart, catalogue: Catalogue) -> list[tuple[str, InjectorPart]]:
    size = rated_at_300_kpa(part)
    found = (
        ("Next smaller", next(catalogue.injectors_below(size), None)),
        ("Next larger", next(catalogue.injectors_above(size), None)),
    )
    return [(words, one) for words, one in found if one is not None]


def _asked_g_s(build: Build, option: Option, target: Target) -> float:
    """What one injector held open must pass so that the target's pulse is within the duty limit, g/s."""
    rows = judge_rows(case_of(build, option, target))
    load = next(float(one.load[0]) for one in rows.shares if one.component == "injectors")
    return float(rows.solved.points.open_at_set_kg_s[0, 0]) * 1e3 * load
