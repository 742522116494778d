"""Loads against limits: component loads, ceilings, verdict, circuits. This face says what other rooms may use."""

from .air import air_status
from .along import along_bases, along_blends, along_sizes, along_speeds
from .cases import Cases, case_of, circuit_of, refitted, together
from .ceilings import boost_at_share
from .circuits import HABITS, RELAY_FEED_MM2, RELAY_FEED_MOHM, UNSURE, Circuit, Fault, circuits, faults, weakest
from .electrics import circuit_load
from .largest import WIDE_OPEN
from .lifting import Surge
from .loads import KEPT, Status, status_of
from .returning import overrun_bypass_m3_s
from .verdict import (
    JudgedRows,
    Load,
    TargetVerdict,
    judge,
    judge_all,
    judge_many,
    judge_rows,
    power_ceilings_kw,
    worst,
)

__all__ = [
    "HABITS",
    "KEPT",
    "RELAY_FEED_MM2",
    "RELAY_FEED_MOHM",
    "UNSURE",
    "WIDE_OPEN",
    "Cases",
    "Circuit",
    "Fault",
    "JudgedRows",
    "Load",
    "Status",
    "Surge",
    "TargetVerdict",
    "air_status",
    "along_bases",
    "along_blends",
    "along_sizes",
    "along_speeds",
    "boost_at_share",
    "case_of",
    "circuit_load",
    "circuit_of",
    "circuits",
    "faults",
    "judge",
    "judge_all",
    "judge_many",
    "judge_rows",
    "overrun_bypass_m3_s",
    "power_ceilings_kw",
    "refitted",
    "status_of",
    "together",
    "weakest",
    "worst",
]
