"""What a choice between systems weighs: numbers from 0 to 10, empty where the car's use says."""

from pydantic import Field

from .parts import Model

# What each use weighs where nobody said otherwise: a road course joints and relays near heat, the street noise and smell,
# a rally what can be reached by hand, a single pull little but that it carries.
BY_USE: dict[str, dict[str, float]] = {
    "street": {"cost": 6, "headroom": 3, "sure": 5, "circuits": 3, "pumps": 5, "silent": 4, "heat": 4, "steps": 2},
    "track": {"cost": 3, "headroom": 6, "sure": 7, "circuits": 7, "pumps": 2, "silent": 8, "heat": 6, "steps": 3},
    "drag": {"cost": 4, "headroom": 7, "sure": 8, "circuits": 3, "pumps": 1, "silent": 5, "heat": 1, "steps": 5},
    "hill climb": {"cost": 4, "headroom": 5, "sure": 7, "circuits": 5, "pumps": 2, "silent": 7, "heat": 2, "steps": 4},
    "rally": {"cost": 4, "headroom": 4, "sure": 7, "circuits": 7, "pumps": 4, "silent": 8, "heat": 4, "steps": 2},
    "salt flat": {"cost": 3, "headroom": 8, "sure": 8, "circuits": 6, "pumps": 1, "silent": 6, "heat": 8, "steps": 2},
}


def _weight(title: str) -> float | None:
    found: float | None = Field(None, ge=0, le=10, title=title)
    return found


class Weights(Model):
    """Weights of a choice; empty ones are the use's."""

    not_asked = ()
    when_empty = dict.fromkeys(("cost", "headroom", "sure", "circuits", "pumps", "silent", "heat", "steps"), "the use's")

    cost: float | None = _weight("Money, all in")
    headroom: float | None = _weight("Least headroom")
    sure: float | None = _weight("Cars that carry every target")
    circuits: float | None = _weight("Relays and joints")
    pumps: float | None = _weight("Pumps and controllers, their noise")
    silent: float | None = _weight("What may fail unseen")
    heat: float | None = _weight("Heat into the fuel at idle")
    steps: float | None = _weight("Pressure steps as stages join")

    def of_use(self, use: str) -> dict[str, float]:
        """Every weight, the use's where none is entered."""
        told = {name: getattr(self, name) for name in type(self).model_fields}
        return {name: BY_USE[use][name] if value is None else value for name, value in told.items()}
