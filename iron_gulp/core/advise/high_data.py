"""Rules about what is stated of the high side: a relief above the target, tables that reach, a window that can be."""

from collections.abc import Iterator

import numpy as np

from ..physics import high_pressure as hp
from ..solve import PEAK
from .base import Context, Finding, Remedy
from .high_base import direct_of, high_of

ROOM = 1.05  # of the target a rail sensor must read: above it control and overshoot are not seen
FIT_ROOM = 1.15  # of the target: what is fitted in its place
WIDEST_DEG = 360.0  # intake and compression: later the exhaust valve is open, or the flame burns
ROUND_KPA = 500.0


def ripple_kpa(context: Context) -> float:
    """The most one injection drops the rail, and a stroke lifts it again, over all targets, kPa (an estimate)."""
    high = high_of(context)
    count, found = high.injectors.count or context.build.engine.cylinders, []
    for verdict in context.verdicts:
        direct, rpm = direct_of(verdict), verdict.target.rpm
        shot = float(direct.direct_kg_s[PEAK]) * 120.0 / rpm / count
        density = float(direct.density_kg_m3[PEAK])
        found.append(float(hp.ripple_kpa(shot, density, high.bulk_modulus_mpa, high.rail_volume_cc)))
    return max(found)


def below_relief_kpa(context: Context) -> float:
    """The highest target, in steps, that the rail's ripple does not carry up to the relief valve, kPa."""
    most = (high_of(context).relief_kpa or np.inf) - ripple_kpa(context)
    return float(np.floor(most / ROUND_KPA) * ROUND_KPA)


def relief_near(context: Context) -> Iterator[Finding]:
    """A relief valve that the rail's own ripple reaches."""
    high = context.option.high_side
    if high is None or high.relief_kpa is None or context.option.mode == "port only":
        return
    top, ripple = max(high.target.kpa), ripple_kpa(context)
    if not top <= high.relief_kpa < top + ripple:
        return
    fit = float(np.ceil(FIT_ROOM * (top + ripple) / ROUND_KPA) * ROUND_KPA)
    borne = min(high.injectors.part.max_rail_kpa, *(pump.part.max_rail_kpa for pump in high.pumps))
    path = context.path("high_side/relief_kpa")
    higher = (Remedy("Fit a valve that opens at {fit_kpa}", ((path, fit),), {"fit_kpa": fit}),) if fit <= borne else ()
    lower = below_relief_kpa(context)
    yield Finding(
        "relief-near",
        "warn",
        "high",
        "The relief valve opens within the rail's ripple",
        "The target reaches {top_kpa} and the rail swings by about {ripple_kpa} with each injection (estimate); the "
        "valve opens at {relief_kpa}.",
        "A valve that lifts with every stroke leaks rail pressure away at full load, hammers its seat and weeps "
        "afterwards.",
        {"top_kpa": top, "ripple_kpa": ripple, "relief_kpa": high.relief_kpa},
        (),
        (
            *higher,
            Remedy(
                "Lower the rail target to {lower_kpa}",
                ((context.path("high_side/target/kpa"), [min(one, lower) for one in high.target.kpa]),),
                {"lower_kpa": lower},
            ),
        ),
    )


def table_short(context: Context) -> Iterator[Finding]:
    """A measured efficiency that ends below the engine's speed or the rail's target: it is taken as level beyond."""
    high = context.option.high_side
    if high is None or context.option.mode == "port only":
        return
    rpm = max(one.target.rpm for one in context.verdicts)
    kpa = max(high.target.kpa)
    for number, pump in enumerate(high.pumps):
        told = pump.part.efficiency
        if told is None or (told.rpm[-1] >= rpm and told.pressure_kpa[-1] >= kpa):
            continue
        slow = told.rpm[-1] < rpm
        yield Finding(
            "efficiency-short",
            "warn",
            "high",
            "The pump's efficiency table is too short",
            "The table of pump {number_text} ends at "
            + (
                "{ends_rpm}; the targets run to {asked_rpm}."
                if slow
                else "{ends_kpa}; the rail is to stand at {asked_kpa}."
            )
            + " Beyond it the last value is kept, which flatters the pump.",
            "Efficiency falls with pressure, and with the speed at which the plunger outruns its inlet: what was not "
            "measured is a guess.",
            {
                "number_text": str(number + 1),
                "ends_rpm": told.rpm[-1],
                "asked_rpm": rpm,
                "ends_kpa": told.pressure_kpa[-1],
                "asked_kpa": kpa,
            },
            tuple(one.target.name for one in context.verdicts if one.target.rpm > told.rpm[-1]) if slow else (),
            (
                Remedy(
                    "Reckon with the pump's own geometry instead of the table",
                    ((context.path(f"high_side/pumps/{number}/part/efficiency"), None),),
                ),
                Remedy("Measure the pump, or ask its maker, up to there"),
            ),
        )
        return


def window_wide(context: Context) -> Iterator[Finding]:
    """An injection window longer than intake and compression together."""
    high = context.option.high_side
    if high is None or high.window_deg <= WIDEST_DEG or context.option.mode == "port only":
        return
    usual = type(high).model_fields["window_deg"].default
    yield Finding(
        "window-wide",
        "warn",
        "high",
        "The injection window cannot be that wide",
        "{window_deg} of the cycle are entered; intake and compression together are {whole_deg}.",
        "Beyond them the exhaust valve stands open or the charge burns: what is injected there is lost. The "
        "window as entered hides injectors that are too small.",
        {"window_deg": high.window_deg, "whole_deg": WIDEST_DEG},
        (),
        (
            Remedy(
                "Enter the window the controller really has; {usual_deg} is usual",
                ((context.path("high_side/window_deg"), usual),),
                {"usual_deg": usual},
            ),
        ),
    )


RULES = (relief_near, table_short, window_wide)
