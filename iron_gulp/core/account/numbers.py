"""Numbers of tables opened: a load in a corner, a ceiling elsewhere, a boost permitted, a chance, an idle pulse.

A number is read from any build with the same option and target, so that its sensitivity is the same reading of the build
with one field changed.
"""

from collections.abc import Callable, Sequence
from contextlib import suppress
from dataclasses import dataclass

import numpy as np

from ..judge import boost_at_share, judge_many
from ..model import TITLES, Build, Component, EditError, Option, Target, Tolerances, apply, value_at
from ..physics import M3_S_PER_L_H, floats
from ..study import (
    CORNERS,
    DRAWS,
    SEED,
    WRONG_PCT,
    Axis,
    chances,
    idle_pulses,
    limits_of,
    members,
    what_matters,
    within_brackets,
)
from .figures import Explanation, Input

Asked = tuple[Build, Option, Target]
PHYSICS = "coupled solution of pumps, voltage, lines, regulator, return and injectors"
SPREADS = "draws of the tolerances listed on the page of chances, the same at every look"
MOVED_DRAWS = 400  # of the draws, for what a spread changes


@dataclass(frozen=True)
class Place:
    """Which number of its table: what a kind does not look at stays as it is.

    `at` is the place on `axis`, its unit in the axis's name; `corner` counts as in `CORNERS`; `case` is "best" or "worst"
    of brackets, "cold", "entered" or "hot" of idle pulses, "read" or "wrong" of boost permitted.
    """

    component: Component | None = None
    axis: Axis = "ethanol_pct"
    at: float = 0.0
    rising: bool = False
    corner: int = 0
    fuel: str = "gasoline"
    case: str = ""
    every: bool = False


@dataclass(frozen=True)
class _Number:
    label: str
    name: str
    formula: str
    read: Callable[[Sequence[Asked]], list[float]]
    source: str = PHYSICS
    note: str = ""
    rows: tuple[Input, ...] | None = None


_PATHS = (
    ("{target}/power_kw", "Power wanted", "power_kw"),
    ("{target}/ethanol_pct", "Ethanol", "ethanol_pct"),
    ("{target}/rpm", "Engine speed", "speed_rpm"),
    ("{target}/boost_kpa", "Boost", "boost_kpa"),
    ("{target}/supply_v", "System voltage", "supply_v"),
    ("{option}/regulator/base_kpa", "Base pressure", "base_kpa"),
    ("{option}/injectors/part/rated_flow_cc_min", "Injector size", "rated_flow_cc_min"),
    ("{option}/feed/part/bore_mm", "Feed bore", "bore_mm"),
    ("rules/headroom_pct", "Headroom wanted", "headroom_pct"),
)


def opened(kind: str, build: Build, option: Option, target: Target, place: Place) -> Explanation:
    """A number of a table with formula, source and what moves it. Raises KeyError where there is no such number."""
    number = NUMBERS[kind]((build, option, target), place)
    rows, value = number.rows, number.read([(build, option, target)])[0]
    if rows is None:
        rows = _moved(number, build, option, target)
    return Explanation(kind, number.label, number.name, value, number.formula, number.source, number.note, rows)


def _moved(number: _Number, build: Build, option: Option, target: Target) -> tuple[Input, ...]:
    """The fields that may move it, each with the number read again at 10 % less and more of it alone."""
    places = {"target": f"targets/{target.id}", "option": f"options/{option.id}"}
    known: list[tuple[str, str, str, float]] = []
    for template, label, name in _PATHS:
        path = template.format(**places)
        with suppress(EditError):
            value = value_at(build, path)
            if isinstance(value, int | float) and value != 0:
                known.append((path, label, name, float(value)))
    builds: dict[tuple[int, float], Build] = {}
    for row, (path, _, _, value) in enumerate(known):
        for factor in (0.9, 1.1):
            with suppress(EditError):  # past what the field allows: no number there
                builds[row, factor] = apply(build, [(path, value * factor)])
    read = number.read([(one, one.option(option.id), one.target(target.id)) for one in builds.values()])
    found = {key: value for key, value in zip(builds, read, strict=True) if np.isfinite(value)}
    now = number.read([(build, option, target)])[0]
    rows = [
        Input("", label, name, value, found.get((row, 0.9)), found.get((row, 1.1)))
        for row, (_, label, name, value) in enumerate(known)
    ]
    return tuple(row for row in rows if any(one is not None and not np.isclose(one, now) for one in (row.low, row.high)))


