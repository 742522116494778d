"""Roads side by side: what each carries on every blend, costs, asks for and gives up, and the one recommended."""

from dataclasses import dataclass, replace
from math import isfinite
from urllib.parse import urlencode

from markupsafe import Markup

from iron_gulp.core.model import TITLES, Build, Rates, Target
from iron_gulp.core.plan import LOW_SIDES as LOW_SIDES
from iron_gulp.core.plan import Advice, Bill, Grid, LowSide, Road, calibration_of, grid_blends, money
from iron_gulp.services.roads import Whole
from iron_gulp.services.workshop import Bench
from iron_gulp.units import BenchUnits, quantity_of, show

from ...parts.sketch import Scale, Sketch, scale

WIDTH, HEIGHT, LEFT, RIGHT, TOP, BOTTOM = 560.0, 262.0, 52.0, 400.0, 14.0, 226.0
KINDS = {
    "today": "soft",
    "direct": "ink",
    "pump": "dotted",
    "port": "broken",
    "plenum": "dashed",
    "both": "fuel",
    "blend": "dotted",
}
_POWER = quantity_of("power_kw")


@dataclass(frozen=True)
class CostRow:
    what: str
    price: str
    generic: bool


@dataclass(frozen=True)
class RoadView:
    """One road in words."""

    kind: str
    title: str
    carries: bool
    verdict: str
    cost: str
    cost_words: str
    complexity: str
    silent: str
    ages: str
    gives_up: str
    as_asked: bool
    rows: tuple[CostRow, ...]
    opens: bool
    calibration: tuple[str, ...]


@dataclass(frozen=True)
class RoadsView:
    picture: Markup
    roads: tuple[RoadView, ...]
    steps: tuple[str, ...]
    reason: str
    other_school: str
    recommended: str
    generic: bool


class _Words:
    """Quantities in the units chosen."""

    def __init__(self, units: BenchUnits):
        self.units = units

    def __call__(self, value: float, name: str) -> str:
        return "\u00a0".join(part for part in show(value, name, self.units) if part)


def roads_view(bench: Bench, roads: list[Road], advice: Advice | None, rates: Rates, units: BenchUnits) -> RoadsView:
    """The roads as the page shows them."""
    words = _Words(units)
    told = {} if advice is None else advice.values

    def filled(text: str) -> str:
        shown = {key: value if isinstance(value, str) else words(value, key) for key, value in told.items()}
        return text.format(**shown)

    return RoadsView(
        _picture(bench, roads, units),
        tuple(_road(bench.build, road, rates, words) for road in roads),
        () if advice is None else tuple(filled(step) for step in advice.steps),
        "" if advice is None else filled(advice.reason),
        "" if advice is None else filled(advice.other_school),
        "" if advice is None else advice.kind,
        any(road.bill.generic for road in roads),
    )


@dataclass(frozen=True)
class WholeView:
    """How the search for whole systems stands: `fresh` before it was asked for, `seen` how many have come."""

    words: str
    running: bool
    again: bool
    fresh: bool = False
    seen: int = -1
    low_side: LowSide = "as on the car"


def whole_view(known: Whole | None) -> WholeView:
    """In words: not asked for, how far it has come, or what it has looked at."""
    if known is None:
        told = "Each road varies what it is named for, base pressure and low pumps."
        return WholeView(told, running=False, again=True, fresh=True)
    return replace(_whole(known), low_side=known.low_side)


def _whole(known: Whole) -> WholeView:
    many = f"{len(known.found)} of {len(known.kinds)}"
    if known.running:
        return WholeView(
            f"Roads searched as whole systems: {many}, {known.went}.", running=True, again=False, seen=len(known.found)
        )
    if known.complete:
        told = "Each road is the cheapest whole system of the shelf under its lock: lines, regulator, filter, low pumps "
        told += "and circuits too. A weaker blend is the strongest that so leaves the headroom wanted."
        return WholeView(told, running=False, again=False)
    return WholeView(f"{known.unfinished('The search').capitalize()}: {many} searched.", running=False, again=True)


def _road(build: Build, road: Road, rates: Rates, words: _Words) -> RoadView:
    worst = road.worst
    load = worst.first_out
    share = f"{load.load * 100:.0f}\u00a0%"
    verdict = f"{TITLES[load.component]} at {share} on {worst.target.name}"
    if road.ethanol_pct is not None:
        least = (
            "on gasoline alone" if road.ethanol_pct == 0 else f"up to {words(road.ethanol_pct, 'ethanol_pct')} ethanol"
        )
        left = "" if road.left_kw is None else f": about {words(road.left_kw, 'power_kw')} left"
        verdict = f"carried {least}{left}" if road.carries else verdict
    many = road.complexity
    parts = f"{many.low_pumps} low and {many.high_pumps} high pumps, {many.injectors} injectors"
    sides = "one calibrated side" if many.calibrated_sides == 1 else f"{many.calibrated_sides} calibrated sides"
    silent = "no port side that could stop unseen"
    if road.silent_factor is not None:
        lean = (road.silent_factor - 1.0) * 100.0
        goes = f"the mixture goes {words(lean, 'lean_pct')} lean" if isfinite(lean) else "nothing is injected"
        silent = f"if the port side stops unseen, {goes}"
    return RoadView(
        road.kind,
        road.title,
        road.carries,
        verdict,
        money(road.bill.total, rates) + ("" if road.bill.known else " and more"),
        _cost_words(road.bill, rates),
        f"{parts}; {sides}, {many.controllers} controller{'s' if many.controllers > 1 else ''}",
        silent,
        _ageing(road),
        road.gives_up,
        road.as_asked,
        tuple(_rows(road.bill, rates)),
        road.kind != "blend" or bool(road.bill.rows),
        calibration_of(build, road.option),
    )


