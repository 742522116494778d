"""Engine speed and boost that a new build assumes where they were not said: what the air for its power takes.

They are found together, target by target: boost first, up to what its fuel is run at; then speed, up to what an engine of
its size turns. What ends there is called a cap.
"""

from math import pi

from iron_gulp.core.model import Build, Engine, Target
from iron_gulp.core.plan import Reason
from iron_gulp.core.solve import demand

AIR_SPARE = 1.08  # boost is assumed so that air makes so much more than the power asked
ENOUGH_AIR = 1.03
LEAST_BOOST_KPA, ROUND_KPA = 30.0, 5.0
# Most boost assumed by the alcohol in the fuel, per cent by volume: gasoline alone knocks first.
CAPS_KPA = ((15.0, 250.0), (45.0, 280.0), (100.0, 320.0))
# Peak speed by what a cylinder displaces, L; the highest engine speed lies above it.
SPEEDS = ((0.3, 8500.0), (0.45, 7200.0), (0.55, 6500.0), (0.65, 6200.0), (99.0, 5600.0))
ABOVE_PEAK_RPM, STEP_RPM = 700.0, 250.0
# Mean piston speed: boosted, breathing alone, and breathing alone in one or two cylinders, which are built to turn.
BLOWN_M_S, ALONE_M_S, FEW_M_S, BORE_OVER_STROKE = 20.0, 22.0, 25.0, 1.15


def usual_rpm(per_cylinder_l: float) -> float:
    """Where engines with cylinders of a size make their power."""
    return next(speed for size, speed in SPEEDS if per_cylinder_l <= size)


def fastest_rpm(engine: Engine) -> float:
    """The most assumed: a mean piston speed that engines of its kind bear, at a stroke shorter than the bore."""
    per_cylinder_l = engine.displacement_l / engine.cylinders
    stroke_m = (4.0 * per_cylinder_l * 1e-3 / (pi * BORE_OVER_STROKE**2)) ** (1.0 / 3.0)
    blown = engine.induction != "naturally aspirated"
    speed = BLOWN_M_S if blown else FEW_M_S if engine.cylinders <= 2 else ALONE_M_S
    return float(max(usual_rpm(per_cylinder_l), speed * 60.0 / (2.0 * stroke_m) // STEP_RPM * STEP_RPM))


def most_boost_kpa(target: Target) -> float:
    """The most boost assumed on a target's fuel."""
    share = 100.0 if target.base_fuel == "methanol" else target.ethanol_pct
    return next(most for pct, most in CAPS_KPA if share <= pct)


def turning_and_boosted(build: Build, speed: bool, boost: bool, assumed: list[Reason]) -> Build:
    """Targets with the speed and the boost their air takes, where these are to be assumed; what was is added in words."""
    engine = build.engine
    fastest = fastest_rpm(engine)
    usual = build.targets[0].rpm
    targets = tuple(_breathing(build, one, fastest if speed else one.rpm, boost) for one in build.targets)
    highest = max(one.rpm for one in targets)
    if speed:
        assumed.insert(0, _speed_told(targets, usual, fastest))
    if boost:
        assumed.append(_boost_told(targets))
    engine = engine.model_copy(update={"max_rpm": max(engine.max_rpm, highest + ABOVE_PEAK_RPM)})
    return build.model_copy(update={"targets": targets, "engine": engine})


def _breathing(build: Build, target: Target, fastest_rpm: float, boost: bool) -> Target:
    most = most_boost_kpa(target)
    while True:
        wanted = _boost_kpa(build, target) if boost else target.boost_kpa
        one = target.model_copy(update={"boost_kpa": min(wanted, most) if boost else wanted})
        short = wanted > most if boost else demand(build, one).air_limited_power_kw < one.power_kw * ENOUGH_AIR
        if not short or target.rpm + STEP_RPM > fastest_rpm:
            return one
        target = target.model_copy(update={"rpm": target.rpm + STEP_RPM})


def _boost_kpa(build: Build, target: Target) -> float:
    """The boost that a target's air takes, rounded up."""
    at_none = demand(build, target.model_copy(update={"boost_kpa": 0.0})).air_limited_power_kw
    boost = build.car.barometer_kpa * (AIR_SPARE * target.power_kw / at_none - 1.0)
    return max(-(-boost // ROUND_KPA) * ROUND_KPA, LEAST_BOOST_KPA)


def _speed_told(targets: tuple[Target, ...], usual: float, fastest: float) -> Reason:
    speeds = sorted({one.rpm for one in targets})
    values: dict[str, float | str] = {"low_rpm": speeds[0], "high_rpm": speeds[-1], "most_rpm": fastest}
    span = "{high_rpm}" if len(speeds) == 1 else "{low_rpm} to {high_rpm}"
    how = "as engines with cylinders of this size do" if speeds == [usual] else "as the air for it takes"
    capped = "; {most_rpm} is the most assumed" if speeds[-1] + STEP_RPM > fastest and speeds[-1] > usual else ""
    return Reason(f"Power peaks at {span}, {how}{capped}.", values, path="targets/t1/rpm")


def _boost_told(targets: tuple[Target, ...]) -> Reason:
    values: dict[str, float | str] = {}
    for number, one in enumerate(targets, start=1):
        values |= {f"t{number}_kpa": one.boost_kpa, f"t{number}_name": one.name}
    boosts = ", ".join(f"{{t{number}_kpa}} on {{t{number}_name}}" for number in range(1, len(targets) + 1))
    caps = [one for one in targets if one.boost_kpa >= most_boost_kpa(one)]
    capped = "".join(f"; on {one.name} that is the most assumed" for one in caps)
    return Reason(f"Boost as the air takes for this power: {boosts}{capped}.", values, path="targets/t1/boost_kpa")
