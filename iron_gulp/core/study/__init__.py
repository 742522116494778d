"""Questions asked of the solution: field, sweeps, legs, sizes, staging. This face says what other rooms may use."""

from . import sweeps
from .auxiliary import Sprayed, sprayed
from .bottle import BottleTest, Reading, bottle_test
from .comparing import Comparison, compare
from .high_limits import HighLimits, high_limits
from .lap import Lap, surge_lap
from .legs import legs
from .loops import Loop, following, line_volume_m3, loops
from .offered import end_rise_kpa, lift_rise_kpa, offered, working_kpa
from .operating import Conditions, judge_at, of_target
from .pulls import HEAT_OR_TURBO, PullGain, pull_gain
from .references import Arranged, every_arrangement
from .sizes import Neighbour, neighbours
from .staging import (
    Field,
    Place,
    Stages,
    Switch,
    missing_stages,
    operating_field,
    propose,
    stages_of,
    stages_of_each,
    switches,
)
from .supply import stacked_supply
from .sweeps import Sweep

__all__ = [
    "HEAT_OR_TURBO",
    "Arranged",
    "BottleTest",
    "Comparison",
    "Conditions",
    "Field",
    "HighLimits",
    "Lap",
    "Loop",
    "Neighbour",
    "Place",
    "PullGain",
    "Reading",
    "Sprayed",
    "Stages",
    "Sweep",
    "Switch",
    "bottle_test",
    "compare",
    "end_rise_kpa",
    "every_arrangement",
    "following",
    "high_limits",
    "judge_at",
    "legs",
    "lift_rise_kpa",
    "line_volume_m3",
    "loops",
    "missing_stages",
    "neighbours",
    "of_target",
    "offered",
    "operating_field",
    "propose",
    "pull_gain",
    "sprayed",
    "stacked_supply",
    "stages_of",
    "stages_of_each",
    "surge_lap",
    "sweeps",
    "switches",
    "working_kpa",
]
