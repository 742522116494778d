"""What happens when a regulator's reference line comes off under boost: a stop where it can, a note where it holds."""

from collections.abc import Iterator
from typing import NamedTuple

import numpy as np

from ..judge import TargetVerdict
from ..solve import PEAK
from .base import Context, Finding, Remedy, Value, names
from .regulator import port_side_on_it
from .words import leaner

GOOD = "its own, clamped"
BOOSTED_KPA = 10.0  # below that what comes off is hardly felt


class Lost(NamedTuple):
    """One target with the line off at its peak: gauge pressure left, differential meant and left, kPa; factor of λ."""

    verdict: TargetVerdict
    rail_kpa: float
    meant_kpa: float
    left_kpa: float
    factor: float


def reference_line(context: Context) -> Iterator[Finding]:
    """The reference line comes off under boost: the rail falls to its base pressure and the mixture goes lean."""
    option = context.option
    regulator, bowl = option.regulator, option.carburettor
    electronic = regulator.arrangement == "returnless, speed-controlled"  # it reads a sensor, no line
    if regulator.reference == "atmosphere" or electronic or not (port_side_on_it(context) or bowl is not None):
        return
    lost = [_lost(context, verdict) for verdict in context.verdicts if verdict.target.boost_kpa > BOOSTED_KPA]
    lost = [one for one in lost if one.factor > 1.0]
    good = regulator.reference_line == GOOD
    if not lost or (good and not context.notes):
        return
    worst = max(lost, key=lambda one: (one.factor, one.verdict.target.boost_kpa))
    target, fed = worst.verdict.target, worst.left_kpa > 0.0
    values: dict[str, Value] = {
        "how": regulator.reference_line,
        "boost_kpa": target.boost_kpa,
        "rail_kpa": worst.rail_kpa,
        "left_kpa": worst.left_kpa,
        "meant_kpa": worst.meant_kpa,
        "lean": leaner(worst.factor),
        "target_name": target.name,
        "lambda_meant": f"{target.lambda_:.2f}",
        "lambda_real": f"{target.lambda_ * worst.factor:.2f}" if fed else "",
    }
    after = "if it came off at {boost_kpa} on {target_name} the rail would fall to {rail_kpa}: "
    if bowl is not None:
        after += "the needles would see {left_kpa} instead of {meant_kpa} and the bowls run down."
    elif fed:
        after += "the injectors would see {left_kpa} instead of {meant_kpa}, the mixture go {lean}, λ {lambda_meant} "
        after += "become {lambda_real}."
    else:
        after += "less than the manifold holds, and the injectors would pass nothing."
    told = names([one.verdict for one in lost])
    why = "Under boost that is the end of the engine"
    if good:
        yield Finding(
            "reference-lost",
            "note",
            "regulator",
            "If the reference line comes off",
            "It is its own and clamped; " + after,
            why + ", and nothing on the fuel side tells. Only a cut on rail pressure or on a lean mixture saves it.",
            values,
            told,
            (
                Remedy(
                    "Test the cut on rail pressure or mixture with the line off, and look at both clamps at each service"
                ),
            ),
        )
        return
    yield Finding(
        "reference-line",
        "stop",
        "regulator",
        "The reference line can be lost",
        "It is {how}; " + after,
        why + ". The regulator wants a line of its own from the manifold, of hard hose, clamped at both ends.",
        values,
        told,
        (Remedy("Give it a clamped line of its own", ((context.path("regulator/reference_line"), GOOD),)),),
    )


def _lost(context: Context, verdict: TargetVerdict) -> Lost:
    """A target with the line off at its peak; the direct side of both kinds of injection keeps what it brings."""
    regulator, hyd, boost = context.option.regulator, verdict.points.hydraulics, verdict.target.boost_kpa
    rail = float(hyd.rail_kpa[PEAK])
    behind = float(hyd.set_kpa[PEAK]) - rail if regulator.arrangement == "bypass near the tank" else 0.0
    after = min(rail, regulator.base_kpa - behind)
    meant, left = rail - boost, max(after - boost, 0.0)
    keeps = float(np.sqrt(left / meant)) if meant > 0.0 else 1.0
    whole = float(verdict.points.demand_kg_s[PEAK])
    port = whole if context.option.carburettor is not None else float(verdict.points.metered_kg_s[PEAK])
    with_it = whole - port * (1.0 - keeps)
    return Lost(verdict, after, meant, left, whole / with_it if with_it > 0.0 else float("inf"))


RULES = (reference_line,)
