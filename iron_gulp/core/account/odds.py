"""Chances as plain data, units in the key names; what the command line prints and the page of chances shows."""

from typing import Any

from ..model import LIMITS, Build
from ..study import Chances, chances
from .plain import plain

SHARES = (0.05, 0.25, 0.5, 0.75, 0.95)


def chance_report(build: Build, option_id: str | None, draws: int, seed: int) -> dict[str, Any]:
    """Every target on one option over draws. Raises KeyError for an unknown option, ValueError for no draws."""
    if draws < 1:
        raise ValueError("at least one draw is needed")
    option = build.option(option_id)
    found = chances(build, option, draws, seed)
    return {"build": build.name, "option": option.id, "draws": draws, "seed": seed, **of_chances(found)}


def of_chances(found: Chances) -> dict[str, Any]:
    """Share of cars that carry each target and all of them; quantiles of every load, 1 is its ceiling."""
    targets = []
    for one in found.targets:
        loads = {
            component: {f"q{share * 100:02.0f}": plain(value) for share, value in zip(SHARES, values, strict=True)}
            for component in one.loads
            if component in LIMITS
            for values in [one.quantiles(component, SHARES)]
        }
        targets.append(
            {"target": one.target.id, "carried": plain(one.carried), "first_out": one.first_out, "loads": loads}
        )
    return {"carried": plain(found.carried), "targets": targets}
