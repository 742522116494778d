"""The tank's numbers: what a fill leaves in it, and when a new blend arrives."""

from collections.abc import Callable, Sequence

from ...judge import judge_many
from ...study import Arrival, InTank, arrival, tank_log
from .base import PATHS, PHYSICS, Asked, Number, Path, Place, or_none

_FILLED: dict[str, tuple[str, str, str, Callable[[InTank], float]]] = {
    "level": ("Level after the fill", "level_l", "level = left + poured", lambda one: one.level_l),
    "computed": (
        "Ethanol by arithmetic",
        "ethanol_pct",
        "blend = (what was held × left + ethanol poured × poured) ÷ level; held: the last measurement, else arithmetic",
        lambda one: or_none(one.computed_pct),
    ),
    "off": (
        "Measured against arithmetic, points",
        "off_points",
        "off = measured after the fill − blend by arithmetic",
        lambda one: or_none(one.off_points),
    ),
    "held": (
        "Ethanol in the tank",
        "ethanol_pct",
        "the measurement after the fill, where there is one; else the blend by arithmetic",
        lambda one: or_none(one.held_pct),
    ),
}
_EACH = (
    ("left_l", "left", "left_l"),
    ("poured_l", "poured", "poured_l"),
    ("poured_pct", "ethanol poured", "ethanol_pct"),
    ("measured_pct", "measured", "measured_pct"),
)
LATEST = 4  # fills back that are tried: what lies further back is diluted away


def fill(asked: Asked, place: Place) -> Number:
    """The tank after the fill at `row` of the log."""
    fills = asked[0].fills
    if place.row >= len(fills):
        raise KeyError(f"there is no fill {place.row}")
    label, name, formula, read_one = _FILLED[place.case]
    first = max(place.row + 1 - LATEST, 0)
    paths: list[Path] = [
        (f"fills/{one.id}/{field}", f"Fill {at}, {what}", unit)
        for at, one in list(enumerate(fills, start=1))[first : place.row + 1][::-1]
        for field, what, unit in _EACH
    ]
    return Number(
        f"{label}, fill {place.row + 1}",
        name,
        formula,
        lambda many: [read_one(tank_log(build.fills)[place.row]) for build, _, _ in many],
        "volumes add up; the fill log",
        paths=paths,
    )


_ARRIVES: dict[str, tuple[str, Callable[[Arrival], float | None]]] = {
    "sensor idle": ("at the sensor (without one at the end of the feed), at idle", lambda one: one.sensor_idle_min),
    "sensor load": ("at the sensor (without one at the end of the feed), at full load", lambda one: one.sensor_load_min),
    "rail idle": ("at the last rail, at idle", lambda one: one.rail_idle_min),
    "rail load": ("at the last rail, at full load", lambda one: one.rail_load_min),
}
_VOLUMES: tuple[Path, ...] = (
    ("{option}/feed/length_m", "Length of the feed", "length_m"),
    ("{option}/rail/length_m", "Length of the rail", "length_m"),
    ("{option}/rail/bore_mm", "Bore of the rail", "bore_mm"),
    ("{option}/suction/line/length_m", "Length of the suction line", "length_m"),
    ("{option}/lift/surge_l", "Surge tank", "surge_l"),
    ("{option}/high_side/rail_volume_cc", "Volume of a direct rail and its lines", "rail_volume_cc"),
)


def arrives(asked: Asked, place: Place) -> Number:
    """Minutes until the new blend is there."""
    where, read_one = _ARRIVES[place.case]
    now = read_one(arrival(judge_many([asked], ceilings=False)[0]))
    short = now is not None and now < 1.0
    size = 60.0 if short else 1.0

    def read(many: Sequence[Asked]) -> list[float]:
        return [or_none(read_one(arrival(one))) * size for one in judge_many(many, ceilings=False)]

    return Number(
        f"95 % of the new blend {where}",
        "time_s" if short else "time_minutes",
        "time = Σ volume of each line, filter and rail on the way ÷ the flow through it; a surge tank stirs: 3.0 × its "
        "volume ÷ flow of its pump more",
        read,
        f"volumes of what is entered, 0.3 L for a filter; flows of the {PHYSICS}",
        paths=(*PATHS, *_VOLUMES),
    )
