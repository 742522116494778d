"""Rules about what a series allows and what fuel is sold as: class rules and the fuel's grade."""

from collections.abc import Iterator

from .base import Context, Finding, Remedy, names

RETURNLESS = "returnless, speed-controlled"
# Fuel sold for spark ignition, race fuel included, on each scale: outside of it the other scale was meant.
SOLD = {"RON": (88.0, 125.0), "(R+M)/2": (83.0, 118.0)}
ROAD_TOP_RM2 = 94.0  # above this the road's pumps sell nothing on the mean scale


def returnless_barred(context: Context) -> Iterator[Finding]:
    """A series that bars returnless systems, and a returnless option."""
    barred = [one for one in context.verdicts if one.target.class_returnless == "barred"]
    if barred and context.option.regulator.arrangement == RETURNLESS:
        yield Finding(
            "class-returnless",
            "warn",
            "regulator",
            "The class bars returnless systems",
            "{target_name} is run under rules that ask for a bypass regulator and a return; this option has neither.",
            "Scrutineering stops a car before any pump does. What counts is the series' own rule book of this year.",
            {"target_name": barred[0].target.name},
            names(barred),
            (Remedy("Choose a bypass regulator and lay a return, or ask the scrutineer before building"),),
        )


def cell_required(context: Context) -> Iterator[Finding]:
    """A series that wants a fuel cell, and a tank that is none."""
    asked = [one for one in context.verdicts if one.target.class_cell == "required"]
    pickup = context.option.pickup
    if asked and (pickup is None or pickup.kind != "cell with trap doors"):
        yield Finding(
            "class-cell",
            "note" if pickup is None else "warn",
            "fuel",
            "The class wants a fuel cell",
            "{target_name} is run under rules that ask for a fuel cell; the pickup entered is: {pickup}.",
            "A cell is a certified part with a date on it. Fitting, bulkhead and vent follow its maker and the series.",
            {"target_name": asked[0].target.name, "pickup": "none" if pickup is None else pickup.kind},
            names(asked),
            (Remedy("Fit a cell with trap doors and enter its volume, pickup and vent"),),
        )


def control_fuel(context: Context) -> Iterator[Finding]:
    """More ethanol than the control fuel of the class holds."""
    strong = [
        one
        for one in context.verdicts
        if one.target.class_ethanol_pct is not None and one.target.ethanol_pct > one.target.class_ethanol_pct
    ]
    if not strong:
        return
    most = max(strong, key=lambda one: one.target.ethanol_pct)
    edits = tuple((f"targets/{one.target.id}/ethanol_pct", one.target.class_ethanol_pct) for one in strong)
    yield Finding(
        "class-fuel",
        "warn",
        "fuel",
        "Not the control fuel of the class",
        "{target_name} is sized for {ethanol_pct} ethanol; its class allows {allowed_pct}.",
        "Fuel is tested after the race. Less ethanol stands less boost and spark: check the power asked as well.",
        {
            "target_name": most.target.name,
            "ethanol_pct": most.target.ethanol_pct,
            "allowed_pct": most.target.class_ethanol_pct or 0.0,
        },
        names(strong),
        (Remedy("Size for the control fuel", edits),),
    )


def grade_scale(context: Context) -> Iterator[Finding]:
    """A grade no fuel is sold at on its scale, or two scales in one build: asked, never converted."""
    graded = [one for one in context.verdicts if one.target.fuel_grade is not None]
    odd = [one for one in graded if not _sold(context, one.target.fuel_grade or 0.0, one.target.grade_system)]
    scales = {one.target.grade_system for one in graded}
    if not odd and len(scales) < 2:
        return
    first = (odd or graded)[0].target
    yield Finding(
        "grade-scale",
        "note",
        "fuel",
        "By which scale is the fuel graded?",
        "{target_name} names {grade} by {scale}: little is sold at that grade on that scale."
        if odd
        else "Some targets name their grade by RON, others by (R+M)/2.",
        "The same fuel reads four to six lower by (R+M)/2 than by RON, and by how much depends on the fuel: read it off "
        "the pump, nothing is converted here.",
        {"target_name": first.name, "grade": f"{first.fuel_grade:g}", "scale": first.grade_system},
        names(odd or graded),
        (Remedy("Look which scale the pump or drum names, and enter every grade by it"),),
    )


def _sold(context: Context, grade: float, scale: str) -> bool:
    lowest, highest = SOLD[scale]
    if scale == "(R+M)/2" and context.build.car.use == "street":
        highest = ROAD_TOP_RM2
    return lowest <= grade <= highest


RULES = (returnless_barred, cell_required, control_fuel, grade_scale)
