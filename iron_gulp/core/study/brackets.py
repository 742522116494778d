"""Parts not known: best and worst case within their brackets, and the one measurement that settles most."""

from collections.abc import Callable, Sequence
from dataclasses import dataclass
from itertools import product
from typing import Any

from ..judge import TargetVerdict, judge_many
from ..model import LIMITS, Build, Option, Unknown

MEASURES = {
    "regulator, wide-open flow": "the lowest pressure it lets the rail come to, adjuster backed off, with a known flow",
    "pumps, flow": "a timed flow-bottle test at pressure and voltage",
    "port injectors, flow": "one of them, held open on a bench",
    "feed, bore": "the smallest true bore of the feed, fittings included",
    "return, bore": "the smallest true bore of the return, the tank end included",
    "filter, drop": "pressure before and after it at full flow",
    "direct injectors, flow": "one of them, on a bench at its own pressure",
    "high-pressure pumps, delivery": "rail pressure in a pull at full load, against its target",
}


@dataclass(frozen=True)
class Bracket:
    """A target within the brackets: its best and worst case, and whether all cases agree that it holds or does not."""

    best: TargetVerdict
    worst: TargetVerdict
    settled: bool
    holds: bool


@dataclass(frozen=True)
class Brackets:
    """Every target, and what to measure first (None where everything is settled): the unknown that moves most alone."""

    targets: tuple[Bracket, ...]
    first: Unknown | None


def within_brackets(build: Build, option: Option) -> Brackets | None:
    """All corners of the brackets judged on every target; None where everything is known."""
    unknown = option.unknown
    if not unknown:
        return None
    corners = [
        _option(option, [(one, share) for one, share in zip(unknown, shares, strict=True)])
        for shares in product(*((one.low_pct / 100.0, one.high_pct / 100.0) for one in unknown))
    ]
    alone = [_option(option, [(one, share)]) for one in unknown for share in (one.low_pct / 100.0, one.high_pct / 100.0)]
    asked = [(build, one, target) for target in build.targets for one in (*corners, *alone)]
    judged = judge_many(asked, ceilings=False)
    each = len(corners) + len(alone)
    found, moves = [], [0.0] * len(unknown)
    for number in range(len(build.targets)):
        verdicts = judged[number * each : number * each + len(corners)]
        singles = judged[number * each + len(corners) : (number + 1) * each]
        holding = [_holds(one) for one in verdicts]
        best, worst = min(verdicts, key=_load), max(verdicts, key=_load)
        found.append(Bracket(best, worst, len(set(holding)) == 1, all(holding)))
        for at in range(len(unknown)):
            moves[at] = max(moves[at], abs(_load(singles[2 * at]) - _load(singles[2 * at + 1])))
    open_ = any(not one.settled for one in found)
    first = max(range(len(unknown)), key=lambda at: moves[at])
    return Brackets(tuple(found), unknown[first] if open_ else None)


def _holds(verdict: TargetVerdict) -> bool:
    return all(load.load <= 1.0 for load in verdict.loads if load.component in LIMITS)


def _load(verdict: TargetVerdict) -> float:
    return min(verdict.first_out.load, 10.0)


def _option(option: Option, shares: Sequence[tuple[Unknown, float]]) -> Option:
    for one, share in shares:
        option = _CHANGES[one.what](option, share)
    return option


def _part(holder: Any, **scaled: float) -> Any:
    """A holder of a part with some of its data scaled."""
    changes = {name: getattr(holder.part, name) * share for name, share in scaled.items()}
    return holder.model_copy(update={"part": holder.part.model_copy(update=changes)})


def _pumps(option: Option, share: float) -> Option:
    def scaled(group: Any) -> Any:
        curves = tuple(
            one.model_copy(update={"flow_l_h": tuple(flow * share for flow in one.flow_l_h)}) for one in group.part.curves
        )
        return group.model_copy(update={"part": group.part.model_copy(update={"curves": curves})})

    return option.model_copy(update={"pumps": tuple(scaled(group) for group in option.pumps)})


def _held(name: str, field: str) -> Callable[[Option, float], Option]:
    def changed(option: Option, share: float) -> Option:
        holder = getattr(option, name)
        return option if holder is None else option.model_copy(update={name: _part(holder, **{field: share})})

    return changed


def _high_pumps(option: Option, share: float) -> Option:
    high = option.high_side
    if high is None:
        return option
    pumps = tuple(_part(one, valve_factor=share) for one in high.pumps)
    return option.model_copy(update={"high_side": high.model_copy(update={"pumps": pumps})})


def _direct(option: Option, share: float) -> Option:
    high = option.high_side
    if high is None:
        return option
    injectors = _part(high.injectors, rated_flow_cc_min=share)
    return option.model_copy(update={"high_side": high.model_copy(update={"injectors": injectors})})


_CHANGES: dict[str, Callable[[Option, float], Option]] = {
    "regulator, wide-open flow": _held("regulator", "capacity_l_h"),
    "pumps, flow": _pumps,
    "port injectors, flow": _held("injectors", "rated_flow_cc_min"),
    "feed, bore": _held("feed", "bore_mm"),
    "return, bore": _held("return_line", "bore_mm"),
    "filter, drop": _held("filter", "rated_drop_kpa"),
    "direct injectors, flow": _direct,
    "high-pressure pumps, delivery": _high_pumps,
}
