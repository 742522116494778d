"""Rules about the compressor: the turbo as the limit, and fuel capacity it can never use."""

from collections.abc import Iterator
from math import floor

from ..judge import TargetVerdict
from ..physics import corrected_air_kg_s
from ..study import HEAT_OR_TURBO, pull_gain
from .base import Context, Finding, Remedy, names

UNUSED = 1.5  # fuel carried over what the compressor supports, from which it is money spent for nothing


def _spare(verdict: TargetVerdict) -> float:
    """Power the fuel side carries, of what the compressor supports."""
    return (verdict.power_limit.ceiling_kw or 0.0) / (verdict.load("compressor").ceiling_kw or 1.0)


def compressor_limited(context: Context) -> Iterator[Finding]:
    """The compressor cannot pass the air this power is expected to need."""
    over = context.over("compressor")
    if not over:
        return
    worst, engine = over[0], context.build.engine
    load = worst.load("compressor")
    power = load.ceiling_kw or worst.target.power_kw / load.load
    needed = corrected_air_kg_s(worst.demand.air_expected_kg_s, engine.intake_c, context.build.car.barometer_kpa)
    yield Finding(
        "compressor-limit",
        "warn",
        "demand",
        "The compressor is the limit, not the fuel",
        "{target_name} is expected to need {needed_kg_s} of air, corrected; the compressor passes {most_kg_s}"
        + (", the most that was ever seen" if engine.compressor_known == "never seen more" else "")
        + ". It ends near {power_kw}.",
        "Fuel parts bought for power beyond it are never used; a larger compressor comes first, and before that heat: an "
        "intercooler and the air it draws.",
        {
            "target_name": worst.target.name,
            "needed_kg_s": float(needed),
            "most_kg_s": float(engine.compressor_kg_s or 0.0),
            "power_kw": power,
        },
        names(over),
        (
            Remedy(
                "Size for the {power_kw} this compressor supports",
                tuple(
                    (
                        f"targets/{one.target.id}/power_kw",
                        floor(one.target.power_kw / one.load("compressor").load * 10.0) / 10.0,
                    )
                    for one in over
                ),
                {"power_kw": round(power, 1)},
            ),
            Remedy("Or compare two recorded pulls: less than half of the gain that the pressure ratio promises is heat"),
        ),
    )


def never_used(context: Context) -> Iterator[Finding]:
    """Fuel capacity far above what the compressor can ever use."""
    for verdict in context.verdicts:
        air, fuel = verdict.load("compressor").ceiling_kw, verdict.power_limit.ceiling_kw
        if air is None or fuel is None or fuel < air * UNUSED:
            return
    worst = min(context.verdicts, key=_spare)
    yield Finding(
        "capacity-unused",
        "note",
        "demand",
        "Fuel capacity the compressor can never use",
        "On {target_name} the fuel side carries {fuel_kw}; the compressor ends near {air_kw}.",
        "What lies above the compressor is paid for and never used, and it idles no better for it.",
        {
            "target_name": worst.target.name,
            "fuel_kw": float(worst.power_limit.ceiling_kw or 0.0),
            "air_kw": float(worst.load("compressor").ceiling_kw or 0.0),
        },
        (worst.target.name,),
    )


def more_boost_less_gain(context: Context) -> Iterator[Finding]:
    """Two pulls of which the second gained less than half of what its boost promises."""
    found = pull_gain(context.build)
    if found is None or found.kept >= HEAT_OR_TURBO:
        return
    yield Finding(
        "pulls-heat",
        "note",
        "demand",
        "More boost brought little power",
        "From {low_kpa} to {high_kpa} the pressure ratio promises {expected_pct} more, {got_pct} came: it is the turbo "
        "or heat, not fuel.",
        "Past its best a compressor heats the charge rather than filling the engine; exhaust back pressure does the "
        "same. Fuel parts for still more boost would not be used.",
        {
            "low_kpa": found.low_kpa,
            "high_kpa": found.high_kpa,
            "expected_pct": found.expected * 100.0,
            "got_pct": found.got * 100.0,
        },
        (),
        (
            Remedy("Measure charge temperature and pressure before the turbine on both pulls"),
            Remedy("Size for the boost of the better pull, or for a larger compressor"),
        ),
    )


RULES = (compressor_limited, never_used, more_boost_less_gain)
