"""Where pumps and regulator sit, where the car leaves it open: in the tank or outside, at the rail or near the tank.

A pump outside is pushed its fuel: below the level, close to the tank, behind a wide hose and a coarse strainer. A
regulator near the tank spares the long return, and corrects nothing of what the feed loses: it is for engines without
boost.
"""

from collections.abc import Sequence
from math import pi

from ...model import WITH_FILTER, Build, Filter, FilterPart, Line, LinePart, Option, Part, PumpPart, Regulator, Suction
from ...physics import M3_S_PER_L_H

AT_RAIL, NEAR_TANK = "bypass after the rail", "bypass near the tank"
COMBINED = "near the tank, the filter in it"  # a way of regulating of its own: with no filter beside it
BELOW_LEVEL_M, HOSE_M, HOSE_K = 0.2, 0.5, 1.0
SUCTION_HOSE, STRAINER_UM = "suction hose", 80.0
DRAWN_SHARE = 1.5  # of the fuel needed: pumps draw what goes back as well
FASTEST_M_S = 1.2  # in a suction hose
NEAR_M = 0.6  # of return from a regulator near the tank
BOOSTED_KPA = 10.0


def may_move_pumps(option: Option) -> bool:
    """Whether main pumps may sit in the tank or outside: electrical ones that a surge tank does not hold."""
    return option.lift is None and all(group.part.kind != "mechanical" for group in option.pumps)


def sits(part: PumpPart, place: Suction, like: PumpPart | None) -> bool:
    """Whether a pump of injection can sit there: a gerotor outside, a turbine in fuel unless it is `like` what is fitted;
    others either way."""
    outside = place.place == "external"
    if part.made_for == ("in the tank" if outside else "outside"):
        return False
    if outside:
        return part.kind != "turbine" or (like is not None and like.kind == "turbine")
    return part.kind != "gerotor"


def suctions(option: Option, lines: Sequence[Part], filters: Sequence[Part], need_l_h: float) -> list[Suction]:
    """As the pumps sit, and the other way where these parts allow it: in the tank, or outside with what that takes."""
    now, flow_l_h = option.suction, need_l_h * DRAWN_SHARE
    if now.place == "external":
        return [now, _at(now, place="in the tank")]
    hoses = [one for one in lines if isinstance(one, LinePart) and one.construction == SUCTION_HOSE]
    wide = [one for one in hoses if _speed(one, flow_l_h) <= FASTEST_M_S]
    if not wide:
        return [now]
    line = Line(part=min(wide, key=lambda one: one.bore_mm), length_m=HOSE_M, k_sum=HOSE_K)
    coarse = [one for one in filters if isinstance(one, FilterPart) and one.grade_um >= STRAINER_UM]
    passing = [one for one in coarse if one.rated_flow_l_h >= flow_l_h]
    strainer = min(passing, key=lambda one: one.rated_flow_l_h, default=None)
    fitted = None if strainer is None else Filter(part=strainer)
    return [now, _at(now, place="external", head_m=BELOW_LEVEL_M, line=line, filter=fitted)]


def _at(now: Suction, **told: object) -> Suction:
    """The suction side of pumps that sit elsewhere; the hanger in the tank bears what it bore."""
    plain = {name: Suction.model_fields[name].default for name in ("head_m", "line", "filter")}
    return now.model_copy(update=plain | told)


def _speed(hose: LinePart, flow_l_h: float) -> float:
    return flow_l_h * M3_S_PER_L_H / (pi / 4.0 * (hose.bore_mm * 1e-3) ** 2)


def may_move_regulator(build: Build, option: Option) -> bool:
    """Whether the regulator may sit near the tank as well as at the rail: of injection, with no boost to follow."""
    unboosted = all(one.boost_kpa <= BOOSTED_KPA for one in build.targets)
    return unboosted and option.regulator.arrangement in (AT_RAIL, NEAR_TANK)


def regulating(arrangement: str, now: Regulator) -> tuple[frozenset[str], dict[str, str]]:
    """How parts work that regulate so, and what of a regulator's place is another then."""
    if arrangement == COMBINED:
        works, arrangement = {WITH_FILTER}, NEAR_TANK
    else:
        works = {"deadhead" if arrangement == "carburettor, deadhead" else "by bypass"}
        works |= {now.part.works} & {WITH_FILTER} if arrangement == now.arrangement else set()
    # The way to the manifold is long from there.
    moved = {"reference": "atmosphere"} if arrangement == NEAR_TANK != now.arrangement else {}
    return frozenset(works), {"arrangement": arrangement, **moved}


def back_from(option: Option, arrangement: str) -> Line:
    """The return as long as its way from where the regulator sits."""
    now, sits = option.return_line, option.regulator.arrangement
    near = arrangement in (NEAR_TANK, COMBINED)
    if near == (sits == NEAR_TANK) or not (near or arrangement == AT_RAIL):
        return now
    return now.model_copy(update={"length_m": NEAR_M if near else option.feed.length_m})
