"""Numbers of tables opened: a load in a corner, a ceiling elsewhere, a chance, an idle pulse, a value of the sheet."""

from collections.abc import Callable

from ...model import Build, Option, Target
from ..figures import Explanation
from . import ceilings, injectors, loads, odds, sheet, tank
from .base import Asked, Number, Place, moved
from .loads import ARRANGED, PAIRS

NOTHING_MOVES = "None of the fields that were tried moves it, a tenth up or down."


def opened(kind: str, build: Build, option: Option, target: Target, place: Place) -> Explanation:
    """A number of a table with formula, source and what moves it. Raises KeyError where there is no such number."""
    number = NUMBERS[kind]((build, option, target), place)
    value, rows = number.read([(build, option, target)])[0], number.rows
    if rows is None:
        rows = moved(number, build, option, target)
    note = " ".join(one for one in (number.note, "" if rows or number.rows is not None else NOTHING_MOVES) if one)
    return Explanation(kind, number.label, number.name, value, number.formula, number.source, note, rows, number.entered)


NUMBERS: dict[str, Callable[[Asked, Place], Number]] = {
    "load": loads.load,
    "load-on": loads.load_on,
    "bracket": loads.bracket,
    "arranged": loads.arranged,
    "ceiling": ceilings.ceiling,
    "headroom": ceilings.headroom,
    "gain": ceilings.gain,
    "runs-on": ceilings.runs,
    "limit": ceilings.limit,
    "permitted-boost": ceilings.permitted_boost,
    "permitted-power": ceilings.permitted_power,
    "fuel-power": ceilings.on_fuel,
    "fuel-hour": ceilings.fuel_hour,
    "chance": odds.chance,
    "share": odds.share,
    "pulse": injectors.pulse,
    "size-window": injectors.window,
    "size-load": injectors.size("Load of injectors", "injectors", "fuel asked of what passes at the duty limit"),
    "size-idle": injectors.size("Idle of injectors", "injector idle", "smallest repeatable pulse of the one idle needs"),
    "both-sets": injectors.both_sets,
    "measured-set": injectors.measured,
    "fill": tank.fill,
    "arrives": tank.arrives,
    "sheet": sheet.row,
}
__all__ = ["ARRANGED", "NUMBERS", "PAIRS", "Place", "opened"]
