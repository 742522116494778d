"""An upgrade road in words: its steps, what each buys, keeps and throws away, and what is safe meanwhile."""

from dataclasses import dataclass
from datetime import UTC, datetime

from markupsafe import Markup

from iron_gulp.core.model import TITLES, Build, Rates
from iron_gulp.core.plan import Held, Step, UpgradeRoad, differences, headroom_of, lanes, money
from iron_gulp.services.job import Ways
from iron_gulp.units import BenchUnits

from ..ceilings.words import Words, stretches
from .lanes import lanes_picture


@dataclass(frozen=True)
class CapRow:
    """What is safe on a target that is not carried yet."""

    name: str
    fuel: str
    boost: str
    power: str
    sets: str
    blends: str


@dataclass(frozen=True)
class StepRow:
    """A step: its name, what is done, and what is safe until the next."""

    title: str
    carries: str
    cost: str
    days: str
    bought: str
    kept: str
    thrown: str
    sets: str
    stops: str
    caps: tuple[CapRow, ...]


@dataclass(frozen=True)
class WayRow:
    """A way to the same power: what it costs at each step and in all, and what it buys to throw away."""

    name: str
    costs: tuple[str, ...]
    total: str
    thrown: str


@dataclass(frozen=True)
class RoadView:
    """Everything the piece shows."""

    picture: Markup
    steps: tuple[StepRow, ...]
    ways: tuple[WayRow, ...]
    columns: tuple[str, ...]
    day: str


def road_view(build: Build, ways: Ways, rates: Rates, units: BenchUnits) -> RoadView:
    """The road that throws nothing away, with the others beside it."""
    road = ways.least_waste
    names = [_targets(one) for one in road.steps]
    before = [road.today, *road.steps[:-1]]
    rows = [
        _row(f"Step {number}: {_targets(one)}", one, had, rates, units)
        for number, (one, had) in enumerate(zip(road.steps, before, strict=True), 1)
    ]
    heads = [(row.title, row.cost) for row in rows]
    if road.today is not None:
        rows.insert(0, _today(road.today, units))
        heads.insert(0, ("Today", "as fitted"))
    width = len(road.steps)
    told = [_way("Buy nothing twice", road, width, rates), _way("Everything at once", ways.at_once, width, rates)]
    if ways.each_time is not None:
        told.append(_way("The cheapest each time", ways.each_time, width, rates))
    day = datetime.now(UTC).strftime("%Y-%m-%d")
    return RoadView(lanes_picture(lanes(build, road), heads), tuple(rows), tuple(told), tuple(names), day)


def _today(step: Step, units: BenchUnits) -> StepRow:
    stops = "; ".join(step.stops)
    return StepRow("Today", "", "", "", "", "", "", "", stops, _caps(step, units))


def _row(title: str, step: Step, had: Step | None, rates: Rates, units: BenchUnits) -> StepRow:
    changed = [] if had is None else differences(had.option, step.option)
    settings = [f"{what} {now}" for what, _, now in changed if what == "base pressure"]
    days = step.bill.lead_days
    return StepRow(
        title,
        f"{_targets(step)} with {_left(step)} left at least",
        money(step.bill.total, rates),
        "" if days is None or not step.bill.rows else f"parts in {days} days",
        _listed(step.bought) or "nothing",
        _listed(step.kept) or "nothing",
        _listed(step.thrown) or "nothing",
        "; ".join(settings),
        "; ".join(step.stops),
        _caps(step, units),
    )


def _left(step: Step) -> str:
    missing = {cap.target.id for cap in step.caps}
    carried = [one for one in step.verdicts if one.target.id not in missing]
    return f"{headroom_of(carried) * 100:.0f}\u00a0%"


def _targets(step: Step) -> str:
    return " and ".join(one.name for one in step.targets)


def _listed(parts: Held) -> str:
    return "; ".join(part if count == 1 else f"{count} × {part}" for (_, part), count in parts.items())


def _caps(step: Step, units: BenchUnits) -> tuple[CapRow, ...]:
    words = Words(units)
    found = []
    for one in step.caps:
        allowed, boosted = one.permitted, one.target.boost_kpa > 0
        if allowed.power_kw is not None and allowed.power_kw <= 0:
            power, boost = "do not run it", "–"
        else:
            power = words.power(allowed.power_kw)
            boost = words(allowed.boost_kpa, "boost_kpa") if boosted and allowed.boost_kpa is not None else "–"
        if one.past:
            power, boost = f"at no power: {', '.join(one.past).lower()}", "–"
        sets = "–" if allowed.component is None else TITLES[allowed.component].lower()
        blends = stretches(one.blends) if one.target.base_fuel == "gasoline" else "–"
        found.append(CapRow(one.target.name, f"E{one.target.ethanol_pct:g}", boost, power, sets, blends))
    return tuple(found)


def _way(name: str, road: UpgradeRoad, width: int, rates: Rates) -> WayRow:
    costs = [money(one.bill.total, rates) for one in road.steps]
    costs += ["–"] * (width - len(costs))
    return WayRow(name, tuple(costs), money(road.total, rates), _listed(road.thrown) or "nothing")
