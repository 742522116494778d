"""What moves with a pump and its fuse: wire, terminals, pins and pigtail."""

from typing import NamedTuple

from ..model import DesignRules, Edit, PumpPart, Wiring
from ..physics import next_fuse_a, smallest_fuse_a
from ..solve import Place, wire_for_mm2

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


def rewired(path: str, wiring: Wiring, part: PumpPart, amps: float, rules: DesignRules) -> tuple[Edit, ...]:
    """Fuse, wire and what lies behind it for another pump on a circuit; nothing where it bears that pump, or has no fuse.

    Its pigtail may bear less than the fuse of the pump before it: then the fuse is smaller.
    """
    if wiring.fuse_a is None:
        return ()
    fuse = next_fuse_a(float(smallest_fuse_a(amps)))
    if fuse <= wiring.fuse_a and (part.pigtail_a is None or wiring.fuse_a <= part.pigtail_a):
        return ()
    area = max(wire_for_mm2(wiring, amps, fuse, rules.wire_drop_v, rules.wires), wiring.area_mm2)
    return ((f"{path}/fuse_a", fuse), (f"{path}/area_mm2", area), *bearing(path, wiring, part, fuse).edits)


def rewired_words(edits: tuple[Edit, ...]) -> str:
    """What stands behind a pump's name for these: their values are named `fuse_a` and `area_mm2`."""
    stronger = renewed(edits)
    return ", a fuse of {fuse_a} and {area_mm2} of wire" + (f" and {stronger} for {{fuse_a}}" if stronger else "")


def renewed(edits: tuple[Edit, ...]) -> str:
    """Those of these segments that edits change, in words."""
    return " and ".join(FIELDS[name] for path, _ in edits if (name := path.rpartition("/")[2]) in FIELDS)
