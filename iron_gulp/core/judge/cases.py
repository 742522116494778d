"""What is judged: systems with their meters, targets and circuits as arrays, put together from the model."""

from collections.abc import Hashable, Sequence
from dataclasses import dataclass, replace

import numpy as np

from ..model import Build, Option, Target, Wiring, circuits_of, remembered
from ..physics import Floats, array, floats, join, shape_of
from ..solve import (
    Demand,
    Meters,
    Systems,
    Targets,
    circuit_carries_a,
    demand_of,
    meters_of,
    open_at_set_kg_s,
    packed,
    switch_carries_a,
    targets_of,
    wire_carries_a,
    wiring_resistance_ohm,
)


@dataclass(frozen=True)
class Circuit:
    """What a pump's circuit stands, A, and the resistance of its loop, Ω, each of shape (systems,).

    `carries_a` is what the wire carries, or the weakest segment stated behind it. The fuse is infinite where none is
    entered. `before` is what fuse and switch carry for each ampere of the pump: more before a booster that works.
    `on_fuse` and `on_switch`, of shape (circuits, systems), are how many pumps of each circuit hang on this one's fuse
    and switch: one of its own, unless it shares them.
    """

    carries_a: Floats
    switch_a: Floats
    fuse_a: Floats
    ohm: Floats
    before: Floats
    on_fuse: Floats
    on_switch: Floats


@dataclass(frozen=True)
class Cases:
    """Systems built alike, each with a target; circuits are those of the groups in order, then of the lift stage.

    `hold_kpa` and `drift_kpa` are the floats' limit and the regulator's drift, for carburettors.
    """

    systems: Systems
    meters: Meters
    targets: Targets
    circuits: tuple[Circuit, ...]
    hold_kpa: Floats
    drift_kpa: Floats

    def demand(self) -> Demand[Floats]:
        """What the targets ask."""
        return demand_of(self.targets)

    def open_at_set_kg_s(self) -> Floats:
        """What injectors or needles pass held open at the set pressure, kg/s."""
        return open_at_set_kg_s(self.systems, self.meters, self.targets)


def circuit_of(wiring: Wiring) -> Circuit:
    """A circuit's limits as a set of one, whatever pump is on it; it shares nothing."""
    return _circuit(wiring, wire_carries_a(wiring), wiring.fuse_a, np.ones((1, 1)), np.ones((1, 1)))


def _circuit(wiring: Wiring, carries_a: float, fuse_a: float | None, on_fuse: Floats, on_switch: Floats) -> Circuit:
    # A wire too hot for its insulation carries nothing at all.
    fuse, ohm = np.inf if fuse_a is None else fuse_a, wiring_resistance_ohm(wiring)
    limits = (array(carries_a), array(switch_carries_a(wiring)), array(fuse), array(ohm))
    return Circuit(*limits, array(1.0), on_fuse, on_switch)


def _circuits(option: Option) -> tuple[Circuit, ...]:
    carried = circuits_of(option)
    return tuple(
        _circuit(
            one.wiring,
            circuit_carries_a(one.wiring, one.part),
            one.fuse_a,
            floats([[n] for n in one.on_fuse]),
            floats([[n] for n in one.on_switch]),
        )
        for one in carried
    )


def _boosted(option: Option, target: Target) -> tuple[Circuit, ...]:
    """The circuits with what goes into their boosters on a target."""
    found: tuple[Circuit, ...] = remembered(option, "circuits", _circuits)
    if all(group.booster_v is None for group in option.pumps):
        return found
    shares = [group.input_share(target.supply_v, target.boost_kpa) for group in option.pumps]
    raised = [replace(one, before=array(share)) for one, share in zip(found, shares, strict=False)]
    return (*raised, *found[len(raised) :])


def case_of(build: Build, option: Option, target: Target) -> Cases:
    """One target on one option."""
    bowl = option.carburettor
    return Cases(
        packed(option),
        meters_of(build, option, target),
        targets_of(build, target, option),
        _boosted(option, target),
        array(np.inf if bowl is None else bowl.highest_kpa),
        array(option.regulator.part.drift_kpa),
    )


def refitted(case: Cases, option: Option, target: Target) -> Cases:
    """The same target on an option that meters alike: only what brings fuel and takes it back is another."""
    return replace(
        case,
        systems=packed(option),
        circuits=_boosted(option, target),
        drift_kpa=array(option.regulator.part.drift_kpa),
    )


def together(cases: Sequence[Cases]) -> list[tuple[list[int], Cases]]:
    """Cases put into sets of systems built alike, with their positions."""
    alike: dict[Hashable, list[int]] = {}
    for position, case in enumerate(cases):
        port = case.meters.port
        shape = (remembered(case.systems, "shape", shape_of), port is None, port is not None and port.second is None)
        alike.setdefault(shape, []).append(position)
    return [(positions, join([cases[position] for position in positions])) for positions in alike.values()]
