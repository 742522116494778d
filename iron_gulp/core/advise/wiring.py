"""Rules about pump circuits: fuse, wire, switch, ground, feed, relay coils."""

from collections.abc import Callable, Iterator

from ..judge import Circuit, Fault, circuits
from ..physics import AMPACITY_MM2, ampacity_a
from ..solve import COLD_PLACE, GROUND_MOHM, coil_load_a, switch_carries_a
from .base import Context, Finding, Remedy, Severity

FUSE_WHY = "The fuse protects the wire: it must carry 1.25 times the pump's current and never more than the wire does."
CONTACT_WHY = "Contacts weld or burn open; a pump controller overheats and shuts down, at full load first."

# Code, severity, title, text and reason of each fault of a circuit.
_WORDS: dict[Fault, tuple[str, Severity, str, str, str]] = {
    "fuse below 1.25 times the current": (
        "fuse-small",
        "warn",
        "Fuse too small for the pump",
        "{circuit} draws {current_a} for good; its fuse of {fuse_a} wants at most 80 % of its rating.",
        FUSE_WHY,
    ),
    "fuse larger than the wire carries": (
        "fuse-large",
        "stop",
        "The wire burns before the fuse",
        "{circuit}: a fuse of {fuse_a} on a wire that carries {wire_a} ({area_mm2}).",
        FUSE_WHY,
    ),
    "wire too thin": (
        "wire-thin",
        "stop",
        "Wire too thin for the current",
        "{circuit} draws {current_a}; its wire of {area_mm2} carries {wire_a}.",
        FUSE_WHY,
    ),
    "switch too weak": (
        "switch-weak",
        "warn",
        "Relay or controller too weak",
        "{circuit} draws {current_a} through a switch rated {rated_a}.",
        CONTACT_WHY,
    ),
    "switch too hot where it sits": (
        "switch-hot",
        "warn",
        "Pump controller or relay in the heat",
        "{circuit} draws {current_a}; without air and in the heat its switch, rated {rated_a}, keeps about {switch_a}.",
        CONTACT_WHY,
    ),
    "factory feed loses too much": (
        "factory-feed",
        "warn",
        "Factory feed too thin for this pump",
        "{circuit} draws {current_a} and loses {lost_v} on its way through the factory circuit.",
        "Factory pump wiring was made for the factory pump. A relay near the battery with a wire of its own gives the "
        "pump its voltage; the old circuit then only switches the relay's coil.",
    ),
    "painted or shared ground": (
        "ground-painted",
        "warn",
        "Painted or shared ground",
        "{circuit} returns its {current_a} through a painted or shared point: about {ground_mohm} (estimate), {ground_v} "
        "lost there alone.",
        "Half of every circuit is its ground. A painted point looks tight, measures well without load and loses the "
        "pump's voltage under it.",
    ),
    "relay coils too much for their circuit": (
        "coil-load",
        "warn",
        "Relay coils overload the output that switches them",
        "{circuit}: the coils draw {coil_a} from an output or circuit good for {coil_feed_a}.",
        "An overloaded controller output drops its relays, and every pump on them stops at once.",
    ),
}


def _remedies(context: Context, one: Circuit) -> dict[Fault, Callable[[], tuple[Remedy, ...]]]:
    path, wiring = context.path(one.path), one.wiring
    must_carry = max(one.fuse_proposed_a, wiring.fuse_a or 0.0)
    area = next(
        (size for size in AMPACITY_MM2 if float(ampacity_a(size, wiring.copper_temp_c)) >= must_carry), AMPACITY_MM2[-1]
    )
    fuse = Remedy("Fit a fuse of {fuse_a}", ((f"{path}/fuse_a", one.fuse_proposed_a),), {"fuse_a": one.fuse_proposed_a})
    thicker = Remedy("Wire it in {area_mm2}", ((f"{path}/area_mm2", area),), {"area_mm2": area})
    relay = ((f"{path}/switch_a", 40.0), (f"{path}/switch", "relay"))
    fits = one.fuse_proposed_a <= one.wire_carries_a
    return {
        "fuse below 1.25 times the current": lambda: (fuse,),
        "fuse larger than the wire carries": lambda: (fuse, thicker) if fits else (thicker,),
        "wire too thin": lambda: (thicker,),
        "switch too weak": lambda: (Remedy("Feed it through a relay of 40 A", relay),),
        "switch too hot where it sits": lambda: (
            Remedy("Move it where air reaches it", ((f"{path}/switch_place", COLD_PLACE),)),
        ),
        "factory feed loses too much": lambda: (
            Remedy(
                "Give it a relay feed of its own in {area_mm2}",
                (*relay, (f"{path}/area_mm2", max(area, wiring.area_mm2, 4.0)), (f"{path}/connectors_mohm", 8.0)),
                {"area_mm2": max(area, wiring.area_mm2, 4.0)},
            ),
        ),
        "painted or shared ground": lambda: (
            Remedy("Ground it with a wire of its own", ((f"{path}/ground", "own wire to the battery"),)),
            Remedy("Measure the drop across the ground with the pump at full load; 0.1 V is plenty"),
        ),
        "relay coils too much for their circuit": lambda: (
            Remedy(
                "Switch the coils from an output or circuit good for {coil_feed_a}",
                ((f"{path}/coil_feed_a", 5.0),),
                {"coil_feed_a": 5.0},
            ),
        ),
    }


def circuit(context: Context) -> Iterator[Finding]:
    """Every fault of every pump's circuit, the lift stage's included."""
    for one in circuits(context.option, context.verdicts):
        wiring, offered = one.wiring, _remedies(context, one)
        values: dict[str, float | str] = {
            "circuit": one.name,
            "current_a": one.current_a,
            "wire_a": one.wire_carries_a,
            "area_mm2": wiring.area_mm2,
            "fuse_a": wiring.fuse_a or 0.0,
            "rated_a": wiring.switch_a,
            "switch_a": switch_carries_a(wiring),
            "lost_v": one.drop_v,
            "ground_mohm": GROUND_MOHM[wiring.ground],
            "ground_v": GROUND_MOHM[wiring.ground] / 1e3 * one.current_a,
            "coil_a": coil_load_a(wiring, one.pumps),
            "coil_feed_a": wiring.coil_feed_a,
        }
        for fault in one.problems:
            if fault in _WORDS:
                code, severity, title, text, why = _WORDS[fault]
                yield Finding(code, severity, "pump", title, text, why, values, (), offered[fault])


RULES = (circuit,)
