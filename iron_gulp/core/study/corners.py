"""Worst corners: a hot day, low volts, worn pumps, altitude, either end of the season's blend, a low tank in a pull."""

from collections.abc import Callable
from dataclasses import dataclass

from ..judge import TargetVerdict, judge_many
from ..model import LIMITS, Build, Option, Target

HOT_FUEL_K, HOT_AIR_K, LOW_V, WORN = 15.0, 20.0, 1.0, 0.10
ALTITUDE_KPA = 79.5  # some 2000 m
STRONGER_PCT, WEAKER_PCT = 10.0, 15.0
LOW_LEVEL_M, PULL_G = 0.10, 1.0
HOTTEST_C, LOWEST_V, LEAST_BAR_KPA = 90.0, 6.0, 40.0

Change = Callable[[Build, Option, Target], tuple[Build, Option, Target]]


def _hot(build: Build, option: Option, target: Target) -> tuple[Build, Option, Target]:
    changes = {
        "fuel_temp_c": min(target.fuel_temp_c + HOT_FUEL_K, HOTTEST_C),
        "charge_temp_c": target.charge_temp_c + HOT_AIR_K,
        "vapour_kpa_abs": None,
    }
    return build, option, target.model_copy(update=changes)


def _low_volts(build: Build, option: Option, target: Target) -> tuple[Build, Option, Target]:
    return build, option, target.model_copy(update={"supply_v": max(target.supply_v - LOW_V, LOWEST_V)})


def _worn(build: Build, option: Option, target: Target) -> tuple[Build, Option, Target]:
    pumps = tuple(one.model_copy(update={"derate_pct": _more_worn(one.derate_pct)}) for one in option.pumps)
    lift = option.lift
    if lift is not None:
        lift = lift.model_copy(update={"derate_pct": _more_worn(lift.derate_pct)})
    return build, option.model_copy(update={"pumps": pumps, "lift": lift}), target


def _more_worn(derate_pct: float) -> float:
    """A pump's loss when what is left of it wears by a tenth, %."""
    return 100.0 - (100.0 - derate_pct) * (1.0 - WORN)


def _altitude(build: Build, option: Option, target: Target) -> tuple[Build, Option, Target]:
    bar = max(min(build.car.barometer_kpa, ALTITUDE_KPA), LEAST_BAR_KPA)
    car = build.car.model_copy(update={"barometer_kpa": bar})
    return build.model_copy(update={"car": car}), option, target


def _blend(points: float) -> Change:
    def changed(build: Build, option: Option, target: Target) -> tuple[Build, Option, Target]:
        if target.base_fuel != "gasoline" and target.ethanol_pct == 0:
            return build, option, target  # a fuel bought pure is that fuel
        pct = min(max(target.ethanol_pct + points, 0.0), 100.0)
        return build, option, target.model_copy(update={"ethanol_pct": pct, "vapour_kpa_abs": None})

    return changed


def _low_tank(build: Build, option: Option, target: Target) -> tuple[Build, Option, Target]:
    suction = option.suction.model_copy(update={"head_m": option.suction.head_m - LOW_LEVEL_M})
    target = target.model_copy(update={"accel_g": max(target.accel_g, PULL_G)})
    return build, option.model_copy(update={"suction": suction}), target


def _all(build: Build, option: Option, target: Target) -> tuple[Build, Option, Target]:
    for change in (_hot, _low_volts, _worn, _blend(STRONGER_PCT), _low_tank):
        build, option, target = change(build, option, target)
    return build, option, target


CORNERS: tuple[tuple[str, str, Change], ...] = (
    ("As entered", "", lambda build, option, target: (build, option, target)),
    ("Hot day", f"fuel {HOT_FUEL_K:g} K and charge {HOT_AIR_K:g} K warmer", _hot),
    ("Low volts", f"{LOW_V:g} V less", _low_volts),
    ("Worn pumps", f"{WORN * 100:g} % of their flow gone", _worn),
    ("Altitude", f"barometer {ALTITUDE_KPA:g} kPa, some 2000 m", _altitude),
    ("Strongest blend", f"{STRONGER_PCT:g} points more ethanol", _blend(STRONGER_PCT)),
    ("Weakest blend", f"{WEAKER_PCT:g} points less", _blend(-WEAKER_PCT)),
    ("Low tank, pulling", f"level {LOW_LEVEL_M * 100:g} cm lower at {PULL_G:g} g", _low_tank),
    ("Hot, low volts, worn, strong, low tank", "all at once", _all),
)


@dataclass(frozen=True)
class Corner:
    """One corner with every target judged in it."""

    name: str
    what: str
    verdicts: tuple[TargetVerdict, ...]

    @property
    def holds(self) -> tuple[bool, ...]:
        """Whether each target stays within every limit."""
        return tuple(
            all(load.load <= 1.0 for load in verdict.loads if load.component in LIMITS) for verdict in self.verdicts
        )


def worst_corners(build: Build, option: Option) -> tuple[Corner, ...]:
    """Every target of a build in every corner; the first is as entered."""
    asked = [change(build, option, target) for _, _, change in CORNERS for target in build.targets]
    judged = iter(judge_many(asked, ceilings=False))
    return tuple(Corner(name, what, tuple(next(judged) for _ in build.targets)) for name, what, _ in CORNERS)
