"""What a real part must offer on each line, in words, with what may be typed of it."""

from collections.abc import Mapping, Sequence
from dataclasses import dataclass

from iron_gulp.core.plan import Need
from iron_gulp.services.real_parts import TITLES
from iron_gulp.units import BenchUnits, quantity_of, show, show_text

GENERIC = "entered for "


@dataclass(frozen=True)
class RealRow:
    """A line: what is there, what it must offer, how it stands, and the form for the real one."""

    path: str
    id: str
    title: str
    part: str
    before: str
    must: tuple[str, ...]
    has: str
    says: str
    short: bool
    unit: str
    typed: Mapping[str, str]
    error: str


def real_rows(found: Sequence[Need], units: BenchUnits) -> list[RealRow]:
    """A row a line."""
    return [real_row(one, units) for one in found]


def real_row(need: Need, units: BenchUnits, typed: Mapping[str, str] | None = None, error: str = "") -> RealRow:
    """A line as a row; what was typed and refused stays in its form."""

    def told(value: float, name: str) -> str:
        return "\u00a0".join(part for part in show(value, name, units) if part)

    where = "" if need.rise_kpa is None else f" at {told(need.rise_kpa, 'rise_kpa')}"
    must = []
    if need.least is not None:
        must.append(f"at least {told(need.least, need.name)}{where}, for {need.least_on}")
    if need.most is not None:
        why = "for the regulator to hold idle" if need.rise_kpa is not None else "to idle"
        must.append(f"at most {told(need.most, need.name)}, {why} on {need.most_on}")
    must += [show_text(text, dict(values), units) for text, values in need.also]
    part, was = need.part, need.part.provenance
    return RealRow(
        need.path,
        need.path.replace("/", "-"),
        need.title,
        part.name,
        was.removeprefix(GENERIC) if was.startswith(GENERIC) else "",
        tuple(must),
        told(need.has, need.name) + where,
        _says(need),
        need.short,
        units.unit(quantity_of(need.name)).key,
        typed or dict.fromkeys(TITLES, ""),
        error,
    )


def _says(need: Need) -> str:
    """How the part stands against what it must offer."""
    if need.beside:
        return f"alone at no size; with {' and '.join(need.beside).lower()} larger too it does"
    if need.least is not None and need.has < need.least:
        return f"too little with the headroom: {need.least_on} first"
    if need.most is not None and need.has > need.most:
        return f"too much to idle on {need.most_on}"
    if need.hopeless:
        return "no size of it alone gives the headroom: something else beside it"
    if need.least is None and need.most is None:
        return "anything near this size does"
    return "enough"
