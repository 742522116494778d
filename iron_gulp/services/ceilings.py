"""Ceilings of an option: the envelope along an axis, boost permitted, other fuels, and a target moved within it."""

from dataclasses import replace
from functools import lru_cache

import numpy as np

from iron_gulp.core.judge import TargetVerdict
from iron_gulp.core.model import Build, EditError, Option, Target, apply
from iron_gulp.core.physics import Floats, floats
from iron_gulp.core.study import (
    BLENDS,
    Axis,
    Envelope,
    OnFuel,
    Permitted,
    envelope,
    judged_beside,
    on_other_fuels,
    permitted,
)
from iron_gulp.storage import NotFound

from .edits import Edits, Outcome
from .judging import Bench, Judged, Judging, parsed
from .starter import copy_of, fresh_name

_KEPT = 24
_COARSE = 21  # places where every power is solved whole


class Ceilings:
    """What the page of ceilings shows and does."""

    def __init__(self, judging: Judging, edits: Edits):
        self._judging, self._edits = judging, edits

    @staticmethod
    def envelope(bench: Bench, axis: Axis = "ethanol_pct", rising: bool = False) -> Envelope:
        """Ceilings of the option on the bench on its target, along an axis."""
        return _envelope(bench.stored.body, bench.option.id, bench.verdict.target.id, axis, rising)

    @staticmethod
    def on_each_target(bench: Bench) -> list[Envelope]:
        """Ceilings over blends on every target."""
        targets = bench.build.targets
        return [_envelope(bench.stored.body, bench.option.id, one.id, "ethanol_pct", False) for one in targets]

    @staticmethod
    def permitted(bench: Bench, beyond: bool = False) -> tuple[Permitted, ...]:
        """Boost permitted on each blend, with the shop's headroom as the margin; `beyond` the targets' own."""
        return _permitted(bench.stored.body, bench.option.id, bench.verdict.target.id, beyond)

    @staticmethod
    def permitted_on(body: str, option_id: str, target_id: str) -> tuple[Permitted, ...]:
        """The same of a stored build. Raises KeyError for an unknown option."""
        return _permitted(body, option_id, target_id, False)

    @staticmethod
    def on_other_fuels(bench: Bench) -> tuple[OnFuel, ...]:
        """Fuels that are no blend on the target on the bench."""
        return on_other_fuels(bench.build, bench.option, bench.verdict.target)

    def moved(self, build_id: int, option_id: str, target_id: str, ethanol_pct: float, power_kw: float) -> Bench:
        """The bench as it would be with a target moved; nothing is stored and no ceiling is worked out.

        Raises NotFound; EditError where the target cannot be there.
        """
        bench = self._judging.bench(build_id, option_id, target_id)
        build = apply(bench.build, _edits(bench.verdict.target.id, ethanol_pct, power_kw))
        option = build.option(bench.option.id)
        (fresh,), (burning,) = judged_beside(build, option, [build.target(bench.verdict.target.id)], ceilings=False)
        verdicts = _with(bench.judged.verdicts, fresh)
        judged = Judged(build, option, verdicts, (), _with(bench.judged.expected, burning))
        return replace(bench, build=build, option=option, verdict=fresh, judged=judged)

    def target_on(self, build_id: int, base: int, target_id: str, ethanol_pct: float) -> Outcome:
        """Add a target like one, on another blend, as one revision: what that fuel bears is then to be said there.

        Raises NotFound.
        """

        def added(build: Build) -> list[tuple[str, object]]:
            every = [one.model_dump(mode="json", by_alias=True) for one in build.targets]
            if target_id not in {one.id for one in build.targets}:
                raise NotFound(f"there is no target {target_id!r}")
            like = build.target(target_id).model_dump(mode="json", by_alias=True)
            fresh = {**copy_of(like, "t", every), "name": fresh_name(f"E{ethanol_pct:g}", [one["name"] for one in every])}
            return [("targets", [*every, fresh | {"ethanol_pct": ethanol_pct, "vapour_kpa_abs": None}])]

        return self._edits.change(build_id, base, added, f"a target on E{ethanol_pct:g}", "")

    def move(self, build_id: int, base: int, target_id: str, ethanol_pct: float, power_kw: float) -> Outcome:
        """Move a target to another blend and power, as one revision. Raises NotFound."""
        return self._edits.make(build_id, base, _edits(target_id, ethanol_pct, power_kw), "target moved")


def _edits(target_id: str, ethanol_pct: float, power_kw: float) -> list[tuple[str, object]]:
    where = f"targets/{target_id}"
    return [(f"{where}/ethanol_pct", ethanol_pct), (f"{where}/power_kw", power_kw)]


def _places(build: Build, option: Option, target: Target, axis: Axis, rising: bool) -> Floats:
    """Where along an axis the ceilings are worked out; the target's own place is one of them."""
    count = _COARSE if rising or option.carburettor is not None else BLENDS.size
    if axis == "ethanol_pct":
        return floats(np.unique([*np.linspace(0.0, 100.0, count), target.ethanol_pct]))
    if axis == "rpm":
        low, high = min(2.0 * build.engine.idle_rpm, target.rpm), max(build.engine.max_rpm, target.rpm)
        return _round_places(low, high, 100.0 if count > _COARSE else 250.0, target.rpm)
    part, base = option.regulator.part, option.regulator.base_kpa
    return _round_places(min(part.min_base_kpa, base), max(part.max_base_kpa, base), 10.0, base)


def _with(verdicts: tuple[TargetVerdict, ...], fresh: TargetVerdict) -> tuple[TargetVerdict, ...]:
    return tuple(fresh if one.target.id == fresh.target.id else one for one in verdicts)


def _round_places(low: float, high: float, step: float, own: float) -> Floats:
    """Multiples of a step within a range, its ends and one more place."""
    return floats(np.unique([low, *np.arange(np.ceil(low / step) * step, high, step), high, own]))


@lru_cache(maxsize=_KEPT)
def _envelope(body: str, option_id: str, target_id: str, axis: Axis, rising: bool) -> Envelope:
    build = parsed(body)
    option, target = build.option(option_id), build.target(target_id)
    return envelope(build, option, target, axis, _places(build, option, target, axis, rising), rising)


@lru_cache(maxsize=_KEPT)
def _permitted(body: str, option_id: str, target_id: str, beyond: bool) -> tuple[Permitted, ...]:
    build = parsed(body)
    margin = build.rules.headroom_pct / 100.0
    return permitted(build, build.option(option_id), build.target(target_id), margin, beyond=beyond)


__all__ = ["Axis", "Ceilings", "EditError"]
