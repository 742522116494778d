"""Rules about injectors as parts: driver, streams, height between rail and port, pressure for a good spray."""

from collections.abc import Iterator

from ..model import InjectorPart
from .base import Context, Finding, Remedy, names

LOW_OHM = 6.0  # coils below want a driver that limits their current
SEAT_MM = 1.0  # O-rings take up no more


def _sets(context: Context) -> Iterator[tuple[str, InjectorPart]]:
    """(whose, part) of each set of port injectors."""
    fitted = context.option.injectors
    if fitted is not None:
        yield "The injectors", fitted.part
        if fitted.second is not None:
            yield "The second set", fitted.second.part


def driver(context: Context) -> Iterator[Finding]:
    """Coils of low resistance on a driver that does not limit their current."""
    told = context.option.calibration.driver
    for whose, part in _sets(context):
        ohm = part.impedance_ohm
        if ohm is None or ohm >= LOW_OHM or told in ("peak and hold", "saturated, with resistors"):
            continue
        certain = told == "saturated"
        yield Finding(
            "injector-driver",
            "stop" if certain else "note",
            "injectors",
            "Injector coils overload their driver" if certain else "Injector coils want a driver that limits current",
            "{whose} have coils of {coil_ohm}" + ("; the controller drives them saturated." if certain else "."),
            "At battery voltage such a coil draws several times what such a driver is made for: driver or coil burns.",
            {"whose": whose, "coil_ohm": f"{ohm:g} Ω"},
            (),
            (
                Remedy("Drive them peak and hold: another output stage or a driver box, as the controller's maker says"),
                Remedy("Or resistors in their feed; dead time then grows, most at low voltage: measure it again"),
                Remedy("Or injectors of high resistance"),
            ),
        )


def streams(context: Context) -> Iterator[Finding]:
    """Spray and intake valves that do not match."""
    fitted = context.option.injectors
    if fitted is None or fitted.intake_valves is None or fitted.sprays != "into each port":
        return
    for whose, part in _sets(context):
        wanted = "two" if fitted.intake_valves > 1 else "one"
        if part.streams in ("not said", wanted):
            continue
        yield Finding(
            "injector-streams",
            "note",
            "injectors",
            "Spray does not meet the intake valves",
            "{whose} spray {streams} stream{s}; the port has {valves} intake valve{t}.",
            "What hits the wall between the valves runs down as a film: cold start, tip-in and idle suffer.",
            {
                "whose": whose,
                "streams": part.streams,
                "s": "" if part.streams == "one" else "s",
                "valves": str(fitted.intake_valves),
                "t": "" if fitted.intake_valves == 1 else "s",
            },
            (),
            (Remedy(f"Choose the same size with {wanted} stream{'' if wanted == 'one' else 's'}"),),
        )


def height(context: Context) -> Iterator[Finding]:
    """Injectors longer or shorter than the room between rail and port."""
    fitted = context.option.injectors
    if fitted is None or fitted.room_mm is None:
        return
    part, room = fitted.part, fitted.room_mm
    if part.height_mm is None or abs(part.height_mm - room) <= SEAT_MM:
        return
    longer = part.height_mm > room
    yield Finding(
        "injector-height",
        "warn",
        "injectors",
        "Injectors do not fit between rail and port",
        "They are {height_mm} between their seals; rail and port leave {room_mm}.",
        "An O-ring that is not seated leaks fuel at rail pressure over a hot engine.",
        {"height_mm": part.height_mm, "room_mm": room},
        (),
        (
            Remedy("Space the rail up by {gap_mm}", (), {"gap_mm": part.height_mm - room})
            if longer
            else Remedy("Fit extenders of {gap_mm}, or lower the rail by as much", (), {"gap_mm": room - part.height_mm}),
        ),
    )


def poor_spray(context: Context) -> Iterator[Finding]:
    """Pressure across the injectors below what their spray needs, pumps sufficing."""
    fitted = context.option.injectors
    if fitted is None or fitted.part.spray_min_kpa is None or context.option.mode == "direct only":
        return
    least = fitted.part.spray_min_kpa
    across = [(float(one.points.hydraulics.meant_kpa.min()), one) for one in context.verdicts]
    under = [one for kpa, one in across if kpa < least]
    if not under:
        return
    lowest, worst = min(across, key=lambda pair: pair[0])
    regulator = context.option.regulator
    base = round(regulator.base_kpa + least - lowest + 0.5)
    can = base <= regulator.part.max_base_kpa
    yield Finding(
        "spray-poor",
        "warn",
        "injectors",
        "Pressure too low for a good spray",
        "{target_name} leaves {across_kpa} across the injectors at the least; they spray well from {least_kpa}.",
        "Below it drops are coarse and the stated angle no longer holds: cold start and idle suffer first.",
        {"target_name": worst.target.name, "across_kpa": lowest, "least_kpa": least},
        names(under),
        (
            Remedy(
                "Raise the base pressure to {base_kpa}, and tell the controller",
                context.at_base(base),
                {"base_kpa": base},
            ),
        )
        if can
        else (Remedy("Choose injectors made for this pressure, or a regulator that holds more"),),
    )


RULES = (driver, streams, height, poor_spray)
