"""Loads of the pumps' circuits: fuse, wire and switch, and the volts lost; the worst circuit counts."""

from collections.abc import Iterable, Iterator

import numpy as np

from ..physics import Floats, drop_v, floats, smallest_fuse_a
from .cases import Circuit
from .loads import Share, Solved, share


def loads(solved: Solved) -> Iterator[Share]:
    """Highest share any pump's current takes of what its circuit bears, the lift stage's included; then the rules.

    A fuse is to run at 80 % of its rating at most, and a loop to lose no more volts than the shop allows.
    """
    drawn = [floats(row.max(axis=0)) for row in solved.points.hydraulics.amps]
    borne = list(solved.largest_a)
    if solved.lift is not None:
        drawn.append(solved.lift.amps)
        borne.append(solved.lift.amps)
    circuits = solved.cases.circuits
    allowed = solved.cases.targets.wire_drop_v

    into = floats([one * circuit.before for circuit, one in zip(circuits, borne, strict=True)])
    fused = [floats((circuit.on_fuse * into).sum(axis=0)) for circuit in circuits]
    switched = [floats((circuit.on_switch * into).sum(axis=0)) for circuit in circuits]

    def worst(found: Iterable[Floats]) -> Floats:
        return floats(np.maximum.reduce(list(found)))

    carried = worst(map(circuit_load, circuits, borne, fused, switched))
    yield Share("wiring", carried, "largest current of what fuse, wire and switch carry")
    yield Share("fuse", worst(map(fuse_load, circuits, fused)), "1.25 times the largest current of the fuse's rating")
    lost = floats(worst(map(lost_v, circuits, drawn)) / allowed)
    yield Share("wire drop", lost, "volts lost in a pump's loop of those the shop allows")


def circuit_load(circuit: Circuit, amps: Floats, fused: Floats, switched: Floats) -> Floats:
    """Highest share of what the circuit carries of its pump's current, fuse and switch of the currents they carry."""
    shares = [share(amps, circuit.carries_a), share(switched, circuit.switch_a), floats(fused / circuit.fuse_a)]
    return floats(np.maximum.reduce(shares))


def fuse_load(circuit: Circuit, fused: Floats) -> Floats:
    """1.25 times the current its fuse carries: none where no fuse is entered."""
    return floats(smallest_fuse_a(fused) / circuit.fuse_a)


def lost_v(circuit: Circuit, amps: Floats) -> Floats:
    """Volts a current loses in its loop."""
    return drop_v(amps, circuit.ohm)
