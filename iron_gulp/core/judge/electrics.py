"""Loads of the pumps' circuits: fuse, wire and switch, and the volts lost; the worst circuit counts."""

from collections.abc import Callable, Iterator

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

    def worst(of: Callable[[Circuit, Floats], Floats], amps: list[Floats]) -> Floats:
        return floats(np.maximum.reduce([of(circuit, one) for circuit, one in zip(circuits, amps, strict=True)]))

    yield Share("wiring", worst(circuit_load, borne), "largest current of what fuse, wire and switch carry")
    yield Share("fuse", worst(fuse_load, borne), "1.25 times the largest current of the fuse's rating")
    lost = floats(worst(lost_v, drawn) / allowed)
    yield Share("wire drop", lost, "volts lost in a pump's loop of those the shop allows")


def circuit_load(circuit: Circuit, amps: Floats) -> Floats:
    """Highest share a current takes of the fuse, of the wire and of the switch where it sits."""
    into = floats(amps * circuit.before)
    shares = [share(amps, circuit.wire_a), share(into, circuit.switch_a), floats(into / circuit.fuse_a)]
    return floats(np.maximum.reduce(shares))


def fuse_load(circuit: Circuit, amps: Floats) -> Floats:
    """1.25 times a current of its fuse: none where no fuse is entered."""
    return floats(smallest_fuse_a(amps * circuit.before) / circuit.fuse_a)


def lost_v(circuit: Circuit, amps: Floats) -> Floats:
    """Volts a current loses in its loop."""
    return drop_v(amps, circuit.ohm)
