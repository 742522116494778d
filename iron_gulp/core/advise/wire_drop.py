"""Rules about the volts lost between the battery and the pumps, lift pumps included."""

from collections.abc import Iterator, Sequence
from functools import partial

from ..judge import KEPT, RELAY_FEED_MOHM, UNSURE, Circuit, circuits
from ..model import DesignRules, Edit
from ..physics import WIRE_SIZES_MM2, current_a, flow_l_h, next_fuse_a, smallest_fuse_a
from ..solve import LARGE_A, THICKEST_MM2, wire_for_mm2, wiring_resistance_ohm
from .base import Context, Finding, Remedy, highest
from .segments import bearing, renewed
from .words import circuits_listed


def circuits_of(context: Context) -> list[Circuit]:
    """The circuits of the option looked at, worked out once."""
    return context.once("circuits", lambda: circuits(context.option, context.verdicts, context.build.rules))


def lossy(context: Context, share: float = 1.0) -> list[Circuit]:
    """Circuits that lose more than a share of the drop the shop allows, worst first."""
    every = circuits_of(context)
    allowed = share * KEPT * context.build.rules.wire_drop_v
    return sorted((one for one in every if one.drop_v > allowed), key=lambda one: -one.drop_v)


def wiring_drop(context: Context) -> Iterator[Finding]:
    """Voltage lost between the battery and the pumps: said once for all circuits it concerns."""
    several = lossy(context)
    if not several:
        return
    worst = several[0]
    full, real = flow_l_h(worst.part.tables(), worst.rise_kpa, [worst.arrives_v + worst.drop_v, worst.arrives_v])
    most = f", most in {circuits_listed([worst.name])}" if len(several) > 1 else ""
    yield Finding(
        "wiring-drop",
        "warn" if worst.drop_v > UNSURE * context.build.rules.wire_drop_v else "note",
        "pump",
        "Voltage lost on the way to the pump",
        "{circuit}: {current_a} a pump; {lost_v} of {supply_v} is lost in its wiring, {allowed_v} is allowed"
        + (
            "; {pump_v} arrives at its speed controller: it costs speed in hand, not flow yet."
            if worst.controlled
            else "; {pump_v} arrives. Against {rise_kpa} that costs each pump {lost_l_h}."
        ),
        "Pump tables are taken at the pump's terminals. Old wiring is the cheapest flow there is to win back.",
        {
            "circuit": circuits_listed([one.name for one in several]) + f"{most} ({worst.part.name})",
            "current_a": worst.current_a,
            "lost_v": worst.drop_v,
            "allowed_v": context.build.rules.wire_drop_v,
            "supply_v": worst.supply_v,
            "pump_v": worst.arrives_v,
            "rise_kpa": worst.rise_kpa,
            "lost_l_h": float(full - real),
        },
        (worst.target_name,),
        partial(better_wire, context, several),
    )


def _more(one: Circuit, volts: float) -> float:
    """How much more a pump draws at other volts, of what it draws as wired; behind a controller no more."""
    tables = one.part.tables()
    as_wired, then = (float(current_a(tables, one.rise_kpa, at)) for at in (one.arrives_v, max(volts, one.arrives_v)))
    return max(then / as_wired, 1.0) if as_wired > 0.0 and not one.controlled else 1.0


def better_wire(context: Context, several: Sequence[Circuit]) -> Iterator[Remedy]:
    """One feed of its own for each circuit that loses too much: the wire its drop and fuse want, and good joints."""
    rules, least = context.build.rules, dict[str, float]()
    every = sorted(several, key=lambda one: one.path)  # read in the groups' order
    remedy: Remedy | None = None
    for _ in range(MOST_SIZES):
        edits, areas = _rewired(context, every, least)
        option, verdicts = context.changed(edits), context.trial(edits) if edits else None
        if option is None or not verdicts:
            break
        after = [one for one in circuits(option.option(context.option.id), tuple(verdicts), rules) if one.name in areas]
        remedy = _told(edits, areas, max(one.drop_v for one in after), highest(verdicts, "pumps"))
        thicker = {one.name: size for one in after if (size := _next_mm2(one, rules)) is not None}
        if not thicker:
            break
        least |= thicker
    if remedy is not None:
        yield remedy
    yield Remedy("Measure the drop under load first: across fuse, relay, joints and ground, each by itself")


