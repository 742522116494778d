"""Rules about the fill log: measurement and arithmetic that part."""

from collections.abc import Iterator

from ..study import PART_POINTS, tank_log
from .base import Context, Finding, Remedy


def tank_parted(context: Context) -> Iterator[Finding]:
    """What the sensor read after the last measured fill is not what was poured."""
    measured = [one for one in tank_log(context.build.fills) if one.off_points is not None]
    if not measured or not measured[-1].parted:
        return
    last = measured[-1]
    yield Finding(
        "tank-parted",
        "note",
        "fuel",
        "Sensor and arithmetic part",
        "After the last measured fill the sensor read E{read}; what was left and poured makes E{made}.",
        "Either the sensor is off, the station's blend is not what its label says, or what was left was another fuel: "
        "more than {apart} points is not the spread of any of them.",
        {
            "read": f"{last.fill.measured_pct:.3g}",
            "made": f"{last.computed_pct:.3g}",
            "apart": f"{PART_POINTS:g}",
        },
        (),
        (
            Remedy("Prove the sensor against a known mix before trusting a strong blend"),
            Remedy("Measure what was poured, in a tube with water"),
        ),
    )


def grade_too_low(context: Context) -> Iterator[Finding]:
    """What is in the tank stands less than a target that runs now was calibrated for."""
    log = tank_log(context.build.fills)
    if not log:
        return
    asked = [one.target for one in context.verdicts if one.target.fuel_grade is not None and one.target.when == "now"]
    if not asked:
        return
    most = max(asked, key=lambda one: one.fuel_grade or 0.0)
    last = log[-1]
    scales = {most.grade_system} | {scale for grade, scale, _ in last.grades if grade is not None}
    if len(scales) > 1:
        yield Finding(
            "grade-mixed",
            "note",
            "fuel",
            "Fills and targets name their grade by different scales",
            "{target_name} asks for a grade by {scale}; a fill was entered by another.",
            "The same fuel reads four to six lower by (R+M)/2 than by RON: nothing is converted here.",
            {"target_name": most.name, "scale": most.grade_system},
            (most.name,),
            (Remedy("Read it off the pump, and enter every grade by one scale"),),
        )
        return
    if last.grade is None or last.grade[0] >= (most.fuel_grade or 0.0):
        return
    under = [one for one in asked if (one.fuel_grade or 0.0) > last.grade[0]]
    yield Finding(
        "grade-low",
        "stop",
        "fuel",
        "The tank's grade is below the calibration's",
        "What is in the tank counts as {grade} {scale}; {target_name} asks for {wanted}.",
        "The lowest grade of any tenth of the tank counts. Too low a grade knocks at full load; knock breaks engines.",
        {
            "grade": f"{last.grade[0]:g}",
            "scale": last.grade[1],
            "target_name": most.name,
            "wanted": f"{most.fuel_grade:g}",
        },
        tuple(one.name for one in under),
        (
            Remedy("No full load until the tank is drained or a file for this grade is loaded"),
            Remedy("Measure ethanol content: a strong blend may carry the grade that its gasoline lacks"),
        ),
    )


RULES = (tank_parted, grade_too_low)