def _ageing(road: Road) -> str:
    """What there is to age, in words."""
    more = [
        f"{abs(count)} {what}{'s' if abs(count) != 1 else ''} {'more' if count > 0 else 'fewer'}"
        for count, what in ((road.ages.connectors, "connector"), (road.ages.joints, "joint"))
        if count
    ]
    return f"{' and '.join(more)}: {road.ages.by} work on them" if more else "no more than today"


def _cost_words(bill: Bill, rates: Rates) -> str:
    parts, small = money(bill.parts, rates), money(bill.fittings, rates)
    work, cell = money(bill.labour, rates), money(bill.calibration, rates)
    hours = f"{bill.hours:.3g} h of fitting {work}, {bill.calibration_h:.3g} h of calibration {cell}"
    return f"parts {parts}, fittings {small}, {hours}"


def _rows(bill: Bill, rates: Rates) -> list[CostRow]:
    rows = []
    for row in bill.rows:
        count = "" if row.count == 1 else f"{row.count:.3g} × "
        price = "price not known" if row.price is None else money(row.price, rates)
        rows.append(CostRow(f"{count}{row.what}", price, row.generic and row.price is not None))
    return rows


def _picture(bench: Bench, roads: list[Road], units: BenchUnits) -> Markup:
    """Power carried against ethanol content, a line a road, every target as a point."""
    sketch = Sketch(WIDTH, HEIGHT, "Power each road carries, against ethanol content")
    hardest = max(bench.build.targets, key=lambda target: target.power_kw)
    shown = [road for road in roads if road.kind != "blend"]
    powers = [one.power_kw for road in shown for one in road.ceilings if one.power_kw is not None]
    targets = [target.power_kw for target in bench.build.targets]
    across = Scale(0.0, 100.0, LEFT, RIGHT)
    up = scale([*powers, *targets], "power_kw", units, BOTTOM, TOP, zero=False)
    sketch.upwards(up, LEFT, RIGHT, units.unit(_POWER).key)
    sketch.across(across, TOP, BOTTOM, "% ethanol")

    def y(power_kw: float) -> float:
        return up.at(units.shown(power_kw, _POWER))

    ends = []
    for road in shown:
        points = [(across.at(one.ethanol_pct), y(one.power_kw)) for one in road.ceilings if one.power_kw is not None]
        if points:
            sketch.path(points, KINDS[road.kind])
            ends.append((points[-1][1], road.title))
    lowest = TOP
    for place, title in sorted(ends):
        lowest = max(place, lowest + 13)
        sketch.text(across.at(85.0) + 8, lowest + 4, title, "s-small")
    for target in bench.build.targets:
        _target(sketch, across.at(target.ethanol_pct), y(target.power_kw), target, hardest)
    return sketch.svg()


def _target(sketch: Sketch, x: float, y: float, target: Target, hardest: Target) -> None:
    sketch.point(x, y, target.name, target is hardest)
    sketch.text(x + 9, y - 7, target.name, "s-small s-haloed")


@dataclass(frozen=True)
class GridView:
    low_pump: str
    injectors: tuple[str, ...]
    rows: tuple[tuple[str, tuple[tuple[str, str], ...]], ...]


@dataclass(frozen=True)
class BlendView:
    """A blend the grid may be shown for."""

    words: str
    url: str
    chosen: bool


def blends_view(bench: Bench, shown_pct: float, url: str, where: dict[str, str]) -> list[BlendView]:
    """The blends to choose from."""
    return [
        BlendView(f"E{one:g}", f"{url}?{urlencode({**where, 'blend': f'{one:g}'})}", one == shown_pct)
        for one in grid_blends(bench.build)
    ]


def grids_view(grids: list[Grid], units: BenchUnits) -> list[GridView]:
    """The combinations as tables: power and what sets it, or that it adds nothing."""
    words = _Words(units)
    found = []
    for grid in grids:
        rows = []
        for name, cells in zip(grid.pumps, grid.cells, strict=True):
            shown = []
            for cell in cells:
                power = "starved at any power" if cell.power_kw is None else words(cell.power_kw, "power_kw")
                said = TITLES[cell.component].lower()
                if cell.fuel_kw is not None:
                    said = f"the air ends it; fuel for {words(cell.fuel_kw, 'power_kw')}"
                shown.append((power, "adds nothing" if cell.adds_nothing else said))
            rows.append((name, tuple(shown)))
        found.append(GridView(grid.low_pump, grid.injectors, tuple(rows)))
    return found
