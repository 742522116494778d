"""Rules about carburettors: boost on the floats, float pressure, needles, deadhead or bypass."""

from collections.abc import Iterator

from .base import Context, Finding, Remedy, names

BOOSTED_KPA = 10.0


def float_pressure(context: Context) -> Iterator[Finding]:
    """Inlet pressure outside what the floats work with."""
    fitted = context.option.carburettor
    if fitted is None:
        return
    over = context.over("float")
    worst = max(context.verdicts, key=lambda v: float(v.points.hydraulics.differential_kpa.max()))
    highest = float(worst.points.hydraulics.differential_kpa.max()) + context.option.regulator.part.drift_kpa
    lowest = min(float(v.points.hydraulics.differential_kpa.min()) for v in context.verdicts)
    middle = float(round((fitted.lowest_kpa + fitted.highest_kpa) / 2))
    # No lower than the floats want: a regulator holds a low pressure hardest.
    high = float(round(max(0.85 * fitted.highest_kpa - context.option.regulator.part.drift_kpa, middle)))
    set_it, set_high = (
        Remedy("Set {base_kpa}", ((context.path("regulator/base_kpa"), base),), {"base_kpa": base})
        for base in (middle, high)
    )
    if over:
        yield Finding(
            "float-flooded",
            "stop",
            "injectors",
            "Pressure pushes the floats off their seats",
            "The inlet reaches {highest_kpa}, hot; the floats hold against {limit_kpa}.",
            "A flooded carburettor spills fuel over a hot engine: a fire, before it is a mixture fault.",
            {"highest_kpa": highest, "limit_kpa": fitted.highest_kpa},
            names(over),
            (set_high, set_it),
        )
    elif lowest < fitted.lowest_kpa:
        yield Finding(
            "float-dry",
            "warn",
            "injectors",
            "Too little pressure at the carburettor",
            "The inlet falls to {lowest_kpa}; {wanted_kpa} is the least it should see.",
            "The float chambers fall at full load, and the mixture goes lean down the straight.",
            {"lowest_kpa": lowest, "wanted_kpa": fitted.lowest_kpa},
            (),
            (set_it, Remedy("Look upstream: pump, filter, suction and feed before the needles")),
        )


def needles_small(context: Context) -> Iterator[Finding]:
    """The needles cannot pass what the engine burns."""
    fitted, over = context.option.carburettor, context.over("needles")
    if fitted is None or not over:
        return
    worst = over[0]
    load = worst.load("needles").load
    bore = round(fitted.needle_mm * (load / 0.8) ** 0.5 + 0.05, 1)
    yield Finding(
        "needles-small",
        "warn",
        "injectors",
        "Float needles too small",
        "On {target_name} the needles of {needle_mm} are asked for {load_pct} of what they pass at {inlet_kpa}.",
        "More pump or pressure does not help once the seat is the restriction.",
        {
            "target_name": worst.target.name,
            "needle_mm": fitted.needle_mm,
            "load_pct": load * 100.0,
            "inlet_kpa": float(worst.points.hydraulics.differential_kpa[0]),
        },
        names(over),
        (Remedy("Seats of {needle_mm}", ((context.path("carburettor/needle_mm"), bore),), {"needle_mm": bore}),),
    )


def deadhead_drift(context: Context) -> Iterator[Finding]:
    """A deadhead regulator drifts with heat; a bypass keeps fuel moving and cool."""
    regulator = context.option.regulator
    if regulator.arrangement != "carburettor, deadhead":
        return
    yield Finding(
        "deadhead-drift",
        "note",
        "regulator",
        "Deadhead regulators drift with heat",
        "Nothing returns: fuel stands in the line when the engine takes none, and pressure drifts by {drift_kpa} hot.",
        "Simple and light, but vapour collects under the bonnet. A bypass holds pressure steady and keeps fuel cool.",
        {"drift_kpa": regulator.part.drift_kpa},
        (),
        (
            Remedy(
                "Plumb it as a bypass with a return to the tank",
                ((context.path("regulator/arrangement"), "carburettor, bypass"),),
            ),
        ),
    )


def blow_through(context: Context) -> Iterator[Finding]:
    """A turbocharged carburettor fed against the air's pressure only: under boost the charge holds the fuel out."""
    regulator, fitted = context.option.regulator, context.option.carburettor
    boosted = [v for v in context.verdicts if v.target.boost_kpa > BOOSTED_KPA]
    blown = context.build.engine.induction == "turbocharged"
    if fitted is None or not blown or not boosted or regulator.reference != "atmosphere":
        return
    worst = max(boosted, key=lambda v: v.target.boost_kpa)
    yield Finding(
        "blow-through",
        "stop",
        "regulator",
        "Boost holds the fuel out of the carburettor",
        "{target_name} puts {boost_kpa} on the float chambers; the regulator holds {base_kpa} against the open air, so "
        "{left_kpa} is left to fill them.",
        "A blown-through carburettor wants its fuel at base pressure above the charge: a regulator referenced to it, and "
        "a pump that makes base and boost together.",
        {
            "target_name": worst.target.name,
            "boost_kpa": worst.target.boost_kpa,
            "base_kpa": regulator.base_kpa,
            "left_kpa": regulator.base_kpa - worst.target.boost_kpa,
        },
        names(boosted),
        (Remedy("Reference it to the charge", ((context.path("regulator/reference"), "manifold"),)),),
    )


RULES = (blow_through, float_pressure, needles_small, deadhead_drift)
