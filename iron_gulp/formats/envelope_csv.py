"""Ceilings along an axis as CSV: a row a place, a column a component; powers in kW, empty where there is none."""

import csv
import io

from iron_gulp.core.study import Envelope, Permitted

from .cells import neutral

CAUTION = "estimate; knock and engine strength not counted; step up to it with a log"


def write(found: Envelope) -> str:
    """The envelope: axis, what the system carries and what sets it, air, compressor, then every component."""
    out = io.StringIO()
    writer = csv.writer(out, lineterminator="\n")
    names = list(found.curves)
    columns = [f"{one.replace(' ', '_').replace('-', '_')}_kw" for one in names]
    writer.writerow([found.axis, "limit_kw", "limiting", "air_kw", "compressor_kw", *columns])
    for n, (place, limit, first) in enumerate(zip(found.at, found.limit_kw, found.limiting, strict=True)):
        own = [_cell(found.curves[one][n]) for one in names]
        writer.writerow(
            [f"{place:g}", _cell(limit), first or "", _cell(found.air_kw[n]), _cell(found.compressor_kw[n]), *own]
        )
    return out.getvalue()


def write_permitted(rows: tuple[Permitted, ...]) -> str:
    """Boost permitted on each blend read, and if the fuel is stronger than read; the caution stands in every row."""
    out = io.StringIO()
    writer = csv.writer(out, lineterminator="\n")
    own = ("system_limit_kpa", "system_limited_by")
    writer.writerow(
        ["ethanol_pct", "boost_kpa", "power_kw", "limited_by", *own, "wrong_boost_kpa", "wrong_power_kw", "caution"]
    )
    for one in rows:
        ends = neutral(one.component or "")
        by = "no target" if one.untold else "targets" if one.by_targets else ends
        numbers = (_cell(one.boost_kpa), _cell(one.power_kw), by, _cell(one.limit_boost_kpa), ends)
        wrong = (_cell(one.wrong_boost_kpa), _cell(one.wrong_power_kw))
        writer.writerow([f"{one.ethanol_pct:g}", *numbers, *wrong, CAUTION])
    return out.getvalue()


def _cell(value: float | None) -> str:
    """A number to six digits; empty for none."""
    return "" if value is None or value != value or value in (float("inf"), float("-inf")) else f"{value:.6g}"
