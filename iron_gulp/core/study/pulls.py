"""Two recorded pulls at the same speed: the gain that boost promises against the gain that was got."""

from dataclasses import dataclass

from ..model import Build

HEAT_OR_TURBO = 0.5  # of the gain promised: below it more boost makes heat rather than air


@dataclass(frozen=True)
class PullGain:
    """Gains as shares of the lower pull's power: by the ratio of absolute pressures, and as recorded."""

    expected: float
    got: float

    @property
    def kept(self) -> float:
        """Share of the promised gain that was got."""
        return self.got / self.expected


def pull_gain(build: Build) -> PullGain | None:
    """The two pulls of a build compared; None until all four figures are there."""
    engine, barometer = build.engine, build.car.barometer_kpa
    low, high = engine.pull_low_boost_kpa, engine.pull_high_boost_kpa
    before, after = engine.pull_low_power_kw, engine.pull_high_power_kw
    if low is None or high is None or before is None or after is None:
        return None
    return PullGain((barometer + high) / (barometer + low) - 1.0, after / before - 1.0)
