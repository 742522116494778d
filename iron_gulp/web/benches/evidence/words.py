"""What pulls of a dyno are used for, in words."""

from collections.abc import Callable, Iterator, Sequence

from iron_gulp.core.model import Build, Target
from iron_gulp.core.study import FuelTwice, PullGain, Use

Quantity = Callable[[float | None, str], str]


def dated(day: str) -> str:
    """A day behind what it is of; nothing where none was entered."""
    return f" of {day}" if day else ""


def loss_words(build: Build, use: Use) -> str:
    """Driveline loss by the dyno's own crank figure."""
    measured = f"{(use.entered + use.offset) * 100:.1f}\u00a0%"
    if build.car.loss_pct is None:
        return f"Driveline loss is {measured} by the dyno's own crank figure{dated(use.day)}."
    entered = f"{use.entered * 100:.1f}\u00a0%"
    return f"The dyno's crank figure{dated(use.day)} makes {measured} driveline loss; {entered} is entered and counts."


def fuel_words(target: Target, use: Use) -> str:
    """What the logged fuel says of the consumption entered."""
    if target.school == "measured":
        return f"{target.name} is sized from the pull{dated(use.day)}."
    off = f"{abs(use.offset) * 100:.1f}\u00a0% {'more' if use.offset > 0 else 'less'} fuel a kilowatt"
    return f"The pull{dated(use.day)} burnt {off} than entered for {target.name}: the chances go by it."


def gain_words(gain: PullGain, quantity: Quantity) -> str:
    """What boost promised and what came."""
    low, high = quantity(gain.low_kpa, "boost_kpa"), quantity(gain.high_kpa, "boost_kpa")
    promised, came = f"{gain.expected * 100:.0f}\u00a0%", f"{gain.got * 100:.0f}\u00a0%"
    return f"From {low} to {high} the pressure ratio promises {promised}, {came} came."


def twice_words(found: FuelTwice, quantity: Quantity) -> str:
    """Fuel by the controller and by duty."""
    computed, made = quantity(found.pull.fuel_kg_h, "fuel_kg_h"), quantity(found.by_duty_kg_h, "fuel_kg_h")
    return f"The controller computes {computed} of fuel, duty and flow make {made}."


def pull_words(
    build: Build,
    target: Target,
    uses: Sequence[Use],
    gain: PullGain | None,
    twice: FuelTwice | None,
    quantity: Quantity,
) -> Iterator[str]:
    """What the pulls are used for, a sentence each."""
    named = {use.name: use for use in uses if use.of == "pull"}
    if "driveline" in named:
        yield loss_words(build, named["driveline"])
    if "consumption" in named:
        yield fuel_words(target, named["consumption"])
    if gain is not None:
        yield gain_words(gain, quantity)
    if twice is not None:
        yield twice_words(twice, quantity)
