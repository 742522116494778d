"""No wire above 10 mm² for less than 40 A: volts that only it would keep are won at joints and by parting circuits.

A circuit is chosen for the most its pump can draw; what it really draws is known once the whole is judged.
"""

from ...judge import TargetVerdict, circuits, judge_many
from ...model import Build, Option
from ...solve import LARGE_A, THICKEST_MM2


def slender(
    build: Build, option: Option, verdicts: tuple[TargetVerdict, ...]
) -> tuple[Option, tuple[TargetVerdict, ...]]:
    """The option with such wires as the bench of wiring proposes them, judged again; as it is where there are none."""
    thick = {
        one.path: one.area_proposed_mm2
        for one in circuits(option, verdicts, build.rules)
        if one.fused_a < LARGE_A and one.wiring.area_mm2 > max(THICKEST_MM2, one.area_proposed_mm2)
    }
    if not thick:
        return option, verdicts
    groups = []
    for group in option.pumps:
        area = thick.get(f"pumps/{group.id}/wiring", group.wiring.area_mm2)
        groups.append(group.model_copy(update={"wiring": group.wiring.model_copy(update={"area_mm2": area})}))
    changed = option.model_copy(update={"pumps": tuple(groups)})
    return changed, tuple(judge_many([(build, changed, one) for one in build.targets], ceilings=False))
