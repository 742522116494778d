"""From generic to real: what a real part must offer on each line of a system, so that every target keeps its headroom.

Each part's own datum (a pump's flow, an injector's, a bore) is scaled alone and the whole system judged again: the least
that carries every target with the shop's headroom, and the most that still idles, are read where the loads it moves cross
their limits.
"""

from collections.abc import Callable, Iterator, Sequence
from dataclasses import dataclass, replace
from typing import Any

import numpy as np

from ..judge import TargetVerdict, judge_many
from ..model import Build, Component, HighPumpPart, Option, Part, PumpPart, Target, flow_at
from ..physics import Floats, floats
from ..solve import PEAK
from .design.start import ALCOHOL_PCT

SHARES = floats(np.geomspace(0.3, 3.3, 41))
FREED = float(SHARES[-1])  # times what is there: a partner that is no bound
Scale = Callable[[Option, float], Option]
Also = tuple[tuple[str, dict[str, float]], ...]


@dataclass(frozen=True)
class Need:
    """A line: the part at `path`, its datum (`name` ends in the unit) as it `has` it, and what a real one must offer.

    `least` and `most` are None where nothing bounds it within a third and three times what is there; `least_on` and
    `most_on` name the targets that set them. `rise_kpa` is where a pump's flow counts, at its highest table's voltage.
    `also` says what else it must be, as texts with their values. `hopeless`: at no size of it alone, up to three times
    what is there, do its loads keep the headroom wanted; `beside` names the lines that must be larger too (by three at
    most) for `least` to do, where that helps.
    """

    path: str
    title: str
    part: Part
    name: str
    has: float
    least: float | None
    least_on: str
    most: float | None
    most_on: str
    rise_kpa: float | None
    also: Also
    hopeless: bool = False
    beside: tuple[str, ...] = ()

    @property
    def short(self) -> bool:
        """Whether the part falls short of the least, or is more than the most."""
        low = self.least is not None and self.has < self.least * (1.0 - 1e-9)
        return low or (self.most is not None and self.has > self.most * (1.0 + 1e-9))


@dataclass(frozen=True)
class _Line:
    path: str
    title: str
    part: Part
    name: str
    has: float
    scaled: Scale
    least: tuple[Component, ...]
    most: tuple[Component, ...] = ()
    rise_kpa: float | None = None
    also: Also = ()


def needs(build: Build, option: Option) -> tuple[Need, ...]:
    """What a real part must offer on each line of an option, in the order of the path."""
    targets = build.targets
    verdicts = judge_many([(build, option, one) for one in targets], ceilings=False)
    found = list(_lines(build, option, verdicts))
    tried = [line.scaled(option, float(share)) for line in found for share in SHARES]
    judged = judge_many([(build, one, target) for one in tried for target in targets], ceilings=False)
    limit = 1.0 / (1.0 + build.rules.headroom_pct / 100.0)
    size = SHARES.size * len(targets)
    alone = [
        _need(line, judged[number * size : (number + 1) * size], targets, limit) for number, line in enumerate(found)
    ]
    return tuple(
        _freed(build, option, line, found, limit) or need if need.hopeless else need
        for line, need in zip(found, alone, strict=True)
    )


def _freed(build: Build, option: Option, line: _Line, every: Sequence[_Line], limit: float) -> Need | None:
    """What a line must offer with its partners, which move the same loads, much larger; None where that does not help."""
    partners = [one for one in every if one is not line and set(one.least) & set(line.least)]
    wide = option
    for one in partners:
        wide = one.scaled(wide, FREED)
    if not partners:
        return None
    tried = [line.scaled(wide, float(share)) for share in SHARES]
    judged = judge_many([(build, one, target) for one in tried for target in build.targets], ceilings=False)
    need = _need(line, judged, build.targets, limit)
    return None if need.hopeless else replace(need, hopeless=True, beside=tuple(one.title for one in partners))


