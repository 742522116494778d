"""Boost permitted on each blend: as far as the system and the compressor hold all the way up, and the targets go.

Boost goes with power from the target's own point, by absolute pressure. The headroom wanted is a margin off the power at
the fuel system's and the compressor's limit; the targets' own boost has none: what that fuel bears is theirs to say
(physics §6).
"""

from collections.abc import Sequence
from dataclasses import dataclass

import numpy as np

from ..judge import boost_at_share
from ..model import Build, Component, Option, Target
from ..physics import Floats, floats
from .envelope import envelope

WRONG_PCT = 10.0  # how much stronger than read the fuel may be
BELOW_PCT = 10.0  # so much below the weakest blend its target still speaks for the fuel
TENS = floats(np.linspace(0.0, 100.0, 11))


@dataclass(frozen=True)
class Permitted:
    """Boost and power permitted on a blend; None where no target says what that fuel bears, or nothing ends it.

    `limit_` is where the fuel system or the compressor ends by itself, `component` what ends it, None where nothing does;
    with the margin off that it is `own_`. `targets_kpa` is the targets' own boost there; `by_targets` where it is the
    lower. `wrong_` are both if the fuel is `WRONG_PCT` points stronger than read.
    """

    ethanol_pct: float
    boost_kpa: float | None
    power_kw: float | None
    by_targets: bool
    targets_kpa: float | None
    component: Component | None
    limit_boost_kpa: float | None
    own_boost_kpa: float | None
    wrong_boost_kpa: float | None
    wrong_power_kw: float | None

    @property
    def untold(self) -> bool:
        """Whether no target says what this fuel bears."""
        return self.targets_kpa is None

    @property
    def without_boost(self) -> bool:
        """Whether the system does not even carry what the engine makes without boost."""
        return self.limit_boost_kpa is not None and self.limit_boost_kpa < 0


def targets_boost_kpa(build: Build, target: Target, ethanol_pct: float) -> float | None:
    """Boost of the targets on a target's base fuel, between their blends; None far below the weakest."""
    most: dict[float, float] = {}
    for one in build.targets:
        if one.base_fuel == target.base_fuel:
            most[one.ethanol_pct] = max(one.boost_kpa, most.get(one.ethanol_pct, one.boost_kpa))
    blends = sorted(most)
    if ethanol_pct < blends[0] - BELOW_PCT:
        return None
    return float(np.interp(ethanol_pct, blends, [most[one] for one in blends]))


def permitted(
    build: Build,
    option: Option,
    target: Target,
    margin: float,
    at: Sequence[float] | Floats = TENS,
    beyond: bool = False,
) -> tuple[Permitted, ...]:
    """Highest boost and power on each blend for the controller, with a `margin` (share) off the system's own limit.

    No more than the targets' own boost, unless the limit of the fuel system itself is asked for (`beyond`).
    """
    read = floats(at)
    true = floats(np.minimum(read + WRONG_PCT, 100.0))
    places, at_place = np.unique(np.concatenate([read, true]), return_inverse=True)
    found = envelope(build, option, target, at=floats(places), rising=True)
    by_air = np.where(np.isnan(found.compressor_kw), np.inf, found.compressor_kw)
    limit = floats(np.minimum(found.limit_kw, by_air)[at_place])
    names: list[Component | None] = [
        "compressor" if by_air[place] < found.limit_kw[place] else found.limiting[place] for place in at_place.tolist()
    ]
    barometer, size = build.car.barometer_kpa, read.size

    def boost(kw: float) -> float:
        share = floats(kw / target.power_kw)
        return float(boost_at_share(floats(target.boost_kpa), floats(barometer), share))

    def power(kpa: float) -> float:
        return target.power_kw * (kpa + barometer) / (target.boost_kpa + barometer)

    def allowed(ends_kw: float, most_kpa: float | None) -> tuple[float | None, float | None, bool]:
        """Boost and power of what ends it and the targets, and whether the targets are the lower."""
        own = ends_kw / (1.0 + margin)
        if beyond or most_kpa is None:
            kept = own if beyond and np.isfinite(own) else None
            return (None, None, False) if kept is None else (boost(kept), kept, False)
        if np.isfinite(own) and boost(own) < most_kpa:
            return boost(own), own, False
        return most_kpa, power(most_kpa), True

    rows = []
    for n in range(size):
        most = targets_boost_kpa(build, target, float(read[n]))
        kpa, kw, by_targets = allowed(float(limit[n]), most)
        wrong_kpa, wrong_kw, _ = allowed(float(limit[size + n]), most)
        ends = float(limit[n]) if np.isfinite(limit[n]) else None
        own = None if ends is None else ends / (1.0 + margin)
        rows.append(
            Permitted(
                float(read[n]),
                kpa,
                kw,
                by_targets,
                most,
                names[n],
                None if ends is None else boost(ends),
                None if own is None else boost(own),
                wrong_kpa,
                wrong_kw,
            )
        )
    return tuple(rows)
