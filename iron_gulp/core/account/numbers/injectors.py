"""Port injectors: idle pulses, and loads of other sizes."""

from collections.abc import Callable, Sequence

from ...model import Component
from ...physics import floats
from ...study import idle_pulses, size_loads
from .base import Asked, Number, Place

_PULSES = {"cold": "cold_ms", "entered": "entered_ms", "hot": "hot_ms"}


def pulse(asked: Asked, place: Place) -> Number:
    """Open time of one idle pulse, without dead time."""
    field = _PULSES[place.case]

    def read(many: Sequence[Asked]) -> list[float]:
        return [
            float(getattr(idle_pulses(build, option)[build.targets.index(target)], field))
            for build, option, target in many
        ]

    if not idle_pulses(asked[0], asked[1]):
        raise KeyError("there are no port injectors")
    return Number(
        f"Idle pulse, {place.case if place.case != 'entered' else 'as entered'}, {asked[2].name}",
        "pulse_ms",
        "pulse = fuel of one pulse at idle ÷ flow of the open injector at idle's pressure",
        read,
    )


def size(what: str, component: Component, asks: str) -> Callable[[Asked, Place], Number]:
    """The highest load of injectors of another size over all targets."""

    def number(asked: Asked, place: Place) -> Number:
        if asked[1].injectors is None or place.at <= 0:
            raise KeyError("there are no port injectors of that size")
        size, pulse = floats([place.at]), None if place.pulse_ms is None else floats([place.pulse_ms])

        def read(many: Sequence[Asked]) -> list[float]:
            found = []
            for build, option, _ in many:
                loads = size_loads(build, option, size, option.regulator.base_kpa, pulse)
                found.append(float(loads[component][0]) * 100.0)
            return found

        label = f"{what} at {place.at:g} cc/min, over all targets"
        return Number(label, "load_pct", f"load = {asks}, highest of all targets", read)

    return number
