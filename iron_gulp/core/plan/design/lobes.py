"""High-pressure pumps that bear how fast an engine turns: their stroke still fills, their follower stays on its lobe.

A cam of fewer lobes asks less of the inlet and of the spring; it is the engine's, and what is chosen later runs on it.
"""

from ...advise import STIFFEST
from ...model import HighPump, HighPumpPart
from ...physics import ETHANOL
from ...physics import high_pressure as hp

SPARE = 1.1  # force of the spring over what just holds the follower
STIFFER, ON_A_CAM = ", stiffer spring", ", on a cam of "
FEWEST_LOBES = 2
FILLS_ON_KPA = 500.0  # above vapour pressure: what an ordinary low side leaves at the inlet
NUMBERS = {2: "two", 3: "three", 4: "four"}


def _strokes(fitted: HighPump) -> float:
    """Strokes of one plunger a turn of the engine."""
    part = fitted.part
    return part.strokes_a_turn * fitted.turns / (part.plungers if part.driven == "several plungers" else 1)


def limit_rpm(fitted: HighPump) -> float:
    """Engine speed from which the spring no longer holds the follower on its lobe (physics §7), an estimate."""
    part = fitted.part
    return float(hp.follower_limit_hz(part.follower_g, part.spring_n, part.stroke_mm)) * 60.0 / _strokes(fitted)


def fills_rpm(fitted: HighPump) -> float:
    """Engine speed up to which the whole stroke fills on an ordinary low side (physics §7), an estimate."""
    part = fitted.part
    swept = hp.stroke_m3(part.plunger_mm, part.stroke_mm) * part.strokes_a_turn * fitted.turns / 60.0  # at 1 rpm
    plungers = part.plungers if part.driven == "several plungers" else 1
    needed = float(hp.head_needed_kpa(part.inlet_area_mm2, ETHANOL.density_15c_kg_m3, swept, plungers))
    return float((FILLS_ON_KPA / needed) ** 0.5)


def on_cam(part: HighPumpPart, lobes: int) -> HighPumpPart:
    """A pump on a cam of no more lobes than so many."""
    if part.driven == "several plungers" or part.lobes <= lobes:
        return part
    name = f"{part.name.split(ON_A_CAM)[0]}{ON_A_CAM}{NUMBERS.get(lobes, lobes)}"
    return part.model_copy(update={"lobes": lobes, "name": name})


def sprung(fitted: HighPump, top_rpm: float) -> HighPump:
    """The pump with the spring that holds its follower up to a speed; as it is where it does, or where none would."""
    limit = limit_rpm(fitted)
    harder = (top_rpm / limit) ** 2 * SPARE
    if limit >= top_rpm or harder > STIFFEST:
        return fitted
    part = fitted.part
    changed = {"spring_n": round(part.spring_n * harder), "name": part.name + STIFFER}
    return fitted.model_copy(update={"part": part.model_copy(update=changed)})


def bearing(fitted: HighPump, power_rpm: float, top_rpm: float) -> HighPump:
    """The pump as an engine has it that makes its power so fast and turns up to `top_rpm`: on a cam of fewer lobes, then
    with a stiffer spring."""
    while fitted.part.driven == "by cam lobes" and fitted.part.lobes > FEWEST_LOBES and power_rpm > fills_rpm(fitted):
        fitted = fitted.model_copy(update={"part": on_cam(fitted.part, fitted.part.lobes - 1)})
    return sprung(fitted, top_rpm)