def _load(asked: Asked, place: Place) -> _Number:
    """The load of a component in a corner; of the first to run out there where none is named."""
    if not 0 <= place.corner < len(CORNERS):
        raise KeyError(f"there is no corner {place.corner}")
    where, what, change = CORNERS[place.corner]
    verdict = judge_many([change(*asked)], ceilings=False)[0]
    load = verdict.first_out if place.component is None else verdict.load(place.component)
    if load.measure == "not fitted":
        raise KeyError(f"there is no {load.title} here")
    component, corner = load.component, f"; {what} than entered" if place.corner and "all" not in what else ""
    return _Number(
        f"Load of {load.title.lower()}, {where.lower()}, {asked[2].name}" if place.corner else f"Load of {load.title}",
        "load_pct",
        f"load = {load.measure}{corner}",
        lambda many: [
            one.load(component).load * 100.0 for one in judge_many([change(*each) for each in many], ceilings=False)
        ],
    )


def _ceiling(asked: Asked, place: Place) -> _Number:
    """The power at which a component of the target runs out; of the first where none is named."""
    verdict = judge_many([asked])[0]
    load = verdict.power_limit if place.component is None else verdict.load(place.component)
    if load.ceiling_kw is None:
        raise KeyError(f"no power ends {load.title}")
    component = load.component

    def read(many: Sequence[Asked]) -> list[float]:
        return [_or_none(one.load(component).ceiling_kw) for one in judge_many(many)]

    return _Number(
        f"Power at which {load.title.lower()} run out" if load.title.endswith("s") else f"Ceiling of {load.title}",
        "power_kw",
        f"ceiling: the power at which ({load.measure}) comes to 1, solved at each power anew",
        read,
    )


def _headroom(asked: Asked, place: Place) -> _Number:
    """Power left to the first component that ends it."""

    def read(many: Sequence[Asked]) -> list[float]:
        judged = judge_many(many)
        return [(_or_none(one.power_limit.ceiling_kw) / one.target.power_kw - 1.0) * 100.0 for one in judged]

    label = f"Headroom of {asked[2].name}"
    return _Number(label, "headroom_pct", "headroom = lowest ceiling ÷ power wanted − 1", read)


def _or_none(value: float | None) -> float:
    return float("nan") if value is None else value


_AXES: dict[Axis, tuple[str, str]] = {
    "ethanol_pct": ("ethanol content", "%"),
    "rpm": ("engine speed", "1/min"),
    "base_kpa": ("base pressure", "kPa"),
}


def _limit(asked: Asked, place: Place) -> _Number:
    """What the fuel system carries at a place of an axis: the lower edge of all ceilings."""
    first = limits_of([asked], place.axis, place.at, place.rising)
    component = first.limiting[0]
    title = "nothing" if component is None else TITLES[component].lower()
    axis, unit = _AXES[place.axis]
    rising = ", boost rising with power" if place.rising else ""
    return _Number(
        f"What the fuel system carries at {axis} {place.at:g} {unit}",
        "power_kw",
        f"carried = lowest of all ceilings at that {axis}{rising}; here: {title}",
        lambda many: [float(one) for one in limits_of(many, place.axis, place.at, place.rising).limit_kw],
    )


def _permitted_kw(many: Sequence[Asked], place: Place) -> list[float]:
    at = min(place.at + WRONG_PCT, 100.0) if place.case == "wrong" else place.at
    found = limits_of(many, "ethanol_pct", at, True)
    by_air = np.where(np.isnan(found.compressor_kw), np.inf, found.compressor_kw)
    margins = np.array([build.rules.headroom_pct / 100.0 for build, _, _ in many])
    return [float(one) for one in (1.0 - margins) * np.minimum(found.limit_kw, by_air)]


