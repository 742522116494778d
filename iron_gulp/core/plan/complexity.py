"""How much there is to wire, plumb, tune and watch in a system, as the option states it."""

from dataclasses import dataclass

from ..model import Build, Option, named_alike


@dataclass(frozen=True)
class Parts:
    """Counts of what makes a system complex. The wiring plan refines relays and joints."""

    pumps: int
    controllers: int
    relays: int
    joints: int
    silent: tuple[str, ...]
    tuned: tuple[str, ...]

    @property
    def points(self) -> int:
        """One number to weigh by: a pump or a controller is three points, a relay or a joint one, what fails unseen two,
        what needs tuning one."""
        return 3 * (self.pumps + self.controllers) + self.relays + self.joints + 2 * len(self.silent) + len(self.tuned)


# How much a connector or a joint more weighs by use, and why.
AGES: dict[str, tuple[float, str]] = {
    "street": (1.0, "years and seasons"),
    "track": (1.5, "heat"),
    "drag": (0.5, "few hours, much vibration"),
    "hill climb": (1.0, "vibration"),
    "rally": (2.0, "vibration, water and stones"),
    "salt flat": (1.5, "salt"),
}


@dataclass(frozen=True)
class Ageing:
    """What ages in the dark: electrical connectors and joints of lines, more than before (fewer: negative); how much that
    weighs in this use, 1 on the street, and by what they age."""

    connectors: int
    joints: int
    weight: float
    by: str


def ageing(build: Build, before: Option, after: Option) -> Ageing:
    """What there is to age in one option that another does not have."""
    weight, by = AGES[build.car.use]
    joints = parts_of_it(after).joints - parts_of_it(before).joints
    return Ageing(_connectors(build, after) - _connectors(build, before), joints, weight, by)


def _connectors(build: Build, option: Option) -> int:
    """One an injector, one a pump, one a controller."""
    direct = None if option.high_side is None else option.high_side.injectors
    second = None if option.injectors is None else option.injectors.second
    counts = [one.count or build.engine.cylinders for one in (option.injectors, direct, second) if one is not None]
    parts = parts_of_it(option)
    return sum(counts) + parts.pumps + parts.controllers


def parts_of_it(option: Option) -> Parts:
    """What an option is made of."""
    high, port = option.high_side, option.injectors
    pumps = sum(group.count for group in option.pumps) + (0 if option.lift is None else option.lift.count)
    pumps += 0 if high is None else len(high.pumps)
    returnless = option.regulator.arrangement == "returnless, speed-controlled"
    mixed = high is not None and port is not None and option.mode != "direct only"
    controllers = int(returnless) + int(
        mixed and option.delivery is not None and option.delivery.runs == "a controller of its own"
    )
    boosters = sum(group.booster_v is not None for group in option.pumps)
    controllers += boosters
    controllers += sum(group.count for group in option.pumps if group.part.kind == "brushless" and not returnless)
    electric = [group for group in option.pumps if group.part.kind != "mechanical"]
    switched = [group for group in electric if group.wiring.switch in ("relay", "solid-state relay")]
    relays = sum(group.count for group in switched if not group.wiring.relay)
    relays += 0 if option.lift is None or option.lift.wiring.relay else option.lift.count
    named = [group.wiring for group in switched] + ([] if option.lift is None else [option.lift.wiring])
    relays += len({named_alike("relay")(one) for one in named} - {""})
    lines = [option.feed, option.return_line]
    if returnless:
        lines = [option.feed]
    if option.lift is not None:
        lines.append(option.lift.line)
    if option.suction.line is not None:
        lines.append(option.suction.line)
    branches = () if option.split is None else option.split.branches
    joints = 2 * (len(lines) + len(branches)) + 2 * sum(1 for one in (option.filter, option.suction.filter) if one)
    joints += len(option.feed_passages) + len(option.return_passages) + 2 * (option.feed_cooler is not None)
    joints += 2 * (pumps - 1) + (0 if high is None else 2 * len(high.branches))
    silent = [f"stage {number}" for number, group in enumerate(option.pumps, start=1) if group.staged]
    silent += ["voltage booster"] * boosters
    if option.lift is not None:
        silent.append("lift pump")
    if mixed:
        silent.append("port side")
    if option.auxiliary is not None:
        silent.append("second liquid")
    if port is not None and port.second is not None:
        silent.append("second set")
    tuned = ["injectors"] if port is not None else []
    tuned += ["direct injection"] if high is not None else []
    tuned += ["second set"] if port is not None and port.second is not None else []
    tuned += [f"stage {number}" for number, group in enumerate(option.pumps, start=1) if group.staged]
    tuned += ["pump speed"] if returnless else []
    tuned += ["hand-over"] if mixed else []
    return Parts(pumps, controllers, relays, joints, tuple(silent), tuple(tuned))
