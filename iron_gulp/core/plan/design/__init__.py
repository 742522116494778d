"""Design search: complete systems from the shelf, weighed by cost, headroom and complexity. What others may use."""

from .beside import Beside, beside
from .choices import Back, Choices, Metering, Stages, System, option_of, wired
from .fewest import fewest, kinds_of
from .front import ENOUGH_PCT, Score, front_of, headroom_class
from .locks import KEEPS, Kept, Locks
from .search import COUNTED, Design, Found, Search, bare, front_told, headroom_of, opened, prepared

__all__ = [
    "COUNTED",
    "ENOUGH_PCT",
    "KEEPS",
    "Back",
    "Beside",
    "Choices",
    "Design",
    "Found",
    "Kept",
    "Locks",
    "Metering",
    "Score",
    "Search",
    "Stages",
    "System",
    "bare",
    "beside",
    "fewest",
    "front_of",
    "front_told",
    "headroom_class",
    "headroom_of",
    "kinds_of",
    "opened",
    "option_of",
    "prepared",
    "wired",
]
