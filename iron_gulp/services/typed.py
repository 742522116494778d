"""In which unit a value was typed, by build and place: a field shows it in that unit for as long as it stands."""

import json
from collections.abc import Mapping
from threading import Lock
from types import MappingProxyType

from iron_gulp.core.model import Build
from iron_gulp.core.plan import Answers
from iron_gulp.storage import SettingRepository
from iron_gulp.units import BenchUnits, quantity_of, unit_said

MOST = 400  # places of a build


class TypedUnits:
    """Units that were typed where the bench has another; they say how a value is shown, never what it is."""

    def __init__(self, settings: SettingRepository):
        self._settings, self._lock = settings, Lock()
        self._known: dict[int, dict[str, str]] = {}

    def of(self, build_id: int) -> Mapping[str, str]:
        """Units by place of a build."""
        with self._lock:
            return MappingProxyType(dict(self._of(build_id)))

    def keep(self, build_id: int, units: Mapping[str, str]) -> None:
        """Keep the units of some places; "" for a place that goes by the bench again."""
        with self._lock:
            known = self._of(build_id)
            now = {**known, **units}
            now = {path: unit for path, unit in now.items() if unit}
            if now == known:
                return
            for path in list(now)[: max(len(now) - MOST, 0)]:
                del now[path]
            self._settings.put(_name(build_id), json.dumps(now))
            self._known[build_id] = now

    def _of(self, build_id: int) -> dict[str, str]:
        if build_id not in self._known:
            text = self._settings.get(_name(build_id))
            self._known[build_id] = {} if text is None else json.loads(text)
        return self._known[build_id]


def units_said(typed: Mapping[str, str], units: BenchUnits) -> dict[str, str]:
    """The units that were typed with answers to the questions of a new build, by question; not those of the bench."""
    found = {name: unit_said(text, name, units) for name, text in typed.items() if name in Answers.model_fields}
    return {name: unit for name, unit in found.items() if unit and unit != units.unit(quantity_of(name)).key}


def places_of(said: Mapping[str, str], build: Build) -> dict[str, str]:
    """Units by place of a new build, of those that were said at its questions."""
    targets, fitted = [f"targets/{one.id}" for one in build.targets], [f"options/{one.id}" for one in build.options[-1:]]
    pump_fuel = [f"targets/{one.id}" for one in build.targets[1:] if one.name == "Pump fuel"]
    later = [f"targets/{one.id}" for one in build.targets if one.when == "later"]
    places = {
        "displacement_l": ["engine/displacement_l"],
        "barometer_kpa": ["car/barometer_kpa"],
        "power_kw": [f"{targets[0]}/power_kw"],
        "pump_fuel_kw": [f"{one}/power_kw" for one in pump_fuel],
        "later_kw": [f"{one}/power_kw" for one in later],
        "boost_kpa": [f"{one}/boost_kpa" for one in targets],
        "base_kpa": [f"options/{one.id}/regulator/base_kpa" for one in build.options],
        "tank_l": [f"options/{one.id}/tank/volume_l" for one in build.options],
        "injector_cc_min": [f"{one}/injectors/part/rated_flow_cc_min" for one in fitted],
        "injector_at_kpa": [f"{one}/injectors/part/rated_pressure_kpa" for one in fitted],
        "feed_mm": [f"{one}/feed/part/bore_mm" for one in fitted],
        "regulator_kpa": [f"{one}/regulator/base_kpa" for one in fitted],
    }
    return {path: unit for name, unit in said.items() for path in places.get(name, ())}


def _name(build_id: int) -> str:
    return f"typed:{build_id}"
