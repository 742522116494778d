"""Idle pulses of every target, cold and hot, against the smallest that repeats and what dead time leaves unsure."""

from dataclasses import dataclass

from ..judge import judge_many
from ..model import COLDEST_C, Build, Option
from ..solve import DEAD_TIME_ERROR, IDLE

HOT_CHARGE_K, HOT_FUEL_K, HOTTEST_FUEL_C = 30.0, 25.0, 90.0


@dataclass(frozen=True)
class IdlePulse:
    """A target's open time of one pulse at idle, ms, and fuel of the smallest that repeats, mg."""

    name: str
    cold_ms: float
    entered_ms: float
    hot_ms: float
    least_ms: float
    least_mg: float
    unsure_mg: float


def idle_pulses(build: Build, option: Option) -> tuple[IdlePulse, ...]:
    """Every target's idle pulses; none without port injectors.

    Mixture and air by volume are those of warm idle: cold, the charge is denser and the pulse longer, so what is too
    short hot is what fails.
    """
    if option.injectors is None or option.mode == "direct only":
        return ()
    part = option.injectors.part
    coldest = COLDEST_C if build.car.coldest_c is None else build.car.coldest_c
    asked = []
    for one in build.targets:
        fuel_c = min(one.fuel_temp_c + HOT_FUEL_K, HOTTEST_FUEL_C)
        cold = one.model_copy(update={"charge_temp_c": coldest, "fuel_temp_c": max(coldest, -40.0)})
        hot = one.model_copy(update={"charge_temp_c": one.charge_temp_c + HOT_CHARGE_K, "fuel_temp_c": fuel_c})
        asked += [(build.model_copy(update={"targets": (each,)}), option, each) for each in (cold, one, hot)]
    judged = judge_many(asked, ceilings=False)
    found = []
    for number, target in enumerate(build.targets):
        cold_one, entered, hot_one = (one.points for one in judged[3 * number : 3 * number + 3])
        mg_ms = float(entered.open_kg_s[IDLE]) * 1e3
        cold_ms, entered_ms, hot_ms = (float(one.effective_ms[IDLE]) for one in (cold_one, entered, hot_one))
        unsure = float(entered.dead_ms[IDLE]) * DEAD_TIME_ERROR * mg_ms
        least = part.smallest_pulse_ms
        found.append(IdlePulse(target.name, cold_ms, entered_ms, hot_ms, least, least * mg_ms, unsure))
    return tuple(found)
