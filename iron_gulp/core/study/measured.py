"""What measurements make of the tolerances: newest wins, and each use says which (physics §8).

A reading holds for the option and the part it was taken with; its accuracy is then the spread, and how far it lies from
what is entered the offset.
"""

from collections.abc import Iterator
from dataclasses import dataclass

from ..model import Build, Option, Pull, Reading, Target, driveline_share, newest
from ..solve import demand

LOSS_SURE, FUEL_SURE = 0.01, 0.04  # spreads: of a dyno's crank figure, of logged fuel


@dataclass(frozen=True)
class Use:
    """One input of one member as measured: `spread` and `offset` in the tolerance's own unit (shares, V, K, kPa).

    `entered` is what the offset counts from: V, °C, kPa, a share.
    """

    name: str
    member: int
    spread: float
    offset: float
    entered: float
    of: str
    day: str


def measures(build: Build, option: Option, reading: Reading) -> str:
    """Why a reading is not used on an option; empty where it is."""
    if reading.counts != "counts":
        return "set aside"
    if reading.of != "voltage" and reading.option != option.id:
        return "taken on another option"
    fitted = fitted_part(option, reading)
    if fitted is None:
        return "what it was taken on is not fitted any more"
    if fitted != reading.part:
        return f"taken with {reading.part}, not with what is fitted"
    return ""


def fitted_part(option: Option, reading: Reading) -> str | None:
    """The name of the part a reading is about, as fitted; "" where it is about none, None where it is gone."""
    if reading.of == "base pressure":
        return option.regulator.part.name
    if reading.of == "pump flow":
        return next((part for member, part in _pumps(option) if member == reading.member), None)
    if reading.of == "injector flow":
        return next((part for member, part in _sets(option) if member == reading.member), None)
    return ""


def _pumps(option: Option) -> list[tuple[str, str]]:
    """(member, part) of every pump, in the order in which their deviates are drawn."""
    found = [(group.id, group.part.name) for group in option.pumps]
    if option.lift is not None:
        found.append(("lift", option.lift.part.name))
    if option.high_side is not None:
        found += [(f"high {number}", one.part.name) for number, one in enumerate(option.high_side.pumps, start=1)]
    return found


def _sets(option: Option) -> list[tuple[str, str]]:
    """(member, part) of every set of injectors, in the order in which their deviates are drawn."""
    found = []
    if option.injectors is not None:
        found.append(("", option.injectors.part.name))
        if option.injectors.second is not None:
            found.append(("second", option.injectors.second.part.name))
    if option.high_side is not None:
        found.append(("direct", option.high_side.injectors.part.name))
    return found


def rated_flow(option: Option, member: str) -> float:
    """The rated flow of a set of injectors, cc/min, as its part tells it. Raises KeyError for a set not fitted."""
    if member == "direct" and option.high_side is not None:
        return option.high_side.injectors.part.rated_flow_cc_min
    if option.injectors is not None and member in ("", "second"):
        if member == "":
            return option.injectors.part.rated_flow_cc_min
        if option.injectors.second is not None:
            return option.injectors.second.part.rated_flow_cc_min
    raise KeyError(f"no injectors {member!r}")


def can_be_read(option: Option) -> list[tuple[str, str, str]]:
    """(of, member, part) of everything on an option that can be read."""
    found = [("base pressure", "", option.regulator.part.name), ("voltage", "", ""), ("fuel temperature", "", "")]
    found += [("pump flow", member, part) for member, part in _pumps(option)]
    found += [("injector flow", member, part) for member, part in _sets(option)]
    if option.calibration.blend == "measured by a sensor":
        found.append(("ethanol sensor", "", ""))
    return found


def in_use(build: Build, option: Option) -> list[Reading]:
    """The readings that are used on an option: the newest of each thing that can be read."""
    held = [one for one in build.readings if not measures(build, option, one)]
    found = []
    for of, member in dict.fromkeys((one.of, one.member) for one in held):
        one = newest(one for one in held if (one.of, one.member) == (of, member))
        if one is not None:
            found.append(one)
    return found


def uses(build: Build, option: Option, target: Target) -> tuple[Use, ...]:
    """Every input as measured, for a target."""
    found = [use for reading in in_use(build, option) for use in _of_reading(build, option, target, reading)]
    return (*found, *_of_pulls(build, option, target))