def _permitted_power(asked: Asked, place: Place) -> _Number:
    """Power permitted on a blend, the shop's headroom below what sets it."""
    return _Number(
        f"Power permitted on E{place.at:g}",
        "power_kw",
        "permitted = (1 − headroom wanted) · lower of fuel's and compressor's ceiling, boost rising with power",
        lambda many: _permitted_kw(many, place),
    )


def _permitted_boost(asked: Asked, place: Place) -> _Number:
    """Boost permitted on a blend: absolute manifold pressure goes with the power permitted."""

    def read(many: Sequence[Asked]) -> list[float]:
        return [
            float(
                boost_at_share(floats(target.boost_kpa), floats(build.car.barometer_kpa), floats(power / target.power_kw))
            )
            for (build, _, target), power in zip(many, _permitted_kw(many, place), strict=True)
        ]

    wrong = f", fuel {WRONG_PCT:g} points stronger than read" if place.case == "wrong" else ""
    return _Number(
        f"Boost permitted on E{place.at:g}{wrong}",
        "boost_kpa",
        "boost = (boost of the target + barometer) · power permitted ÷ power wanted − barometer",
        read,
    )


def _on_fuel(asked: Asked, place: Place) -> _Number:
    """The ceiling on a fuel that is no blend."""

    def read(many: Sequence[Asked]) -> list[float]:
        return [_or_none(one.power_limit.ceiling_kw) for one in judge_many([_fuelled(each, place) for each in many])]

    return _Number(
        f"What the system carries on {_fuel_name(asked, place)}",
        "power_kw",
        "carried = lowest of all ceilings on that fuel, mixture and efficiency credit as the target's",
        read,
    )


def _fuel_hour(asked: Asked, place: Place) -> _Number:
    """Fuel burnt in an hour at the target's power."""

    def read(many: Sequence[Asked]) -> list[float]:
        judged = judge_many([_fuelled(each, place) for each in many], ceilings=False)
        return [float(one.demand.chosen_kg_s / one.fuel.density_kg_m3 / M3_S_PER_L_H) for one in judged]

    return _Number(
        f"{_fuel_name(asked, place)} in an hour at the target's power",
        "fuel_l_h",
        "litres = fuel by mass of the target's demand ÷ density at its temperature",
        read,
    )


def _fuelled(asked: Asked, place: Place) -> Asked:
    build, option, target = asked
    changes = {"base_fuel": place.fuel, "ethanol_pct": 0.0, "vapour_kpa_abs": None}
    return build, option, target.model_copy(update=changes)


def _fuel_name(asked: Asked, place: Place) -> str:
    names = {"gasoline": "gasoline", "methanol": "methanol"} | {fuel.id: fuel.name for fuel in asked[0].fuels}
    return names[place.fuel]


def _bracket(asked: Asked, place: Place) -> _Number:
    """The highest load of the target at the best or the worst of what is not known."""
    own, worst = within_brackets(asked[0], asked[1]), place.case == "worst"
    if own is None:
        raise KeyError("everything is known here")

    def read(many: Sequence[Asked]) -> list[float]:
        found = []
        for build, option, target in many:
            brackets = within_brackets(build, option)
            one = next(one for one in brackets.targets if one.best.target.id == target.id) if brackets else None
            found.append(float("nan") if one is None else (one.worst if worst else one.best).first_out.load * 100.0)
        return found

    return _Number(
        f"Highest load at {'worst' if worst else 'best'}, {asked[2].name}",
        "load_pct",
        f"{'highest' if worst else 'lowest'} over all ends of the brackets of the load of what runs out first",
        read,
    )


