"""Rules about the controller's own tables: what they say at a target that the target assumes otherwise."""

from collections.abc import Iterator

from ..model import Edit, Target
from ..study import pump_duty, told_at
from .base import Context, Finding, Remedy

# How far apart an assumption and the table may lie: λ, % of filling, kPa.
APART = {"mixture": 0.02, "volumetric efficiency": 4.0, "boost": 10.0}
UNITS = {"mixture": "lambda", "volumetric efficiency": "pct", "boost": "kpa"}
ENTER = "Enter what the table says"


def _assumed(context: Context, target: Target, what: str) -> float:
    if what == "mixture":
        return target.lambda_
    if what == "boost":
        return target.boost_kpa
    return context.build.engine.ve_pct if target.ve_pct is None else target.ve_pct


def tables_part(context: Context) -> Iterator[Finding]:
    """A target whose mixture, efficiency or boost is not what the controller's table says at its point."""
    for what, apart in APART.items():
        for target in context.build.targets:
            told = told_at(context.build, target, what)
            assumed = _assumed(context, target, what)
            if told is None or abs(told - assumed) <= apart:
                continue
            unit = UNITS[what]
            yield Finding(
                "table-parts",
                "note",
                "demand",
                f"The controller's table says another {what}",
                f"At {{rpm}} and {{boost_kpa}} of {{target_name}} the table says {{told_{unit}}}; "
                f"{{assumed_{unit}}} is assumed.",
                "Fuel is sized for what is assumed; the engine will run what its controller was told.",
                {
                    "target_name": target.name,
                    "rpm": target.rpm,
                    "boost_kpa": target.boost_kpa,
                    f"told_{unit}": told,
                    f"assumed_{unit}": assumed,
                },
                (target.name,),
                (Remedy(ENTER, entered(target, what, told)), Remedy("Or change the table, and read it out again")),
            )


def duty_short(context: Context) -> Iterator[Finding]:
    """A target at whose point the controller's pump-duty table asks the pumps for too little."""
    for target in context.build.targets:
        found = pump_duty(context.build, context.option, target)
        if found is None or found.load <= 1.0:
            continue
        yield Finding(
            "pump-duty-short",
            "warn",
            "pump",
            "The pump table asks for too little",
            "At {rpm} and {boost_kpa} of {target_name} the controller runs the pumps at {told_pct}; about {needed_pct} "
            "is needed.",
            "At that duty the pumps see less voltage and bring less than the engine burns: the mixture goes lean where "
            "nothing closes the loop on pressure. An estimate by mean voltage.",
            {
                "target_name": target.name,
                "rpm": target.rpm,
                "boost_kpa": target.boost_kpa,
                "told_pct": found.told_pct,
                "needed_pct": found.needed_pct,
            },
            (target.name,),
            (Remedy("Raise the pump table there with a margin, and prove it with logged rail pressure in a pull"),),
        )


def entered(target: Target, what: str, told: float) -> tuple[Edit, ...]:
    """Edits that make a target assume what its table says."""
    name = {"mixture": "lambda", "volumetric efficiency": "ve_pct", "boost": "boost_kpa"}[what]
    return ((f"targets/{target.id}/{name}", round(told, 4)),)


RULES = (tables_part, duty_short)
