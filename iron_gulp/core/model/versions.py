"""Versions of the build file: one step a version, each frozen once released. What is stored takes the same steps."""

from collections.abc import Callable
from typing import Any, Literal

SCHEMA_VERSION: Literal[3] = 3


def _targets(data: dict[str, Any]) -> dict[str, Any]:
    """1 to 2: what the hardware must do is called target."""
    renamed = "duties" in data and "targets" not in data
    return {"targets" if renamed and key == "duties" else key: value for key, value in data.items()}


# What stood in files of version 2 as the default of its day: consumption's spread, and a generic injector's smallest
# pulse by its size (cc/min of n-heptane at 300 kPa, ms).
_SPREAD_PCT, _GENERIC = 4.0, "generic"
_PULSES_MS, _PULSE_MS = ((630.0, 0.35), (1250.0, 0.45), (1600.0, 0.55)), 0.70


def _defaults(data: dict[str, Any]) -> dict[str, Any]:
    """2 to 3: what stood there only as an old default takes today's; what was typed stays."""
    whole: dict[str, Any] = _without_old_pulses(data)
    tolerances = _told(whole.get("tolerances"))
    burnt = _told(tolerances.get("consumption"))
    if burnt.get("spread_pct") == _SPREAD_PCT and not burnt.get("why") and not burnt.get("offset_pct"):
        kept = {key: value for key, value in tolerances.items() if key != "consumption"}
        whole = whole | {"tolerances": kept}
    return whole


def _without_old_pulses(value: Any) -> Any:
    """The same data without smallest pulses that say no more than the size of a generic injector said."""
    if isinstance(value, list):
        return [_without_old_pulses(one) for one in value]
    if not isinstance(value, dict):
        return value
    said = {key: _without_old_pulses(one) for key, one in value.items()}
    if "dead_time_v" in said and "min_pulse_ms" in said and str(said.get("provenance", "")).startswith(_GENERIC):
        rated, at_kpa = said.get("rated_flow_cc_min"), said.get("rated_pressure_kpa", 300.0)
        if isinstance(rated, int | float) and isinstance(at_kpa, int | float) and at_kpa > 0:
            size = rated * (300.0 / at_kpa) ** 0.5
            by_size = next((pulse for most, pulse in _PULSES_MS if size <= most), _PULSE_MS)
            if said["min_pulse_ms"] == by_size:
                del said["min_pulse_ms"]
    return said


DEADHEAD, OVERFLOW_MM = "carburettor, deadhead", 12.0
STEPS: dict[int, Callable[[dict[str, Any]], dict[str, Any]]] = {1: _targets, 2: _defaults}


def completed(data: dict[str, Any]) -> dict[str, Any]:
    """What fields that came later mean in a file that does not say them, told from what it does say.

    A default is for new builds; in an old file it would change what was meant, and with it the verdict. What the file
    says stays; the same data come back where nothing is missing.
    """
    options = data.get("options")
    if not isinstance(options, list):
        return data
    made = [_completed_option(one) for one in options]
    return data if all(one is old for one, old in zip(made, options, strict=True)) else data | {"options": made}


def _completed_option(option: Any) -> Any:
    said = _told(option)
    regulator, lift = _told(said.get("regulator")), _told(said.get("lift"))
    part, count = _told(regulator.get("part")), lift.get("count", 1)
    changed: dict[str, Any] = {}
    if part and "works" not in part and regulator.get("arrangement") == DEADHEAD:
        # Plumbed without a return, it was one made so: there was no other kind to say.
        changed["regulator"] = regulator | {"part": part | {"works": "deadhead"}}
    if lift and "overflow_mm" not in lift and type(count) is int and 1 < count < 100:
        # As wide for several pumps as the default is for one: the overflow was not judged when the file was written.
        changed["lift"] = lift | {"overflow_mm": round(OVERFLOW_MM * count**0.5, 1)}
    return said | changed if changed else option


def _told(value: Any) -> dict[str, Any]:
    """What should be an object; nothing where it is something else, which validation tells."""
    return value if isinstance(value, dict) else {}


def upgraded(data: dict[str, Any], upto: int = SCHEMA_VERSION) -> dict[str, Any]:
    """A build as plain data brought to a version of the schema; data of a version no step is known for stay as they are.

    Data are not judged here: what was wrong before is wrong after.
    """
    version = data.get("schema_version")
    while type(version) is int and version < upto and version in STEPS:
        data = STEPS[version](data) | {"schema_version": version + 1}
        version += 1
    return data
