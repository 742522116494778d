"""Versions of the build file: one step a version, each frozen once released. What is stored takes the same steps."""

from collections.abc import Callable
from typing import Any, Literal

SCHEMA_VERSION: Literal[2] = 2


def _targets(data: dict[str, Any]) -> dict[str, Any]:
    """1 to 2: what the hardware must do is called target."""
    renamed = "duties" in data and "targets" not in data
    return {"targets" if renamed and key == "duties" else key: value for key, value in data.items()}


DEADHEAD, OVERFLOW_MM = "carburettor, deadhead", 12.0
STEPS: dict[int, Callable[[dict[str, Any]], dict[str, Any]]] = {1: _targets}


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