def _of_reading(build: Build, option: Option, target: Target, one: Reading) -> Iterator[Use]:
    if one.of == "base pressure":
        entered = option.regulator.base_kpa
        yield Use("base_pressure", 0, one.sure_kpa, one.read_kpa - entered, entered, one.of, one.day)
    elif one.of == "voltage":
        yield Use("voltage", 0, one.sure_v, one.read_v - target.supply_v, target.supply_v, one.of, one.day)
    elif one.of == "fuel temperature":
        off = one.read_c - target.fuel_temp_c
        yield Use("fuel_temperature", 0, one.sure_k, off, target.fuel_temp_c, one.of, one.day)
    elif one.of == "pump flow":
        member = [name for name, _ in _pumps(option)].index(one.member)
        off = entered_off(option, one)
        yield Use("pump_flow", member, one.sure_pct / 100.0, off, 1.0, one.of, one.day)
        yield Use("pump_wear", member, 0.0, 0.0, 1.0, one.of, one.day)
    elif one.of == "injector flow":
        member = [name for name, _ in _sets(option)].index(one.member)
        yield Use("injector_set", member, one.sure_pct / 100.0, entered_off(option, one), 1.0, one.of, one.day)
    else:
        off = (one.known_pct - one.sensor_pct) / 100.0
        for fill in range(len({(each.base_fuel, each.ethanol_pct) for each in build.targets})):
            yield Use("blend_measured", fill, one.sure_pct / 100.0, off, 0.0, one.of, one.day)


def entered_off(option: Option, one: Reading) -> float:
    """How far a pump or a set of injectors lies from what is entered for it, as a share: wear entered counts."""
    if one.of == "injector flow":
        return one.flow_cc_min / rated_flow(option, one.member) - 1.0
    worn = next((group.derate_pct for group in option.pumps if group.id == one.member), 0.0)
    if one.member == "lift" and option.lift is not None:
        worn = option.lift.derate_pct
    return one.share_pct / 100.0 / max(1.0 - worn / 100.0, 0.05) - 1.0


def _of_pulls(build: Build, option: Option, target: Target) -> Iterator[Use]:
    pull = newest(one for one in build.pulls if one.loss is not None)
    if pull is not None and pull.loss is not None:
        entered = driveline_share(build)
        yield Use("driveline", 0, LOSS_SURE, pull.loss - entered, entered, "pull", pull.day)
    fuelled = newest(one for one in build.pulls if one.duty_pct is not None)
    told = ("logged run", "") if build.measured is not None else None if fuelled is None else ("pull", fuelled.day)
    if told is not None and target.school != "air":
        sure = min(FUEL_SURE, build.tolerances.consumption.both[0])  # a log narrows, it never widens
        yield Use("consumption", 0, sure, logged_off(build, target, option), 1.0, *told)


def logged_off(build: Build, target: Target, option: Option) -> float:
    """How far the logged run lies from the consumption expected of a target, as a share; 0 where the log itself sizes."""
    found = demand(build, target, option)
    return 0.0 if found.measured_kg_s is None else found.measured_kg_s / found.expected_kg_s - 1.0


@dataclass(frozen=True)
class FuelTwice:
    """Fuel of a pull told twice: by the controller, and by duty times flow, kg/h; the controller's of the other."""

    pull: Pull
    by_duty_kg_h: float

    @property
    def off(self) -> float:
        """The controller's figure of the other, as a share above it."""
        return (self.pull.fuel_kg_h or 0.0) / self.by_duty_kg_h - 1.0


def fuel_twice(build: Build) -> FuelTwice | None:
    """The newest pull that tells its fuel twice; None without one."""
    pull = newest(one for one in build.pulls if one.duty_pct is not None and one.fuel_kg_h is not None)
    if pull is None:
        return None
    only = build.model_copy(update={"measured": None, "pulls": (pull,)})
    target = build.targets[0]
    crank_kw = pull.as_measured_kw / (1.0 - driveline_share(only))
    same = target.model_copy(
        update={
            "power_kw": crank_kw,
            "power_at": "crank",
            "ethanol_pct": pull.ethanol_pct,
            "base_fuel": pull.base_fuel,
        }
    )
    flow = demand(only, same).measured_kg_s
    return FuelTwice(pull, flow * 3600.0) if flow else None