MOST_SIZES = 3  # looked at one after the other


def _next_mm2(one: Circuit, rules: DesignRules) -> float | None:
    """The next wire of a circuit that loses more than allowed all the same: with its volts back its pump moves and draws
    more than was thought. None where it does not, where its joints lose most of it, and past what is made for volts."""
    joints_v, _, _, ground_v = one.falls_v
    if one.drop_v <= rules.wire_drop_v or joints_v + ground_v >= rules.wire_drop_v / 2.0 or one.current_a >= LARGE_A:
        return None
    sold = WIRE_SIZES_MM2[rules.wires]
    return next((size for size in sold if one.wiring.area_mm2 < size <= THICKEST_MM2), None)


def _rewired(
    context: Context, every: Sequence[Circuit], least: dict[str, float]
) -> tuple[tuple[Edit, ...], dict[str, float]]:
    """Wire, joints and fuse of each circuit, and its wire by its name; no thinner than is known to be needed."""
    edits: list[Edit] = []
    areas: dict[str, float] = {}
    rules = context.build.rules
    for one in every:
        path, wiring = context.path(one.path), one.wiring
        good = wiring.model_copy(update={"connectors_mohm": min(wiring.connectors_mohm, RELAY_FEED_MOHM)})
        # The fuse moves with the wire. One that loses what is allowed at the current of those volts loses no more.
        current = one.current_a * _more(one, one.supply_v - rules.wire_drop_v)
        fuse = max(one.fuse_a or 0.0, next_fuse_a(float(smallest_fuse_a(one.fused_a * _more(one, one.supply_v)))))
        for judged in (wiring, good):
            area = max(wire_for_mm2(judged, current, fuse, rules.wire_drop_v, rules.wires), wiring.area_mm2)
            if current * wiring_resistance_ohm(judged.model_copy(update={"area_mm2": area})) <= rules.wire_drop_v:
                break
        area = max(area, least.get(one.name, 0.0))
        areas[one.name] = area
        if area > wiring.area_mm2:
            edits.append((f"{path}/area_mm2", area))
        if judged.connectors_mohm < wiring.connectors_mohm:
            edits.append((f"{path}/connectors_mohm", judged.connectors_mohm))
        if edits and wiring.fuse_a is not None and fuse > wiring.fuse_a:
            edits += [(f"{path}/fuse_a", fuse), *bearing(path, wiring, one.part, fuse).edits]
    return tuple(edits), areas


def _told(edits: tuple[Edit, ...], areas: dict[str, float], left_v: float, load: float) -> Remedy:
    alike = len(set(areas.values())) == 1
    wires = "; ".join(f"{circuits_listed([name])} in {{of_{n}_area_mm2}}" for n, name in enumerate(areas))
    joints = any(path.endswith("/connectors_mohm") for path, _ in edits)
    return Remedy(
        ("Wire {circuit} in {area_mm2}" if alike else f"Wire {wires}")
        + (" with new joints and relay" if joints else "")
        + (f", {stronger} to bear its fuse" if (stronger := renewed(edits)) else "")
        + ": {drop_v} lost, pumps at {load_pct} of supply",
        edits,
        {
            "circuit": circuits_listed(list(areas)),
            "area_mm2": next(iter(areas.values())),
            **{f"of_{n}_area_mm2": area for n, area in enumerate(areas.values())},
            "drop_v": left_v,
            "load_pct": load * 100,
        },
    )


RULES = (wiring_drop,)