def _need(line: _Line, judged: Sequence[TargetVerdict], targets: Sequence[Target], limit: float) -> Need:
    def loads(components: Sequence[Component]) -> Floats:
        """The highest of some loads, (shares, targets)."""
        found = [max((one.load(each).load for each in components), default=0.0) for one in judged]
        return floats(found).reshape(SHARES.size, len(targets))

    least = loads(line.least)
    low = _lowest(least, limit)
    high = _highest(loads(line.most), 1.0) if line.most else None
    return Need(
        line.path,
        line.title,
        line.part,
        line.name,
        line.has,
        None if low is None else line.has * low[0],
        "" if low is None else targets[low[1]].name,
        None if high is None else line.has * high[0],
        "" if high is None else targets[high[1]].name,
        line.rise_kpa,
        line.also,
        bool((least[-1] > limit).any()),
    )


def _lowest(loads: Floats, limit: float) -> tuple[float, int] | None:
    """The share from which on no load passes a limit, and which target sets it; None where none does, or all do."""
    bad = np.flatnonzero((loads > limit).any(axis=1))
    if not bad.size or bad[-1] == SHARES.size - 1:
        return None
    return _crossing(loads, int(bad[-1]), int(bad[-1]) + 1, limit)


def _highest(loads: Floats, limit: float) -> tuple[float, int] | None:
    """The share up to which no load passes a limit, and which target sets it."""
    bad = np.flatnonzero((loads > limit).any(axis=1))
    if not bad.size or bad[0] == 0:
        return None
    return _crossing(loads, int(bad[0]), int(bad[0]) - 1, limit)


def _crossing(loads: Floats, bad: int, good: int, limit: float) -> tuple[float, int]:
    """Where between two shares the load crosses, by logarithms; on the safe side where it jumps."""
    target = int(np.argmax(loads[bad]))
    past, within = float(loads[bad, target]), float(loads[good, target])
    if not (np.isfinite(past) and past > limit >= within > 0):
        return float(SHARES[good]), target
    part = (np.log(limit) - np.log(past)) / (np.log(within) - np.log(past))
    share = np.exp(np.log(SHARES[bad]) + part * (np.log(SHARES[good]) - np.log(SHARES[bad])))
    return float(share), target


def with_datum(build: Build, option: Option, path: str, value: float) -> Option:
    """An option whose part at a need's path has another datum; tables keep their shape. Raises KeyError without it."""
    verdicts = judge_many([(build, option, one) for one in build.targets], ceilings=False)
    line = next((one for one in _lines(build, option, verdicts) if one.path == path), None)
    if line is None:
        raise KeyError(path)
    return line.scaled(option, value / line.has)


def _pump(part: PumpPart, share: float) -> PumpPart:
    curves = tuple(
        one.model_copy(update={"flow_l_h": tuple(round(flow * share, 2) for flow in one.flow_l_h)}) for one in part.curves
    )
    return part.model_copy(update={"curves": curves})


def _held(place: str, field: str) -> Scale:
    """A part's datum scaled, at a place in the option."""

    def scaled(option: Option, share: float) -> Option:
        changed: Option = _changed(option, place.split("/"), field, share)
        return changed

    return scaled


def _changed(holder: Any, steps: Sequence[str], field: str, share: float) -> Any:
    if not steps:
        part = holder.part
        return holder.model_copy(update={"part": part.model_copy(update={field: getattr(part, field) * share})})
    inside = _changed(getattr(holder, steps[0]), steps[1:], field, share)
    return holder.model_copy(update={steps[0]: inside})


def _group(number: int) -> Scale:
    def scaled(option: Option, share: float) -> Option:
        groups = list(option.pumps)
        groups[number] = groups[number].model_copy(update={"part": _pump(groups[number].part, share)})
        return option.model_copy(update={"pumps": tuple(groups)})

    return scaled


def _lift(option: Option, share: float) -> Option:
    assert option.lift is not None
    return option.model_copy(update={"lift": option.lift.model_copy(update={"part": _pump(option.lift.part, share)})})


def _moves_cc(part: HighPumpPart) -> float:
    """What a high-pressure pump sweeps in a turn of its own shaft, cc."""
    return float(np.pi / 4.0 * part.plunger_mm**2 * part.stroke_mm * part.strokes_a_turn / 1e3)


