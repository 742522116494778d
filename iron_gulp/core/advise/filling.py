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


RULES = (tank_parted,)
