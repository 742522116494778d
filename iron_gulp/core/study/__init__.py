"""Questions asked of the solution: field, sweeps, legs, sizes, staging. This face says what other rooms may use."""

from . import sweeps
from .arrival import Arrival, arrival
from .auxiliary import Sprayed, sprayed
from .bottle import BottleTest, Reading, bottle_test
from .brackets import MEASURES, Bracket, Brackets, within_brackets
from .chance import DRAWS, SEED, Chance, Chances, Matters, chances, what_matters
from .claims import Claim, Said, claim
from .comparing import Comparison, compare
from .corners import CORNERS, Corner, worst_corners
from .envelope import (
    BLENDS,
    Axis,
    Envelope,
    Worth,
    envelope,
    limits_of,
    passed,
    runs_on,
    worth,
)
from .expected import at_expected, burning_as_expected, judged_beside, reserve
from .high_limits import HighLimits, high_limits
from .idle_pulses import IdlePulse, idle_pulses
from .injector_charts import dead_time_over_volts, duty_over_speed
from .lap import Lap, dries, surge_lap
from .legs import legs
from .loops import Loop, following, line_volume_m3, loops
from .matched import Matched, matched
from .measured import (
    FuelTwice,
    Use,
    can_be_read,
    entered_off,
    fitted_part,
    fuel_twice,
    in_use,
    logged_off,
    measures,
    rated_flow,
    uses,
)
from .needed_base import Needed, flow_over_manifold, needed_bases
from .offered import end_rise_kpa, lift_rise_kpa, offered, working_kpa
from .operating import Conditions, judge_at, of_target
from .other_fuels import OnFuel, on_other_fuels
from .overflow import Overflow, overflow
from .permitted import WRONG_PCT, Permitted, permitted, targets_boost_kpa
from .printed_flows import MOST_KPA, Printed, printed
from .pulls import HEAT_OR_TURBO, PullGain, pull_gain
from .references import Arranged, every_arrangement
from .season import SOLD_PCT, at_both_ends
from .size_window import SizeWindow, Window, size_loads, size_window, window_at
from .sizes import Neighbour, neighbours
from .staging import (
    CONDITIONS,
    Field,
    Missing,
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
from .tank_log import PART_POINTS, InTank, tank_log
from .told_tables import PumpDuty, TableCells, pump_duty, table_cells, table_for, told_at
from .uncertain import members

__all__ = [
    "BLENDS",
    "CONDITIONS",
    "CORNERS",
    "DRAWS",
    "HEAT_OR_TURBO",
    "MEASURES",
    "MOST_KPA",
    "PART_POINTS",
    "SEED",
    "SOLD_PCT",
    "WRONG_PCT",
    "Arranged",
    "Arrival",
    "Axis",
    "BottleTest",
    "Bracket",
    "Brackets",
    "Chance",
    "Chances",
    "Claim",
    "Comparison",
    "Conditions",
    "Corner",
    "Envelope",
    "Field",
    "FuelTwice",
    "HighLimits",
    "IdlePulse",
    "InTank",
    "Lap",
    "Loop",
    "Matched",
    "Matters",
    "Missing",
    "Needed",
    "Neighbour",
    "OnFuel",
    "Overflow",
    "Permitted",
    "Place",
    "Printed",
    "PullGain",
    "PumpDuty",
    "Reading",
    "Said",
    "SizeWindow",
    "Sprayed",
    "Stages",
    "Sweep",
    "Switch",
    "TableCells",
    "Use",
    "Window",
    "Worth",
    "arrival",
    "at_both_ends",
    "at_expected",
    "bottle_test",
    "burning_as_expected",
    "can_be_read",
    "chances",
    "claim",
    "compare",
    "dead_time_over_volts",
    "dries",
    "duty_over_speed",
    "end_rise_kpa",
    "entered_off",
    "envelope",
    "every_arrangement",
    "fitted_part",
    "flow_over_manifold",
    "following",
    "fuel_twice",
    "high_limits",
    "idle_pulses",
    "in_use",
    "judge_at",
    "judged_beside",
    "legs",
    "lift_rise_kpa",
    "limits_of",
    "line_volume_m3",
    "logged_off",
    "loops",
    "matched",
    "measures",
    "members",
    "missing_stages",
    "needed_bases",
    "neighbours",
    "of_target",
    "offered",
    "on_other_fuels",
    "operating_field",
    "overflow",
    "passed",
    "permitted",
    "printed",
    "propose",
    "pull_gain",
    "pump_duty",
    "rated_flow",
    "reserve",
    "runs_on",
    "size_loads",
    "size_window",
    "sprayed",
    "stacked_supply",
    "stages_of",
    "stages_of_each",
    "surge_lap",
    "sweeps",
    "switches",
    "table_cells",
    "table_for",
    "tank_log",
    "targets_boost_kpa",
    "told_at",
    "uses",
    "what_matters",
    "window_at",
    "within_brackets",
    "working_kpa",
    "worst_corners",
    "worth",
]
