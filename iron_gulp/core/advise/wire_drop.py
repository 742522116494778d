"""Rules about the volts lost between the battery and the pumps, lift pumps included."""

from collections.abc import Iterator, Sequence
from functools import partial

from ..judge import KEPT, RELAY_FEED_MOHM, UNSURE, Circuit, circuits
from ..model import Edit
from ..physics import flow_l_h, next_fuse_a, smallest_fuse_a
from ..solve import wire_for_mm2, wiring_resistance_ohm
from .base import Context, Finding, Remedy, highest
from .segments import bearing, renewed
from .words import circuits_listed


def lossy(context: Context, share: float = 1.0) -> list[Circuit]:
    """Circuits that lose more than a share of the drop the shop allows, worst first."""
    every = circuits(context.option, context.verdicts, context.build.rules)
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


def better_wire(context: Context, several: Sequence[Circuit]) -> Iterator[Remedy]:
    """One feed of its own for each circuit that loses too much: the wire its drop and fuse want, and good joints."""
    edits: list[Edit] = []
    areas: dict[str, float] = {}
    rules, joints = context.build.rules, False
    every = sorted(several, key=lambda one: one.path)  # read in the groups' order
    for one in every:
        path, wiring = context.path(one.path), one.wiring
        good = wiring.model_copy(update={"connectors_mohm": min(wiring.connectors_mohm, RELAY_FEED_MOHM)})
        # With its volts back a pump draws more: the fuse moves with the wire.
        more = 1.0 + one.drop_v / one.supply_v
        current = one.current_a * more
        fuse = max(one.fuse_a or 0.0, next_fuse_a(float(smallest_fuse_a(one.fused_a * more))))
        for judged in (wiring, good):
            area = max(wire_for_mm2(judged, current, fuse, rules.wire_drop_v, rules.wires), wiring.area_mm2)
            if current * wiring_resistance_ohm(judged.model_copy(update={"area_mm2": area})) <= rules.wire_drop_v:
                break
        areas[one.name] = area
        if area > wiring.area_mm2:
            edits.append((f"{path}/area_mm2", area))
        if judged.connectors_mohm < wiring.connectors_mohm:
            joints = True
            edits.append((f"{path}/connectors_mohm", judged.connectors_mohm))
        if edits and wiring.fuse_a is not None and fuse > wiring.fuse_a:
            edits += [(f"{path}/fuse_a", fuse), *bearing(path, wiring, one.part, fuse).edits]
    verdicts = context.trial(tuple(edits)) if edits else None
    if verdicts:
        option = context.changed(tuple(edits))
        assert option is not None
        after = circuits(option.option(context.option.id), tuple(verdicts), rules)
        left = max(one.drop_v for one in after if one.name in areas)
        alike = len(set(areas.values())) == 1
        wires = "; ".join(f"{circuits_listed([name])} in {{of_{n}_area_mm2}}" for n, name in enumerate(areas))
        yield Remedy(
            ("Wire {circuit} in {area_mm2}" if alike else f"Wire {wires}")
            + (" with new joints and relay" if joints else "")
            + (f", {stronger} to bear its fuse" if (stronger := renewed(tuple(edits))) else "")
            + ": {drop_v} lost, pumps at {load_pct} of supply",
            tuple(edits),
            {
                "circuit": circuits_listed(list(areas)),
                "area_mm2": next(iter(areas.values())),
                **{f"of_{n}_area_mm2": area for n, area in enumerate(areas.values())},
                "drop_v": left,
                "load_pct": highest(verdicts, "pumps") * 100,
            },
        )
    yield Remedy("Measure the drop under load first: across fuse, relay, joints and ground, each by itself")


RULES = (wiring_drop,)
