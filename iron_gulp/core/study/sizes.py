"""One size up, one size down: the neighbours of a line, filter or pump on the shelf, and what each would change."""

from dataclasses import dataclass

from ..judge import TargetVerdict, judge_many
from ..model import (
    Build,
    Catalogue,
    EditError,
    FilterPart,
    LinePart,
    Part,
    PumpPart,
    apply,
    flow_at_400_kpa,
    free_flow,
    same_work,
    value_at,
)
from ..solve import IDLE, PEAK

COARSE_UM = 60.0


@dataclass(frozen=True)
class Neighbour:
    """The next part up or down, and what it changes on this target.

    Supply, losses before the rail, rail at idle, pressure at the pump inlets, what the lift stage brings, and
    pressure of the return line at idle.
    """

    way: str
    part: Part
    supply_change_m3_s: float
    loss_change_kpa: float
    idle_change_kpa: float
    inlet_change_kpa: float
    lift_change_m3_s: float
    return_change_kpa: float


def neighbours(build: Build, verdict: TargetVerdict, path: str, catalogue: Catalogue) -> list[Neighbour]:
    """The neighbours of the part at an edit path; empty when the shelf has none. Raises ValueError where no part is."""
    data = value_at(build, path)
    if not isinstance(data, dict) or "provenance" not in data:
        raise ValueError("there is no part at this path")
    part = _part(data)
    tried = []
    for way, other in (("Down", _next(part, catalogue, -1)), ("Up", _next(part, catalogue, 1))):
        if other is None:
            continue
        try:
            changed = apply(build, [(path, other.model_dump(mode="json"))])
        except EditError:
            continue
        tried.append((way, other, (changed, changed.option(verdict.option.id), verdict.target)))
    found = []
    for (way, other, _), judged in zip(tried, judge_many([asked for _, _, asked in tried], ceilings=False), strict=True):
        after, before = judged.points.hydraulics, verdict.points.hydraulics

        def loss(hyd: object) -> float:
            names = ("feed_kpa", "filter_kpa", "passages_kpa", "split_kpa")
            return sum(float(getattr(hyd, name)[PEAK]) for name in names)

        found.append(
            Neighbour(
                way,
                other,
                float(after.supply_at_set_m3_s[PEAK] - before.supply_at_set_m3_s[PEAK]),
                loss(after) - loss(before),
                float(after.rail_kpa[IDLE] - before.rail_kpa[IDLE]),
                float(after.inlet_kpa[PEAK] - before.inlet_kpa[PEAK]),
                _lifted(judged) - _lifted(verdict),
                float(after.return_kpa[IDLE] - before.return_kpa[IDLE]),
            )
        )
    return found


def _lifted(verdict: TargetVerdict) -> float:
    return 0.0 if verdict.lift is None else verdict.lift.flow_m3_s


def _part(data: dict[str, object]) -> LinePart | FilterPart | PumpPart:
    kind: type[LinePart] | type[FilterPart] | type[PumpPart] = LinePart
    if "curves" in data:
        kind = PumpPart
    elif "grade_um" in data:
        kind = FilterPart
    return kind.model_validate(data)


def _next(part: LinePart | FilterPart | PumpPart, catalogue: Catalogue, step: int) -> Part | None:
    if isinstance(part, LinePart):
        return catalogue.line_next(part, larger=step > 0)
    if isinstance(part, FilterPart):
        # Pre-filters differ in grade from size to size; fine filters must keep theirs.
        coarse = part.grade_um >= COARSE_UM
        alike = [
            one for one in catalogue.filters if one.grade_um == part.grade_um or (coarse and one.grade_um >= COARSE_UM)
        ]
        return _beside(alike, [one.rated_flow_l_h for one in alike], part.rated_flow_l_h, step)
    low = flow_at_400_kpa(part) <= 0  # lift and carburettor pumps make no such pressure: ranked by free flow
    size = free_flow if low else flow_at_400_kpa
    pumps = [one for one in catalogue.pumps if one.kind == part.kind and same_work(one, part)]
    return _beside(pumps, [size(one) for one in pumps], size(part), step)


def _beside(
    parts: list[Part] | list[FilterPart] | list[PumpPart], sizes: list[float], now: float, step: int
) -> Part | None:
    ranked = sorted(zip(sizes, range(len(parts)), strict=True))
    beyond = [(size, at) for size, at in ranked if (size - now) * step > 1e-6]
    if not beyond:
        return None
    return parts[(beyond[0] if step > 0 else beyond[-1])[1]]
