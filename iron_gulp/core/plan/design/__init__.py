"""Design search: complete systems from the shelf, weighed by cost, headroom and complexity. What others may use."""

from .beside import Beside, beside
from .choices import USUAL_BASES_KPA, Back, Choices, Metering, Stages, System, option_of
from .circuits import wired
from .ease import Ease, Leave, wanted_of
from .fewest import fewest, kinds_of
from .found import Design, Found
from .front import ENOUGH_PCT, Score, front_of, headroom_class
from .holding import COUNTED, headroom_of, highest, nearest_words, worst_load
from .lobes import bearing
from .local import Cure, curable, cures, leaves_of, locks_for
from .locks import KEEPS, Kept, Lock, Locks, locks_of
from .rewiring import rewired
from .search import Search
from .sitting import NEAR_TANK, back_from, suctions
from .start import bare, prepared
from .telling import front_told, opened

__all__ = [
    "COUNTED",
    "ENOUGH_PCT",
    "KEEPS",
    "NEAR_TANK",
    "USUAL_BASES_KPA",
    "Back",
    "Beside",
    "Choices",
    "Cure",
    "Design",
    "Ease",
    "Found",
    "Kept",
    "Leave",
    "Lock",
    "Locks",
    "Metering",
    "Score",
    "Search",
    "Stages",
    "System",
    "back_from",
    "bare",
    "bearing",
    "beside",
    "curable",
    "cures",
    "fewest",
    "front_of",
    "front_told",
    "headroom_class",
    "headroom_of",
    "highest",
    "kinds_of",
    "leaves_of",
    "locks_for",
    "locks_of",
    "nearest_words",
    "opened",
    "option_of",
    "prepared",
    "rewired",
    "suctions",
    "wanted_of",
    "wired",
    "worst_load",
]
