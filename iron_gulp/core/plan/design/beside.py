"""What stands beside a design of the front: the same with one part a size larger, dearer and surer."""

from collections.abc import Iterator, Sequence
from dataclasses import dataclass
from typing import TypeVar

from ...advise import find_troubles
from ...judge import judge_many
from ...model import Build, Catalogue, Option, Part, flow_at, rated_at_300_kpa
from ...solve import PEAK
from .choices import told_of
from .circuits import wired
from .found import Design
from .holding import headroom_of

SPARE_KPA = 30.0  # a larger pump loses more on its way
Sold = TypeVar("Sold", bound=Part)


@dataclass(frozen=True)
class Beside:
    """A design with one part a size larger: what it is for, the part, and the whole option."""

    what: str
    part: Part
    option: Option


def beside(build: Build, design: Design, catalogue: Catalogue, wanted: float) -> tuple[Beside, ...]:
    """Neighbours of a design that still keep the headroom wanted (a share) and raise no stop or check it does not."""
    found = list(_larger(build, design, catalogue))
    count = len(build.targets)
    judged = judge_many([(build, one.option, target) for one in found for target in build.targets], ceilings=False)
    stay = {one.code for one in find_troubles(build, design.option, list(design.verdicts), catalogue)}
    kept = []
    for number, one in enumerate(found):
        verdicts = judged[number * count : (number + 1) * count]
        if headroom_of(verdicts, design.ease) < wanted - 1e-9:
            continue
        if all(each.code in stay for each in find_troubles(build, one.option, verdicts, catalogue)):
            kept.append(one)
    return tuple(kept)


def _larger(build: Build, design: Design, catalogue: Catalogue) -> Iterator[Beside]:
    option, alcohol = design.option, any(one.ethanol_pct > 15.0 for one in build.targets)

    def first(parts: Sequence[Sold]) -> Sold | None:
        return next((one for one in parts if one.alcohol_ok or not alcohol), None)

    rise = max(float(one.points.hydraulics.pump_rise_kpa[PEAK]) for one in design.verdicts)
    last = option.pumps[-1]
    pump = first([one for one in catalogue.pumps_above(last.part, rise) if flow_at(one, rise) > flow_at(last.part, rise)])
    if pump is not None:
        group = last.model_copy(update={"part": pump, "wiring": wired(last.wiring, pump, build, rise + SPARE_KPA)})
        yield Beside("pumps", pump, option.model_copy(update={"pumps": (*option.pumps[:-1], group)}))
    port = option.injectors
    if port is not None:
        part = first(list(catalogue.injectors_above(rated_at_300_kpa(port.part))))
        if part is not None:
            fitted = port.model_copy(update={"part": part})
            told = told_of(option.calibration, fitted)
            yield Beside("injectors", part, option.model_copy(update={"injectors": fitted, "calibration": told}))
    feed = first(catalogue.lines_above(option.feed.part))
    if feed is not None:
        yield Beside("feed", feed, option.model_copy(update={"feed": option.feed.model_copy(update={"part": feed})}))