def _high_pumps(option: Option, share: float) -> Option:
    """All high-pressure pumps with larger plungers at the same stroke; of several plungers by their displacement."""
    high = option.high_side
    assert high is not None

    def larger(part: HighPumpPart) -> HighPumpPart:
        if part.driven == "several plungers":
            return part.model_copy(update={"displacement_cc": part.displacement_cc * share})
        return part.model_copy(update={"over_stock_pct": ((1.0 + part.over_stock_pct / 100.0) * share - 1.0) * 100.0})

    pumps = tuple(one.model_copy(update={"part": larger(one.part)}) for one in high.pumps)
    return option.model_copy(update={"high_side": high.model_copy(update={"pumps": pumps})})


def _lines(build: Build, option: Option, verdicts: Sequence[TargetVerdict]) -> Iterator[_Line]:
    alcohol = any(one.ethanol_pct > ALCOHOL_PCT or one.base_fuel == "methanol" for one in build.targets)
    fit: Also = (("fit for alcohol", {}),) if alcohol else ()
    yield from _pump_lines(option, verdicts, fit)
    if option.filter is not None:
        part = option.filter.part
        also: Also = (("{grade_um} or finer", {"grade_um": part.grade_um}), *fit)
        yield _simple("filter", "Filter", part, "rated_flow_l_h", ("pumps", "feed"), also)
    yield _simple("feed", "Feed", option.feed.part, "bore_mm", ("feed", "pumps"), fit)
    yield from _injector_lines(option, fit)
    regulator = option.regulator
    if not regulator.arrangement.startswith("returnless"):
        holds: Also = (("holds {base_kpa}", {"base_kpa": regulator.base_kpa}), *fit)
        yield _simple("regulator", "Regulator", regulator.part, "capacity_l_h", ("regulator",), holds)
        if regulator.arrangement != "carburettor, deadhead":
            yield _simple("return_line", "Return", option.return_line.part, "bore_mm", ("regulator", "return"), fit)


def _simple(
    path: str,
    title: str,
    part: Part,
    name: str,
    least: tuple[Component, ...],
    also: Also,
    most: tuple[Component, ...] = (),
) -> _Line:
    return _Line(path, title, part, name, getattr(part, name), _held(path, name), least, most, None, also)


def _pump_lines(option: Option, verdicts: Sequence[TargetVerdict], fit: Also) -> Iterator[_Line]:
    if option.lift is not None:
        lifted = max((one.lift.rise_kpa for one in verdicts if one.lift is not None), default=0.0)
        part = option.lift.part
        yield _Line("lift", "Lift pump", part, "flow_l_h", flow_at(part, lifted), _lift, ("lift",), (), lifted, fit)
    rise = max(float(one.points.hydraulics.pump_rise_kpa[PEAK]) for one in verdicts)
    for number, group in enumerate(option.pumps):
        flow = flow_at(group.part, rise)
        if flow <= 0:
            continue
        title = f"Pump, stage {number + 1}" if len(option.pumps) > 1 else "Pump"
        fuse: Also = (("draws less than its fuse of {fuse_a} carries", {"fuse_a": group.wiring.fuse_a or 0.0}),)
        also = fit if group.wiring.fuse_a is None or group.part.kind == "mechanical" else (*fuse, *fit)
        place = f"pumps/{group.id}"
        yield _Line(place, title, group.part, "flow_l_h", flow, _group(number), ("pumps",), ("regulator",), rise, also)


def _injector_lines(option: Option, fit: Also) -> Iterator[_Line]:
    flow = "rated_flow_cc_min"
    port, high = option.injectors, option.high_side
    if port is not None:
        sets = [("injectors", "Injectors", port.part)]
        sets += [] if port.second is None else [("injectors/second", "Injectors, second set", port.second.part)]
        for place, title, part in sets:
            rated: Also = (("rated at {rated_kpa}", {"rated_kpa": part.rated_pressure_kpa}), *fit)
            yield _simple(place, title, part, flow, ("injectors",), rated, ("injector idle",))
    if high is not None:
        pump, direct = high.pumps[0].part, high.injectors.part
        worked: tuple[Component, ...] = ("high-pressure pump",)
        moved = _moves_cc(pump)
        yield _Line(
            "high_side/pumps/0", "High-pressure pump", pump, "displacement_cc", moved, _high_pumps, worked, (), None, fit
        )
        yield _simple(
            "high_side/injectors", "Direct injectors", direct, flow, ("direct injectors",), fit, ("direct injector idle",)
        )
