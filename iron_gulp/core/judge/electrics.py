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
    amps = [floats(row.max(axis=0)) for row in solved.points.hydraulics.amps]
    if solved.lift is not None:
        amps.append(solved.lift.amps)
    each = list(zip(solved.cases.circuits, amps, strict=True))
    allowed = solved.cases.targets.wire_drop_v

    def worst(of: Callable[[Circuit, Floats], Floats]) -> Floats:
        return floats(np.maximum.reduce([of(circuit, current) for circuit, current in each]))

    yield Share("wiring", worst(circuit_load), "current of what fuse, wire and switch carry")
    yield Share("fuse", worst(fuse_load), "1.25 times the current of the fuse's rating")
    yield Share("wire drop", floats(worst(lost_v) / allowed), "volts lost in a pump's loop of those the shop allows")


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
