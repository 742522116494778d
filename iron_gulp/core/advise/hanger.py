"""Rules about where pumps sit: what the hanger in the tank bears, and pumps made for another place."""

from collections.abc import Iterator, Sequence

from ..model import Edit, Option, PumpGroup, flow_at, same_work
from ..solve import PEAK
from .base import Context, Finding, Remedy, Value
from .pumps import pump_fitted

PINS_EACH = 2  # plus and ground of a pump
EITHER = "in the tank or outside"
BACK = ("bypass after the rail", "carburettor, bypass")


def hanging(option: Option) -> int:
    """Electric pumps that hang in the main tank."""
    if option.lift is not None:
        return option.lift.count
    if option.suction.place != "in the tank":
        return 0
    return sum(group.count for group in option.pumps if group.part.kind != "mechanical")


def outlets(option: Option) -> int:
    """Ways through the hanger: to the front, and back from a regulator in front or from a surge tank."""
    returns = option.regulator.arrangement in BACK
    if option.lift is not None:
        return 2 + (returns and option.lift.return_to == "main tank")
    return 1 + returns


def hanger_full(context: Context) -> Iterator[Finding]:
    """More pumps than the hanger bears, or than it has pins for."""
    suction, count = context.option.suction, hanging(context.option)
    short = []
    if suction.hanger_pumps is not None and count > suction.hanger_pumps:
        short.append("it bears {bears}")
    if suction.hanger_pins is not None and count * PINS_EACH > suction.hanger_pins:
        short.append("it has {pins} pins for pumps, and each wants {each}")
    if not short:
        return
    yield Finding(
        "hanger-full",
        "warn",
        "pump",
        "More pumps than the hanger bears",
        ("One pump hangs in it: " if count == 1 else "{count} pumps hang in it: ") + "; ".join(short) + ".",
        "A pump tied in where it has no seat works loose, and two on one pin heat it: the tank comes down again.",
        {
            "count": str(count),
            "bears": str(suction.hanger_pumps),
            "pins": str(suction.hanger_pins),
            "each": str(PINS_EACH),
        },
        (),
        (
            Remedy("Fit a hanger or a module that bears {count}", _bearing(context, count), {"count": str(count)}),
            Remedy("Or one larger pump in the place of several, or the further ones outside"),
        ),
    )


def _bearing(context: Context, count: int) -> tuple[Edit, ...]:
    """Seats and pins for so many pumps, where they were counted."""
    suction, wanted = context.option.suction, {"hanger_pumps": count, "hanger_pins": count * PINS_EACH}
    return tuple(
        (context.path(f"suction/{name}"), most)
        for name, most in wanted.items()
        if (has := getattr(suction, name)) is not None and has < most
    )


def hanger_outlets(context: Context) -> Iterator[Finding]:
    """Fewer outlets than lines: one would have to be used otherwise than it is meant."""
    option = context.option
    has, wanted = option.suction.hanger_outlets, outlets(option)
    if has is None or has >= wanted or (option.lift is None and option.suction.place == "in a surge tank"):
        return
    back = "the surge tank's overflow" if option.lift is not None else "the return"
    yield Finding(
        "hanger-outlets",
        "warn",
        "fuel",
        "The hanger has no outlet for what comes back",
        "It has {has}; feed and {back} want {wanted}. A port used otherwise than it is meant is none: a vent must stay "
        "open, a level tube is too narrow.",
        "Fuel forced back through a vent or a spare tube raises the pressure in return and tank.",
        {"has": str(has), "back": back, "wanted": str(wanted)},
        (),
        (
            Remedy("Fit one with {count}", ((context.path("suction/hanger_outlets"), wanted),), {"count": str(wanted)}),
            Remedy("Or a fitting of its own into the tank, below the fuel level"),
        ),
    )


def misplaced(context: Context) -> Iterator[Finding]:
    """A pump made for the tank that sits outside, or the reverse."""
    option, place = context.option, "outside" if context.option.suction.place == "external" else "in the tank"
    wrong = [one for one in option.pumps if one.part.made_for not in (EITHER, place)]
    if not wrong or option.suction.place == "in a surge tank":
        return
    inside = place == "in the tank"
    yield Finding(
        "pump-misplaced",
        "warn",
        "pump",
        "A pump made for outside in the tank" if inside else "A pump made for the tank sits outside",
        "{which} is made to sit {made}, and sits {place}.",
        "Its terminals, seals and shell are not made to lie in fuel."
        if inside
        else "No fuel around it cools it and catches what its shell lets through: it runs hot, and it leaks.",
        {
            "which": " and ".join(dict.fromkeys(one.part.name for one in wrong)),
            "made": wrong[0].part.made_for,
            "place": place,
        },
        (),
        lambda: (*_made_for(context, wrong, place), Remedy("Or enter where it sits, if that is elsewhere")),
    )


def _made_for(context: Context, wrong: Sequence[PumpGroup], place: str) -> Iterator[Remedy]:
    """The smallest pumps made for the place that move as much as those they follow, with their fuses and wires."""
    rise = max(float(one.points.hydraulics.pump_rise_kpa[PEAK]) for one in context.verdicts)
    pumps = context.catalogue.pumps
    able = [one for one in pumps if one.made_for == place] or [one for one in pumps if one.made_for == EITHER]
    edits: list[Edit] = []
    values: dict[str, Value] = {}
    for group in wrong:
        alike = [one for one in able if same_work(one, group.part) and one.alcohol_ok >= group.part.alcohol_ok]
        enough = [one for one in alike if flow_at(one, rise) >= flow_at(group.part, rise)]
        if not enough:
            return
        part = min(enough, key=lambda one: flow_at(one, rise))
        edits += pump_fitted(context, group, part)
        values[f"part_{len(values)}"] = part.name
    yield Remedy("Fit " + ", ".join(f"{{{name}}}" for name in values) + " with fuse and wire", tuple(edits), values)


RULES = (hanger_full, hanger_outlets, misplaced)
