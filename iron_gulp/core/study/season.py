"""What the design does at both ends of what a station sells as its strong blend over the year.

Fuel ethanol is sold from 51 to 83 % ethanol by volume, weakest in the cold season (ASTM D5798; check the edition).
"""

from collections.abc import Sequence

from ..judge import TargetVerdict, judge_many
from ..model import Build, Option, Target

SOLD_PCT = (51.0, 83.0)
STRONG_PCT = 51.0  # targets on at least this are filled from that pump


def at_both_ends(
    build: Build, option: Option, targets: Sequence[Target]
) -> list[tuple[Target, TargetVerdict, TargetVerdict]]:
    """Every target on a strong blend, judged on the weakest and on the strongest of what is sold."""
    strong = [one for one in targets if one.base_fuel == "gasoline" and one.ethanol_pct >= STRONG_PCT]
    asked = [
        (build, option, one.model_copy(update={"ethanol_pct": pct, "vapour_kpa_abs": None}))
        for one in strong
        for pct in SOLD_PCT
    ]
    judged = judge_many(asked, ceilings=False)
    return [(one, judged[2 * n], judged[2 * n + 1]) for n, one in enumerate(strong)]
