"""Rules about pump circuits: fuse, wire, switch."""

from collections.abc import Iterator

from ..electrical import AMPACITY_MM2, ampacity_a, next_fuse_a, smallest_fuse_a
from .base import Context, Finding, Remedy


def circuit(context: Context) -> Iterator[Finding]:
    """Fuse too small for the pump, too large for the wire, wire too thin, or switch too weak."""
    for index, group in enumerate(context.option.pumps):
        amps = max(float(verdict.points.hydraulics.amps[index].max()) for verdict in context.verdicts)
        if amps <= 0:
            continue
        wiring = group.wiring
        carries = float(ampacity_a(wiring.area_mm2, wiring.copper_temp_c))
        wanted = next_fuse_a(float(smallest_fuse_a(amps)))
        path = context.path(f"pumps/{group.id}/wiring")
        must_carry = max(wanted, wiring.fuse_a or 0.0)
        area = next(
            (one for one in AMPACITY_MM2 if float(ampacity_a(one, wiring.copper_temp_c)) >= must_carry), AMPACITY_MM2[-1]
        )
        values: dict[str, float | str] = {
            "group": f"Group {index + 1}",
            "current_a": amps,
            "wire_a": carries,
            "area_mm2": wiring.area_mm2,
            "wanted_a": wanted,
            "switch_a": wiring.switch_a,
            "fuse_a": wiring.fuse_a or 0.0,
        }
        fit_fuse = Remedy("Fit a fuse of {wanted_a}", ((f"{path}/fuse_a", wanted),), {"wanted_a": wanted})
        thicker = Remedy("Wire it in {area_mm2}", ((f"{path}/area_mm2", area),), {"area_mm2": area})
        why = "The fuse protects the wire: it must carry 1.25 times the pump's current and never more than the wire does."
        if wiring.fuse_a is not None and wiring.fuse_a < float(smallest_fuse_a(amps)):
            text = "{group} draws {current_a} for good; its fuse of {fuse_a} wants at most 80 % of its rating."
            yield Finding("fuse-small", "warn", "pump", "Fuse too small for the pump", text, why, values, (), (fit_fuse,))
        if wiring.fuse_a is not None and wiring.fuse_a > carries:
            text = "{group}: a fuse of {fuse_a} on a wire that carries {wire_a} ({area_mm2})."
            title = "The wire burns before the fuse"
            yield Finding(
                "fuse-large",
                "stop",
                "pump",
                title,
                text,
                why,
                values,
                (),
                (fit_fuse, thicker) if wanted <= carries else (thicker,),
            )
        if amps > carries:
            text = "{group} draws {current_a}; its wire of {area_mm2} carries {wire_a}."
            yield Finding("wire-thin", "stop", "pump", "Wire too thin for the current", text, why, values, (), (thicker,))
        if amps > wiring.switch_a:
            text = "{group} draws {current_a} through a switch rated {switch_a}."
            relay = Remedy("Feed it through a relay of 40 A", ((f"{path}/switch_a", 40.0), (f"{path}/switch", "relay")))
            yield Finding(
                "switch-weak",
                "warn",
                "pump",
                "Relay or controller too weak",
                text,
                "Contacts weld or burn open; a pump controller overheats and shuts down, at full load first.",
                values,
                (),
                (relay,),
            )


RULES = (circuit,)
