"""Versions of the build file: one step a version, each frozen once released. What is stored takes the same steps."""

from collections.abc import Callable
from typing import Any, Literal

SCHEMA_VERSION: Literal[2] = 2


def _targets(data: dict[str, Any]) -> dict[str, Any]:
    """1 to 2: what the hardware must do is called target."""
    renamed = "duties" in data and "targets" not in data
    return {"targets" if renamed and key == "duties" else key: value for key, value in data.items()}


STEPS: dict[int, Callable[[dict[str, Any]], dict[str, Any]]] = {1: _targets}


def upgraded(data: dict[str, Any], upto: int = SCHEMA_VERSION) -> dict[str, Any]:
    """A build as plain data brought to a version of the schema; data of a version no step is known for stay as they are.

    Data are not judged here: what was wrong before is wrong after.
    """
    version = data.get("schema_version")
    while type(version) is int and version < upto and version in STEPS:
        data = STEPS[version](data) | {"schema_version": version + 1}
        version += 1
    return data
