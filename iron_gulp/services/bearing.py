"""A rail-pressure target is refused in its field above what pump, injectors and relief valve bear."""

import re
from typing import Any

from iron_gulp.core.model import Build
from iron_gulp.units import BenchUnits, show

from .fields import BadValue

_TARGET = re.compile(r"options/([a-z0-9-]+)/high_side/(target/kpa/\d+|idle_target_kpa)")


def within_what_is_borne(build: Build, path: str, value: Any, units: BenchUnits) -> None:
    """Raises BadValue for a rail target above what the option's parts bear. Other edits that bring that about are judged
    by the load and stopped by a finding."""
    found = _TARGET.fullmatch(path)
    option = next((one for one in build.options if found and one.id == found.group(1)), None)
    if option is None or option.high_side is None:
        return
    borne = option.high_side.borne_kpa
    if value > borne:
        raise BadValue(f"pump, injectors and relief valve bear {' '.join(show(borne, 'rail_kpa', units))} at most")
