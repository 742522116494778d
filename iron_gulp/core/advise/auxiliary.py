"""Rules about a second liquid: nozzles that cannot spray, an engine that goes lean when it stops, a tank too small."""

from collections.abc import Iterator

from ..study import sprayed
from .base import Context, Finding, Remedy

LEAN = 1.02  # of the mixture meant
RESERVE = 1.3


def nozzle_dead(context: Context) -> Iterator[Finding]:
    """Pump pressure not above boost and the nozzle's opening pressure."""
    told = context.option.auxiliary
    if told is None:
        return
    asked = [one for one in context.verdicts if one.target.boost_kpa > told.start_kpa]
    dead = [one for one in asked if one.target.boost_kpa >= sprayed(told, one).dead_above_kpa]
    if not dead:
        return
    worst = max(dead, key=lambda one: one.target.boost_kpa)
    needed = round(worst.target.boost_kpa + told.opening_kpa + 300.0, -1)
    yield Finding(
        "nozzle-dead",
        "stop",
        "demand",
        "The second liquid's nozzle cannot spray",
        "It sprays nothing above {limit_kpa} of boost: the pump makes {pump_kpa}, the nozzle opens at {opening_kpa}. "
        "{target_name} runs {boost_kpa}.",
        "A spray that stops as boost rises leaves the engine without it where it is wanted most.",
        {
            "limit_kpa": sprayed(told, worst).dead_above_kpa,
            "pump_kpa": told.pump_kpa,
            "opening_kpa": told.opening_kpa,
            "target_name": worst.target.name,
            "boost_kpa": worst.target.boost_kpa,
        },
        tuple(one.target.name for one in dead),
        (
            Remedy(
                "Set its pump to {needed_kpa}", ((context.path("auxiliary/pump_kpa"), needed),), {"needed_kpa": needed}
            ),
        ),
    )


def unwatched(context: Context) -> Iterator[Finding]:
    """A second liquid whose loss nobody notices, on an engine that goes lean without it."""
    told = context.option.auxiliary
    if told is None or told.watched != "nothing":
        return
    each = [(sprayed(told, one), one) for one in context.verdicts]
    lean = [
        (found, one) for found, one in each if found.flow_kg_s > 0 and found.lambda_without > found.lambda_with * LEAN
    ]
    if not lean:
        return
    found, worst = max(lean, key=lambda pair: pair[0].lambda_without / pair[0].lambda_with)
    yield Finding(
        "auxiliary-silent",
        "warn",
        "demand",
        "Nobody notices when the second liquid stops",
        "Without it {target_name} runs at {left_lambda} instead of {meant_lambda}; its cooling is gone as well.",
        "A blocked nozzle, an empty tank or a dead pump comes without a sign until the engine knocks.",
        {
            "target_name": worst.target.name,
            "left_lambda": found.lambda_without,
            "meant_lambda": found.lambda_with,
        },
        tuple(one.target.name for _, one in lean),
        (
            Remedy(
                "Watch its flow, and cut boost when it fails",
                ((context.path("auxiliary/watched"), "flow, cuts boost when it fails"),),
            ),
        ),
    )


def tank_short(context: Context) -> Iterator[Finding]:
    """A tank of the second liquid that is empty before the time at load is over."""
    told = context.option.auxiliary
    if told is None:
        return
    for verdict in context.verdicts:
        seconds = verdict.target.load_s
        minutes = sprayed(told, verdict).minutes
        if seconds is not None and minutes * 60.0 < seconds:
            needed = round(told.tank_l * seconds / 60.0 / minutes * RESERVE, 0)
            yield Finding(
                "auxiliary-tank",
                "warn",
                "demand",
                "The second liquid's tank is empty too soon",
                "{target_name} is held for {asked_s}; the tank lasts {lasts_s}.",
                "What follows is the same as a blocked nozzle.",
                {"target_name": verdict.target.name, "asked_s": seconds, "lasts_s": minutes * 60.0},
                (verdict.target.name,),
                (Remedy("Fit a tank of {tank_l}", ((context.path("auxiliary/tank_l"), needed),), {"tank_l": needed}),),
            )
            return


RULES = (nozzle_dead, unwatched, tank_short)
