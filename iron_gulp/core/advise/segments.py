"""Terminals, pins and pigtail that move with a larger fuse."""

from typing import NamedTuple

from ..model import Edit, PumpPart, Wiring
from ..solve import Place

WORDS: dict[Place, str] = {"terminal": "terminal", "hat pin": "pin through the hat", "pigtail": "pigtail"}


FIELDS = {"terminal_a": "terminals", "hat_pin_a": "pins through the hat", "pigtail_a": "pigtail"}


class Stronger(NamedTuple):
    """Edits that let what lies behind a wire bear a fuse, and what they change, in words."""

    edits: tuple[Edit, ...]
    words: str


def bearing(path: str, wiring: Wiring, part: PumpPart, fuse_a: float) -> Stronger:
    """Each segment stated too weak for a fuse made to bear it; `path` is the circuit's, nothing is said where none is."""
    pump = path.removesuffix("/wiring")
    told = (
        (f"{path}/terminal_a", wiring.terminal_a),
        (f"{path}/hat_pin_a", wiring.hat_pin_a),
        (f"{pump}/part/pigtail_a", part.pigtail_a),
    )
    edits = tuple((field, fuse_a) for field, carries in told if carries is not None and carries < fuse_a)
    return Stronger(edits, renewed(edits))


def renewed(edits: tuple[Edit, ...]) -> str:
    """Those of these segments that edits change, in words."""
    return " and ".join(FIELDS[name] for path, _ in edits if (name := path.rpartition("/")[2]) in FIELDS)
