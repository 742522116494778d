"""What pumps share: an output, relay, fuse or ground of one name. Where it fails, all on it stop together."""

from collections.abc import Callable
from typing import NamedTuple

from .build import Option
from .elements import LiftStage, PumpGroup, Wiring
from .memory import remembered
from .parts import PumpPart

# Of each thing that circuits may share, by the field its name is entered in: what it is called, and its name.
SHARED: dict[str, tuple[str, Callable[[Wiring], str]]] = {
    "output": ("output", lambda one: one.output),
    "relay": ("relay", lambda one: one.relay),
    "fuse": ("fuse", lambda one: one.fuse),
    "ground_point": ("ground", lambda one: one.ground_point),
}
LIFT = -1  # stands for the lift stage among positions of groups


class Shared(NamedTuple):
    """One thing that several pumps hang on: positions of the groups, the lift stage among them or not, and pumps."""

    field: str
    name: str
    groups: tuple[int, ...]
    lift: bool
    pumps: int

    @property
    def words(self) -> str:
        """What it is, by name: "relay R1"."""
        return f"{SHARED[self.field][0]} {self.name}"


def _circuits(option: Option) -> list[tuple[int, Wiring, int]]:
    """Position, circuit and count of all pumps that have a circuit, the lift stage's last."""
    found = [(at, group.wiring, group.count) for at, group in enumerate(option.pumps) if group.part.kind != "mechanical"]
    return found if option.lift is None else [*found, (LIFT, option.lift.wiring, option.lift.count)]


def named_alike(field: str) -> Callable[[Wiring], str]:
    """The name a circuit gives to what it may share, empty where it is its own; large or small letters are no matter."""
    name = SHARED[field][1]
    return lambda wiring: _words(name(wiring)).casefold()


def _words(name: str) -> str:
    return " ".join(name.split())


def shared_by(option: Option) -> tuple[Shared, ...]:
    """Everything that two pumps or more of an option share, in the order of `SHARED`, then of the groups."""
    return remembered(option, "shared", _shared_by)


def _shared_by(option: Option) -> tuple[Shared, ...]:
    found = []
    for field in SHARED:
        alike = named_alike(field)
        by_name: dict[str, list[tuple[int, Wiring, int]]] = {}
        for one in _circuits(option):
            by_name.setdefault(alike(one[1]), []).append(one)
        for name, several in by_name.items():
            pumps = sum(count for _, _, count in several)
            if name and pumps > 1:
                groups = tuple(at for at, _, _ in several if at != LIFT)
                told = _words(SHARED[field][1](several[0][1]))
                found.append(Shared(field, told, groups, len(groups) < len(several), pumps))
    return tuple(found)


class OnIt(NamedTuple):
    """A circuit with what hangs on its fuse and on its switch: pumps of each circuit, groups in order, then the lift's.

    One fuse has one rating: the smallest that its circuits state. `coils_a` is what all relays on its output draw.
    """

    wiring: Wiring
    part: PumpPart
    fuse_a: float | None
    coils_a: float
    on_fuse: tuple[int, ...]
    on_switch: tuple[int, ...]


def circuits_of(option: Option) -> tuple[OnIt, ...]:
    """Every circuit of an option with what shares its fuse and its switch: one of its own pumps where nothing does."""
    return remembered(option, "circuits shared", _circuits_of)


def _circuits_of(option: Option) -> tuple[OnIt, ...]:
    pumps_of: list[PumpGroup | LiftStage] = [*option.pumps, *([] if option.lift is None else [option.lift])]
    every = [(one.wiring, one.count) for one in pumps_of]
    found = []
    for at, one in enumerate(pumps_of):
        fused, switched = (_hanging(every, at, named_alike(field)) for field in ("fuse", "relay"))
        ratings = [on.fuse_a for (on, _), pumps in zip(every, fused, strict=True) if pumps and on.fuse_a is not None]
        found.append(OnIt(one.wiring, one.part, min(ratings, default=None), _coils_a(every, at), fused, switched))
    return tuple(found)


def _coils_a(every: list[tuple[Wiring, int]], at: int) -> float:
    """What the relays on one circuit's output draw by their coils, A: one relay each pump, but for those of one name."""
    output, relay = named_alike("output"), named_alike("relay")
    own = every[at]
    on_output = [one for one in every if output(one[0]) == output(own[0])] if output(own[0]) else [own]
    coils: dict[str, float] = {}
    for number, (wiring, pumps) in enumerate(on_output):
        if wiring.switch == "relay":
            named = relay(wiring)
            coils[named or f"own {number}"] = wiring.coil_a * (1 if named else pumps)
    return sum(coils.values())


def _hanging(every: list[tuple[Wiring, int]], at: int, alike: Callable[[Wiring], str]) -> tuple[int, ...]:
    """Pumps of each circuit on the thing of one circuit: all that give it the same name, one pump where it has none."""
    name = alike(every[at][0])
    if not name:
        return tuple(int(other == at) for other in range(len(every)))
    return tuple(count if alike(wiring) == name else 0 for wiring, count in every)
