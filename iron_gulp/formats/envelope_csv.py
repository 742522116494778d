"""Ceilings along an axis as CSV: a row a place, a column a component; powers in kW, empty where there is none."""

import csv
import io

from iron_gulp.core.study import Envelope, Permitted

from .cells import neutral


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
    """Boost permitted on each blend read, and if the fuel is stronger than read."""
    out = io.StringIO()
    writer = csv.writer(out, lineterminator="\n")
    writer.writerow(["ethanol_pct", "boost_kpa", "power_kw", "limited_by", "wrong_boost_kpa", "wrong_power_kw"])
    for one in rows:
        numbers = (_cell(one.boost_kpa), _cell(one.power_kw), neutral(one.component or ""))
        writer.writerow([f"{one.ethanol_pct:g}", *numbers, _cell(one.wrong_boost_kpa), _cell(one.wrong_power_kw)])
    return out.getvalue()


def _cell(value: float | None) -> str:
    """A number to six digits; empty for none."""
    return "" if value is None or value != value or value in (float("inf"), float("-inf")) else f"{value:.6g}"
