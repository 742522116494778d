"""What is made for the car: roads to more power, their cost, combinations. This face says what other rooms may use."""

from .advice import Advice, money, recommended
from .calibrating import calibration_of
from .complexity import Parts, parts_of_it
from .costs import Bill, Cost, bill
from .design import (
    COUNTED,
    KEEPS,
    Beside,
    Design,
    Found,
    Locks,
    Score,
    Search,
    bare,
    beside,
    fewest,
    front_told,
    headroom_of,
    opened,
)
from .differing import choices_of, differences, thrown_away
from .grid import Cell, Grid, combination_grids, grid_blends
from .real_part import Need, needs, with_datum
from .roads import TITLES, Ceiling, Complexity, Road, edits_of, put_right, roads, within
from .sizing import ETHANOL_PCT, Answers, Reason, reasons
from .upgrade import Held, Lane, Step, UpgradeRoad, lanes, road_of, stages_of_targets, upgrade
from .weighing import Weighed, weigh

__all__ = [
    "COUNTED",
    "ETHANOL_PCT",
    "KEEPS",
    "TITLES",
    "Advice",
    "Answers",
    "Beside",
    "Bill",
    "Ceiling",
    "Cell",
    "Complexity",
    "Cost",
    "Design",
    "Found",
    "Grid",
    "Held",
    "Lane",
    "Locks",
    "Need",
    "Parts",
    "Reason",
    "Road",
    "Score",
    "Search",
    "Step",
    "UpgradeRoad",
    "Weighed",
    "bare",
    "beside",
    "bill",
    "calibration_of",
    "choices_of",
    "combination_grids",
    "differences",
    "edits_of",
    "fewest",
    "front_told",
    "grid_blends",
    "headroom_of",
    "lanes",
    "money",
    "needs",
    "opened",
    "parts_of_it",
    "put_right",
    "reasons",
    "recommended",
    "road_of",
    "roads",
    "stages_of_targets",
    "thrown_away",
    "upgrade",
    "weigh",
    "with_datum",
    "within",
]
