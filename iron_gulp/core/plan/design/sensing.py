"""Sensors that follow the system they read: at another base pressure a rail may pass the end of the one fitted."""

from collections.abc import Sequence

from ...advise import Finding
from ...model import Build, EditError, Option, apply

OF_SENSORS = ("sensor-short",)


def resensed(build: Build, option: Option, fatal: Sequence[Finding]) -> Option | None:
    """The option with sensors that reach what it brings them, where nothing else is wrong with it."""
    if not fatal or any(one.code not in OF_SENSORS for one in fatal):
        return None
    edits = [edit for one in fatal for remedy in one.remedies[:1] for edit in remedy.edits]
    try:
        return apply(build.model_copy(update={"options": (option,)}), edits).options[0] if edits else None
    except EditError:
        return None