def _chance(asked: Asked, place: Place) -> _Number:
    """The share of cars like this that carry the target, or every target."""
    build, option, target = asked

    def carried(one: Build, count: int) -> float:
        found = chances(one, one.option(option.id), count)
        return 100.0 * (found.carried if place.every else found.of(target.id).carried)

    value, few = carried(build, DRAWS), carried(build, MOVED_DRAWS)

    def shifted(one: Build | None) -> float | None:
        return None if one is None else float(np.clip(value + carried(one, MOVED_DRAWS) - few, 0.0, 100.0))

    rows = []
    for name in (one for one, many in members(build, option).items() if many > 0):
        field = next(one for one in type(getattr(build.tolerances, name)).model_fields if one.startswith("spread_"))
        path, title = f"tolerances/{name}/{field}", str(Tolerances.model_fields[name].title)
        spread = float(value_at(build, path))
        if spread > 0:
            less, more = (_changed(build, path, spread * factor) for factor in (0.9, 1.1))
            rows.append(Input("", f"Spread: {title}", field, spread, shifted(less), shifted(more)))
    return _Number(
        "Cars of 100 that carry every target" if place.every else f"Cars of 100 that carry {target.name}",
        "carried_pct",
        f"carried = draws within every limit ÷ {DRAWS} draws",
        lambda many: [value],
        SPREADS,
        f"Seed {SEED}; by counting alone unsure by {_counting(value):.1g} points. What a spread changes comes from"
        f" {MOVED_DRAWS} of them.",
        tuple(rows),
    )


def _counting(value: float) -> float:
    """Standard error of a share of the draws, in points; that of one draw where none or all hold."""
    share = min(max(value / 100.0, 1.0 / DRAWS), 1.0 - 1.0 / DRAWS)
    return 100.0 * float(np.sqrt(share * (1.0 - share) / DRAWS))


def _changed(build: Build, path: str, value: float) -> Build | None:
    try:
        return apply(build, [(path, value)])
    except EditError:
        return None


def _share(asked: Asked, place: Place) -> _Number:
    """An input's share of the variance of a load."""
    build, option, target = asked
    first = chances(build, option).of(target.id).first_out
    found = next((one for one in what_matters(build, option, target, first) if one.name == place.case), None)
    if found is None:
        raise KeyError(f"{place.case} matters nothing here")
    return _Number(
        f"{Tolerances.model_fields[found.name].title}: share of the uncertainty",
        "share_pct",
        f"share = variance of the load of {TITLES[first].lower()} that goes when all others are known ÷ its variance",
        lambda many: [min(found.together, 1.0) * 100.0],
        "total-order index after Saltelli 2010; " + SPREADS,
        "The first row is what this input explains by itself; the rest it does together with others.",
        (Input("", "By itself", "share_pct", found.alone * 100.0, None, None),),
    )


_PULSES = {"cold": "cold_ms", "entered": "entered_ms", "hot": "hot_ms"}


def _pulse(asked: Asked, place: Place) -> _Number:
    """Open time of one idle pulse, without dead time."""
    field = _PULSES[place.case]

    def read(many: Sequence[Asked]) -> list[float]:
        return [
            float(getattr(idle_pulses(build, option)[build.targets.index(target)], field))
            for build, option, target in many
        ]

    if not idle_pulses(asked[0], asked[1]):
        raise KeyError("there are no port injectors")
    return _Number(
        f"Idle pulse, {place.case if place.case != 'entered' else 'as entered'}, {asked[2].name}",
        "pulse_ms",
        "pulse = fuel of one pulse at idle ÷ flow of the open injector at idle's pressure",
        read,
    )


NUMBERS: dict[str, Callable[[Asked, Place], _Number]] = {
    "load": _load,
    "ceiling": _ceiling,
    "headroom": _headroom,
    "limit": _limit,
    "permitted-boost": _permitted_boost,
    "permitted-power": _permitted_power,
    "fuel-power": _on_fuel,
    "fuel-hour": _fuel_hour,
    "bracket": _bracket,
    "chance": _chance,
    "share": _share,
    "pulse": _pulse,
}
