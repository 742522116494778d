"""Two recorded pulls at the same speed: the gain that boost promises against the gain that was got."""

from collections.abc import Sequence
from dataclasses import dataclass

from ..model import Build, Pull

HEAT_OR_TURBO = 0.5  # of the gain promised: below it more boost makes heat rather than air
APART = 10.0  # kPa of boost between two pulls from which a gain can be told


@dataclass(frozen=True)
class PullGain:
    """Gains as shares of the lower pull's power: by the ratio of absolute pressures, and as recorded."""

    low_kpa: float
    high_kpa: float
    expected: float
    got: float

    @property
    def kept(self) -> float:
        """Share of the promised gain that was got."""
        return self.got / self.expected


def pull_gain(build: Build) -> PullGain | None:
    """Two pulls of a build compared: those typed with the engine, else two of the dyno's; None without two."""
    engine = build.engine
    low, high = engine.pull_low_boost_kpa, engine.pull_high_boost_kpa
    before, after = engine.pull_low_power_kw, engine.pull_high_power_kw
    if low is None and high is None and before is None and after is None:
        found = _of_the_dyno(build.pulls)
        if found is None:
            return None
        first, second = found
        low, high, before, after = first.boost_kpa, second.boost_kpa, first.power_kw, second.power_kw
    if low is None or high is None or before is None or after is None:
        return None
    return PullGain(low, high, _ratio(build, low, high) - 1.0, after / before - 1.0)


def _ratio(build: Build, low_kpa: float, high_kpa: float) -> float:
    barometer = build.car.barometer_kpa
    return (barometer + high_kpa) / (barometer + low_kpa)


def _of_the_dyno(pulls: Sequence[Pull]) -> tuple[Pull, Pull] | None:
    """The lowest and highest boost of the newest day with two pulls alike but for boost: fuel, speed and correction."""
    alike: dict[tuple[object, ...], list[Pull]] = {}
    for one in pulls:
        if one.counts == "counts":
            key = (one.day, one.base_fuel, one.ethanol_pct, one.figures, one.correction_ratio, round(one.rpm, -2))
            alike.setdefault(key, []).append(one)
    several = [(key, sorted(ones, key=lambda one: one.boost_kpa)) for key, ones in alike.items()]
    pairs = [(str(key[0]), ones[0], ones[-1]) for key, ones in several if ones[-1].boost_kpa - ones[0].boost_kpa >= APART]
    if not pairs:
        return None
    _, low, high = max(pairs, key=lambda pair: pair[0])
    return low, high
