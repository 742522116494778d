"""Loads of the pumps' circuits: fuse, wire and switch, the worst circuit counts."""

from collections.abc import Iterator

import numpy as np

from ..physics import Floats, floats, smallest_fuse_a
from .cases import Circuit
from .loads import Share, Solved, share


def loads(solved: Solved) -> Iterator[Share]:
    """Highest share any pump's current takes of its fuse, wire or switch, the lift stage's included."""
    amps = [floats(row.max(axis=0)) for row in solved.points.hydraulics.amps]
    if solved.lift is not None:
        amps.append(solved.lift.amps)
    worst = [circuit_load(one, current) for one, current in zip(solved.cases.circuits, amps, strict=True)]
    yield Share("wiring", floats(np.maximum.reduce(worst)), "current of what fuse, wire and switch carry")


def circuit_load(circuit: Circuit, amps: Floats) -> Floats:
    """Highest share a current takes of the fuse (at 1.25 times it), of the wire and of the switch where it sits."""
    into = floats(amps * circuit.before)
    shares = [share(amps, circuit.wire_a), share(into, circuit.switch_a), smallest_fuse_a(into) / circuit.fuse_a]
    return floats(np.maximum.reduce(shares))
