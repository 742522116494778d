"""What is made for the car: roads to more power, their cost, combinations. This face says what other rooms may use."""

from .advice import Advice, money, recommended
from .calibrating import calibration_of
from .costs import Bill, Cost, bill
from .grid import Cell, Grid, combination_grids, grid_blends
from .roads import TITLES, Ceiling, Complexity, Road, edits_of, put_right, roads, within

__all__ = [
    "TITLES",
    "Advice",
    "Bill",
    "Ceiling",
    "Cell",
    "Complexity",
    "Cost",
    "Grid",
    "Road",
    "bill",
    "calibration_of",
    "combination_grids",
    "edits_of",
    "grid_blends",
    "money",
    "put_right",
    "recommended",
    "roads",
    "within",
]
