"""Rules about pump circuits: fuse, wire, switch, ground, feed, relay coils."""

import re
from collections.abc import Iterator
from functools import partial

import numpy as np

from ..judge import RELAY_FEED_MM2, RELAY_FEED_MOHM, Circuit, Fault, TargetVerdict, weakest
from ..model import Edit
from ..physics import next_fuse_a, next_relay_a, smallest_fuse_a
from ..solve import COLD_PLACE, GROUND_MOHM, PEAK, about_mm2, switch_carries_a, wire_carries_a, wire_for_mm2
from .base import Context, Finding, Remedy, Severity, Value
from .segments import WORDS, bearing
from .wire_drop import circuits_of
from .words import circuits_listed

FUSE_WHY = (
    "The fuse protects the wire: it carries the pump's current with a fifth to spare, and never more than the wire does."
)
FIRE_RATIO = 1.25  # a wire a few per cent over its rating does not burn
CONTACT_WHY = "Contacts weld or burn open; a pump controller overheats and shuts down, at full load first."

# Code, severity, title, text and reason of each fault of a circuit.
_WORDS: dict[Fault, tuple[str, Severity, str, str, str]] = {
    "no fuse entered": (
        "fuse-missing",
        "warn",
        "No fuse in the pump's circuit",
        "{circuit} draws {current_a} through a wire of {area_mm2} with no fuse before it.",
        "A wire that chafes through burns until the battery is empty. The fuse sits at the source, before the wire.",
    ),
    "fuse below the current": (
        "fuse-small",
        "stop",
        "Fuse too small for the pump",
        "{circuit} draws up to {into_a} through its fuse of {fuse_a}: it blows, and the pump stops under load.",
        FUSE_WHY,
    ),
    "fuse run above 80 %": (
        "fuse-warm",
        "note",
        "Fuse run above 80 % of its rating",
        "{circuit} draws up to {into_a} through a fuse of {fuse_a}, {fuse_pct} of its rating.",
        "It holds. A fuse that runs hot for years ages and lets go one day by itself: shops stay at 80 %.",
    ),
    "fuse larger than the wire carries": (
        "fuse-large",
        "stop",
        "The wire burns before the fuse",
        "{circuit}: a fuse of {fuse_a} on a wire that carries {wire_a} ({area_mm2}).",
        FUSE_WHY,
    ),
    "fuse larger than a segment carries": (
        "fuse-segment",
        "stop",
        "What lies behind the wire burns before the fuse",
        "{circuit}: a fuse of {fuse_a} before a {segment} that carries {segment_a}.",
        FUSE_WHY
        + " A terminal, a pin through the hat or a pigtail is often the weakest of it, and the pin sits in vapour.",
    ),
    "fuse larger than an unstated segment": (
        "fuse-unstated",
        "note",
        "A fuse larger than what usually lies behind it",
        "{circuit}: a fuse of {fuse_a}; of its {unstated} nobody has said what it carries, usual is {unstated_a} (class "
        "figure).",
        "A fuse protects the weakest piece behind it. Read off the box what it carries and enter it: one that bears the "
        "fuse ends this note.",
    ),
    "wire too thin": (
        "wire-thin",
        "stop",
        "Wire too thin for the current",
        "{circuit} draws up to {largest_a}; its wire of {area_mm2} carries {wire_a}.",
        FUSE_WHY,
    ),
    "segment too weak": (
        "segment-weak",
        "stop",
        "A terminal, pin or pigtail too weak for the current",
        "{circuit} draws up to {largest_a}; its {segment} carries {segment_a}.",
        "It heats at its joint: plastic softens, the pin in the hat leaks vapour, and the pump loses its volts first.",
    ),
    "switch too weak": (
        "switch-weak",
        "warn",
        "Relay or controller too weak",
        "{circuit} draws up to {switched_a} through a switch rated {rated_a}.",
        CONTACT_WHY,
    ),
    "switch too hot where it sits": (
        "switch-hot",
        "warn",
        "Pump controller or relay in the heat",
        "{circuit} draws up to {switched_a}; in heat, without air, its switch rated {rated_a} keeps about {switch_a}.",
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


def _remedies(context: Context, one: Circuit, fault: Fault) -> tuple[Remedy, ...]:
    """What to do about a fault of one circuit; wire and fuse move together."""
    path, wiring, rules = context.path(one.path), one.wiring, context.build.rules

    def wired(fuse_a: float) -> tuple[Edit, ...]:
        area = wire_for_mm2(wiring, one.current_a, fuse_a, rules.wire_drop_v, rules.wires)
        return ((f"{path}/area_mm2", area),) if area > wiring.area_mm2 else ()

    def fused(label: str, fuse_a: float, first: tuple[Edit, ...] = ()) -> Remedy:
        """Another fuse with all behind it that must bear it."""
        wire = wired(fuse_a) if fuse_a > one.wire_carries_a else ()
        stronger = bearing(path, wiring, one.part, fuse_a)
        with_it = (" and wire in {area_mm2}" if wire else "") + (
            f", {stronger.words} for {{fuse_a}}" if stronger.edits else ""
        )
        values = {"fuse_a": fuse_a, "area_mm2": dict(wire).get(f"{path}/area_mm2", wiring.area_mm2)}
        return Remedy(label + with_it, (*first, (f"{path}/fuse_a", fuse_a), *wire, *stronger.edits), values)

    proposed = one.fuse_proposed_a
    fitted = fused("Fit a fuse of {fuse_a}", proposed)
    must_carry = max(proposed, one.fuse_a or 0.0)
    thick, stronger = wired(must_carry), bearing(path, wiring, one.part, must_carry)
    thicker = Remedy(
        "Wire it in {area_mm2}" + (f", {stronger.words} for {{carry_a}}" if stronger.edits else ""),
        (*thick, *stronger.edits),
        {"area_mm2": thick[0][1] if thick else wiring.area_mm2, "carry_a": must_carry},
    )
    renewed = Remedy(f"Give it {stronger.words} for {{carry_a}}", stronger.edits, {"carry_a": must_carry})
    rated = max(next_relay_a(one.switched_a), 40.0, wiring.switch_a)
    relay: tuple[Edit, ...] = ((f"{path}/switch_a", rated), (f"{path}/switch", "relay"))
    # A circuit a pump comes first: a larger fuse or relay for all leaves them failing together.
    own_fuse = next_fuse_a(float(smallest_fuse_a(one.own_a)))
    fuses_apart = fused("Give each pump a fuse of its own, of {fuse_a}", own_fuse, ((f"{path}/fuse", ""),))
    own_rated = max(next_relay_a(one.own_a), 40.0, wiring.switch_a)
    relays_apart = Remedy(
        "Give each pump a relay of its own, of {relay_a}",
        ((f"{path}/relay", ""), (f"{path}/switch_a", own_rated), (f"{path}/switch", "relay")),
        {"relay_a": own_rated},
    )
    alone = wiring.model_copy(update={"bundled": 1})
    # A wire that is hot for the wires beside it is laid apart before it is made thicker.
    unbundled = (Remedy("Lay it apart from the other loaded wires", ((f"{path}/bundled", 1),)),)
    apart = unbundled if wiring.bundled > 1 and wire_carries_a(alone) >= must_carry else ()
    fused_apart = (fuses_apart,) if one.fused_a > one.own_a else ()
    own = dict(wired(must_carry)).get(f"{path}/area_mm2", wiring.area_mm2)
    fed = max(own, wiring.area_mm2, about_mm2(RELAY_FEED_MM2, rules.wires))
    own_feed: tuple[Edit, ...] = (
        *relay,
        (f"{path}/area_mm2", fed),
        (f"{path}/connectors_mohm", min(wiring.connectors_mohm, RELAY_FEED_MOHM)),
    )
    found: dict[Fault, tuple[Remedy, ...]] = {
        "no fuse entered": (fitted,),
        "fuse below the current": (*fused_apart, fitted),
        "fuse run above 80 %": (*fused_apart, fitted),
        "fuse larger than the wire carries": (
            *fused_apart,
            *((fitted, *apart, thicker) if proposed <= one.carries_a else (*apart, thicker)),
        ),
        "fuse larger than a segment carries": (*fused_apart, *((fitted,) if proposed <= one.carries_a else ()), renewed),
        "fuse larger than an unstated segment": (
            *fused_apart,
            *((fitted,) if proposed < (one.fuse_a or 0.0) and proposed <= one.carries_a else ()),
            Remedy("Read off what it carries, and enter it"),
        ),
        "wire too thin": (*apart, thicker),
        "segment too weak": (renewed,),
        "switch too weak": (
            *((relays_apart,) if one.switched_a > one.own_a else ()),
            Remedy("Feed it through a relay of {relay_a}", relay, {"relay_a": rated}),
        ),
        "switch too hot where it sits": (
            Remedy("Move it where air reaches it", ((f"{path}/switch_place", COLD_PLACE),)),
        ),
        "factory feed loses too much": (
            Remedy("Give it a relay feed of its own in {area_mm2}", own_feed, {"area_mm2": fed}),
        ),
        "painted or shared ground": (
            Remedy("Ground it with a wire of its own", ((f"{path}/ground", "own wire to the battery"),)),
            Remedy("Measure the drop across the ground with the pump at full load; 0.1 V is plenty"),
        ),
        "relay coils too much for their circuit": (
            Remedy(
                "Switch the coils from an output or circuit good for {coil_feed_a}",
                ((f"{path}/coil_feed_a", 5.0),),
                {"coil_feed_a": 5.0},
            ),
        ),
    }
    return found[fault]


def _for_all(context: Context, several: list[Circuit], fault: Fault) -> Iterator[Remedy]:
    """One remedy for all circuits that share a fault: what is done to each is said of each where it differs."""
    each = [_remedies(context, one, fault) for one in several]
    for alike in zip(*each, strict=False):
        edits = tuple(edit for remedy in alike for edit in remedy.edits)
        if len({repr(_told(one)) for one in alike}) == 1:
            yield Remedy(alike[0].label, edits, alike[0].values)
            continue
        labels, values = [], dict[str, Value]()
        for number, (circuit, remedy) in enumerate(zip(several, alike, strict=True)):
            own = re.sub(r"\{(\w+)\}", rf"{{of_{number}_\1}}", remedy.label)
            labels.append(f"{{circuit_{number}}}: {own[0].lower()}{own[1:]}")
            values[f"circuit_{number}"] = circuit.name
            values |= {f"of_{number}_{name}": value for name, value in remedy.values.items()}
        yield Remedy("; ".join(labels), edits, values)


def _told(remedy: Remedy) -> tuple[str, list[Value]]:
    """What is read of a remedy: its words and the values that stand in them."""
    return remedy.label, [remedy.values[name] for name in re.findall(r"\{(\w+)\}", remedy.label)]


def _ratio(one: Circuit, fault: Fault) -> float:
    """How far over a circuit is, in the terms of its fault."""
    if fault == "fuse larger than the wire carries":
        return (one.fuse_a or 0.0) / max(one.wire_carries_a, 1e-9)
    if fault == "fuse larger than a segment carries":
        return (one.fuse_a or 0.0) / one.carries_a
    return one.largest_a / max(one.carries_a, 1e-9)


def circuit(context: Context) -> Iterator[Finding]:
    """Every fault of the pumps' circuits, the lift stage's included; those of one fault in one finding."""
    every = circuits_of(context)
    for fault, (code, severity, title, text, why) in _WORDS.items():
        several = sorted((one for one in every if fault in one.problems), key=lambda one: -_ratio(one, fault))
        if not several:
            continue
        one = several[0]
        wiring, given, guessed = one.wiring, one.weakest, weakest(one.segments, stated=False)
        values: dict[str, float | str] = {
            "circuit": circuits_listed([each.name for each in several]),
            "current_a": one.current_a,
            "largest_a": one.largest_a,
            "into_a": one.fused_a,
            "switched_a": one.switched_a,
            "wire_a": one.wire_carries_a,
            "segment": "" if given is None else WORDS[given.place],
            "segment_a": 0.0 if given is None else given.carries_a,
            "unstated": "" if guessed is None else WORDS[guessed.place],
            "unstated_a": 0.0 if guessed is None else guessed.carries_a,
            "area_mm2": wiring.area_mm2,
            "fuse_a": one.fuse_a or 0.0,
            "fuse_pct": one.fused_a / (one.fuse_a or np.inf) * 100.0,
            "rated_a": wiring.switch_a,
            "switch_a": switch_carries_a(wiring),
            "lost_v": one.drop_v,
            "ground_mohm": GROUND_MOHM[wiring.ground],
            "ground_v": GROUND_MOHM[wiring.ground] / 1e3 * one.current_a,
            "coil_a": one.coils_a,
            "coil_feed_a": wiring.coil_feed_a,
        }
        grave = severity != "stop" or fault == "fuse below the current" or _ratio(one, fault) > FIRE_RATIO
        yield Finding(
            code,
            severity if grave else "warn",
            "pump",
            title,
            text,
            why,
            values,
            (),
            partial(_for_all, context, several, fault),
        )


ALTERNATORS_A = (100.0, 120.0, 150.0, 180.0, 220.0, 250.0, 320.0)
HOT_SHARE = 0.85  # of its rating an alternator gives for good, hot: class figure


def alternator(context: Context) -> Iterator[Finding]:
    """All pumps and all else together against what the alternator gives."""
    rated, other = context.build.car.alternator_a, context.build.car.other_a
    if rated is None:
        return
    drawn, worst = max(((_pumps_a(context, verdict), verdict) for verdict in context.verdicts), key=lambda one: one[0])
    if drawn + other <= HOT_SHARE * rated:
        return
    larger = next((one for one in ALTERNATORS_A if one > rated and drawn + other <= HOT_SHARE * one), None)
    yield Finding(
        "alternator",
        "warn",
        "pump",
        "More current than the alternator gives",
        "On {target_name} the pumps draw {pumps_a} and all else {other_a}; an alternator of {rated_a} gives about "
        "{hot_a} hot, all the time.",
        "What it does not give comes from the battery: the voltage falls, and the pumps with it, late in a long pull.",
        {
            "target_name": worst.target.name,
            "pumps_a": drawn,
            "other_a": other,
            "rated_a": rated,
            "hot_a": HOT_SHARE * rated,
        },
        (worst.target.name,),
        ()
        if larger is None
        else (Remedy("Fit an alternator of {fit_a}", (("car/alternator_a", larger),), {"fit_a": larger}),),
    )


def _pumps_a(context: Context, verdict: TargetVerdict) -> float:
    """Current of all electric pumps at a target's peak, A."""
    hyd, option = verdict.points.hydraulics, context.option
    volts, boost = verdict.target.supply_v, verdict.target.boost_kpa
    total = sum(
        float(hyd.amps[index, PEAK]) * group.count * group.input_share(volts, boost)
        for index, group in enumerate(option.pumps)
    )
    if verdict.lift is not None and option.lift is not None:
        total += verdict.lift.amps * option.lift.count
    return total


RULES = (circuit, alternator)
