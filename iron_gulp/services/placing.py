"""Where pump and regulator of a new build sit, and what tank feeds them, as a new user said."""

from iron_gulp.core.model import Build, Option, Pickup, Suction
from iron_gulp.core.physics import M3_S_PER_L_H
from iron_gulp.core.plan import Answers
from iron_gulp.core.plan.design import NEAR_TANK, back_from, suctions
from iron_gulp.core.solve import demand, fuel_state
from iron_gulp.shelf import Shelf

OUTSIDE_PUMP = "pump-gerotor-400"


def placed(shelf: Shelf, build: Build, answers: Answers) -> Build:
    """The build with its tank, pickup, pump and regulator where they were said to be; else as is usual."""
    option = build.options[0]
    tank = option.tank if answers.tank_l is None else option.tank.model_copy(update={"volume_l": answers.tank_l})
    pickup = option.pickup
    if answers.pickup != "by its use":
        pickup = (pickup or Pickup()).model_copy(update={"kind": answers.pickup})
    option = option.model_copy(update={"tank": tank, "pickup": pickup})
    if answers.regulator_sits == "near the tank":
        near = option.regulator.model_copy(update={"arrangement": NEAR_TANK, "reference": "atmosphere"})
        option = option.model_copy(update={"regulator": near, "return_line": back_from(option, NEAR_TANK)})
    if option.lift is None and answers.pumps_sit == "in the tank" and option.suction.place != "in the tank":
        option = option.model_copy(update={"suction": Suction(place="in the tank")})
    if option.lift is None and answers.pumps_sit == "outside" and option.suction.place != "external":
        option = _outside(shelf, build, option)
    return build.model_copy(update={"options": (option,)})


def _outside(shelf: Shelf, build: Build, option: Option) -> Option:
    """Pumps outside, with the hose and the strainer that what they draw takes."""
    needs = [demand(build, one, option).chosen_kg_s / fuel_state(build, one).density_kg_m3 for one in build.targets]
    suction = suctions(option, shelf.catalogue.lines, shelf.catalogue.filters, max(needs) / M3_S_PER_L_H)[-1]
    groups = tuple(one.model_copy(update={"part": shelf.part("pumps", OUTSIDE_PUMP)}) for one in option.pumps)
    return option.model_copy(update={"suction": suction, "pumps": groups})
