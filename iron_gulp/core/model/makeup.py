"""What a kind of component is, said once: station and order on the path, title, symbol, list, loads, figures.

Path strip, diagram, parts list, report, garage line, shelf and edit services walk this description. Loads are described
here too: what a load is called, where it belongs, and whether it moves with power.
"""

from collections.abc import Iterator, Sequence
from dataclasses import dataclass
from typing import Any, Literal, NamedTuple

from .build import Option
from .edits import Edit
from .elements import Restriction
from .injector_parts import InjectorPart, PortSetPart
from .memory import remembered
from .parts import (
    DirectInjectorPart,
    FilterPart,
    HighPumpPart,
    LinePart,
    Part,
    PumpPart,
    RailPart,
    RegulatorPart,
    SensorPart,
)
from .sensors import EthanolSensor

Station = Literal["fuel", "pump", "feed", "high", "injectors", "demand", "regulator"]
Section = Literal["Tank and supply", "Pumps", "Feed", "High side", "Engine", "Return", "Electrics"]
Component = Literal[
    "engine",
    "compressor",
    "injectors",
    "injector idle",
    "high-pressure pump",
    "direct injectors",
    "high-pressure inlet",
    "direct injector idle",
    "high-pressure limit",
    "needles",
    "float",
    "pumps",
    "wiring",
    "fuse",
    "wire drop",
    "suction",
    "lift",
    "filter",
    "feed",
    "regulator",
    "return",
]

STATIONS: dict[Station, str] = {
    "fuel": "Tank & fuel",
    "pump": "Pumps",
    "feed": "Feed",
    "high": "High side",
    "injectors": "Injectors",
    "demand": "Engine",
    "regulator": "Regulator & return",
}


@dataclass(frozen=True)
class LoadKind:
    """A load: its title, its station, and how it limits: a power, idle or running ("state").

    A "margin" runs out at a power without ending it there: what it leads to is judged elsewhere. A "bound" is what a
    setting must not pass: it counts once it is past. A "rule" limits nothing: it is a habit of the shop that costs
    nothing by itself (physics §6). Of those `reserved` the headroom wanted is asked; the others must only hold.
    """

    component: Component
    title: str
    station: Station
    limits: Literal["power", "margin", "state", "rule", "air", "bound"]
    reserved: bool = False


# In the order of the path.
LOADS: tuple[LoadKind, ...] = (
    LoadKind("engine", "Engine air", "demand", "air"),
    LoadKind("compressor", "Compressor", "demand", "air"),
    LoadKind("injectors", "Injectors", "injectors", "power"),
    LoadKind("injector idle", "Injectors at idle", "injectors", "state"),
    LoadKind("direct injectors", "Direct injectors", "high", "power", reserved=True),
    LoadKind("direct injector idle", "Direct injectors at idle", "high", "state"),
    LoadKind("high-pressure pump", "High-pressure pump", "high", "power", reserved=True),
    LoadKind("high-pressure inlet", "High-pressure inlet", "high", "margin", reserved=True),
    LoadKind("high-pressure limit", "Rail pressure borne", "high", "bound"),
    LoadKind("needles", "Float needles", "injectors", "power"),
    LoadKind("float", "Float pressure", "injectors", "state"),
    LoadKind("pumps", "Pumps", "pump", "power", reserved=True),
    LoadKind("wiring", "Pump wiring", "pump", "state", reserved=True),
    LoadKind("fuse", "Fuse", "pump", "rule"),
    LoadKind("wire drop", "Wire drop", "pump", "rule"),
    LoadKind("suction", "Pump suction", "fuel", "state"),
    LoadKind("filter", "Filter", "feed", "rule"),
    LoadKind("feed", "Feed line", "feed", "rule"),
    LoadKind("lift", "Lift pump", "fuel", "power"),
    LoadKind("regulator", "Regulator at idle", "regulator", "state"),
    LoadKind("return", "Return line at idle", "regulator", "rule"),
)
ORDER: dict[Component, int] = {kind.component: number for number, kind in enumerate(LOADS)}
TITLES: dict[Component, str] = {kind.component: kind.title for kind in LOADS}
BOUNDS: tuple[Component, ...] = tuple(kind.component for kind in LOADS if kind.limits == "bound")
POWER_LIMITS: tuple[Component, ...] = tuple(kind.component for kind in LOADS if kind.limits == "power")
CEILINGS: tuple[Component, ...] = tuple(kind.component for kind in LOADS if kind.limits in ("power", "margin"))
LIMITS: tuple[Component, ...] = tuple(kind.component for kind in LOADS if kind.limits in ("power", "margin", "state"))
# What limits as boost rises with power: all but idle, which it leaves as it is.
RISING: tuple[Component, ...] = (*CEILINGS, "wiring", "suction")
RULES: tuple[Component, ...] = tuple(kind.component for kind in LOADS if kind.limits == "rule")
RESERVED: tuple[Component, ...] = tuple(kind.component for kind in LOADS if kind.reserved)


def station_of(component: Component) -> Station:
    """The station that answers for a load."""
    return LOADS[ORDER[component]].station


@dataclass(frozen=True)
class Kind:
    """A kind of component.

    `path` is its place in an option; `several` says that it is a list. Where `added` holds words it may be there or not,
    and the words offer it. `symbol` is its sign in the diagram where it is drawn in line, `load` what marks it there.
    `restricts` names the line it stands in as a restriction of its own.
    """

    key: str
    title: str
    station: Station
    path: str
    section: Section
    symbol: str = ""
    load: Component | None = None
    several: bool = False
    added: str = ""
    figures: tuple[str, ...] = ()
    restricts: Literal["", "feed", "return"] = ""


# In the order of the path, return last.
KINDS: tuple[Kind, ...] = (
    Kind("tank", "Tank", "fuel", "tank", "Tank and supply", "tank", "suction"),
    Kind("pickup", "Pickup", "fuel", "pickup", "Tank and supply", "pickup", added="Enter the pickup"),
    Kind(
        "lift",
        "Lift stage",
        "fuel",
        "lift",
        "Tank and supply",
        "pump",
        "lift",
        added="Add a lift stage",
        figures=("lift.flow_l_h", "lift.mean_l_h", "lift.inlet_kpa", "lift.reserve_s"),
    ),
    Kind(
        "suction-line",
        "Suction line",
        "fuel",
        "suction/line",
        "Tank and supply",
        "line",
        "suction",
        added="Add a suction line",
        figures=("suction.inlet_kpa", "suction.available_kpa", "suction.warming_k_h"),
    ),
    Kind(
        "pre-filter",
        "Pre-filter",
        "fuel",
        "suction/filter",
        "Tank and supply",
        "filter",
        "suction",
        added="Add a pre-filter",
    ),
    Kind(
        "pumps",
        "Group",
        "pump",
        "pumps",
        "Pumps",
        "pump",
        "pumps",
        several=True,
        added="Add a group",
        figures=("pump.supply_at_set_l_h", "pump.delivered_l_h", "pump.rail_kpa", "pump.rise_kpa"),
    ),
    Kind("filter", "Filter", "feed", "filter", "Feed", "filter", added="Fit a filter", figures=("feed.filter_kpa",)),
    Kind(
        "feed-passages",
        "Passage",
        "feed",
        "feed_passages",
        "Feed",
        "passage",
        several=True,
        added="Add a passage",
        figures=("feed.passages_kpa",),
        restricts="feed",
    ),
    Kind(
        "feed-cooler",
        "Fuel cooler",
        "feed",
        "feed_cooler",
        "Feed",
        "cooler",
        added="Fit a fuel cooler in the feed",
        figures=("cooler.feed_w",),
        restricts="feed",
    ),
    Kind(
        "feed",
        "Feed",
        "feed",
        "feed",
        "Feed",
        "line",
        "feed",
        figures=("feed.drop_kpa", "feed.velocity_m_s", "feed.reynolds"),
    ),
    Kind(
        "split",
        "Split",
        "feed",
        "split",
        "Feed",
        added="Part it to two rails",
        figures=("feed.split_kpa",),
    ),
    Kind(
        "high-feed",
        "High-pressure feed",
        "high",
        "high_side/branches",
        "High side",
        several=True,
        figures=("high.inlet_kpa",),
    ),
    Kind(
        "high-pumps",
        "High-pressure pump",
        "high",
        "high_side/pumps",
        "High side",
        load="high-pressure pump",
        several=True,
        figures=("high.capacity_kg_h", "high.efficiency_pct", "high.drive_power_w"),
    ),
    Kind(
        "direct-injectors",
        "Direct injectors",
        "high",
        "high_side/injectors",
        "High side",
        load="direct injectors",
        figures=("high.window_used_pct", "high.effective_ms"),
    ),
    Kind("rail", "Rail", "injectors", "rail", "Engine"),
    Kind("injectors", "Injectors", "injectors", "injectors", "Engine", load="injectors"),
    Kind(
        "second-injectors",
        "Second injectors",
        "injectors",
        "injectors/second",
        "Engine",
        load="injectors",
        added="Add a second set",
    ),
    Kind("carburettor", "Carburettor", "injectors", "carburettor", "Engine", load="needles"),
    Kind(
        "ethanol-sensor",
        "Ethanol sensor",
        "feed",
        "ethanol_sensor",
        "Feed",
        "passage",
        added="Fit an ethanol sensor",
        restricts="feed",
    ),
    Kind("sensors", "Sensor", "demand", "sensors", "Electrics", several=True, added="Add a sensor"),
    Kind("auxiliary", "Second liquid", "demand", "auxiliary", "Engine", added="Add a second liquid"),
    Kind("regulator", "Regulator", "regulator", "regulator", "Return", "regulator", "regulator"),
    Kind("return-line", "Return", "regulator", "return_line", "Return", "line", "return"),
    Kind(
        "return-cooler",
        "Fuel cooler",
        "regulator",
        "return_cooler",
        "Return",
        "cooler",
        added="Fit a fuel cooler in the return",
        figures=("cooler.return_w",),
        restricts="return",
    ),
    Kind(
        "return-passages",
        "Passage",
        "regulator",
        "return_passages",
        "Return",
        "passage",
        several=True,
        added="Add a passage",
        restricts="return",
    ),
)
BY_PATH: dict[str, Kind] = {kind.path: kind for kind in KINDS}

# Which part of the shelf holds a class of part.
SHELF_KINDS: dict[str, type[Part]] = {
    "pumps": PumpPart,
    "injectors": InjectorPart,
    "lines": LinePart,
    "regulators": RegulatorPart,
    "filters": FilterPart,
    "high_pumps": HighPumpPart,
    "direct_injectors": DirectInjectorPart,
    "rails": RailPart,
    "sensors": SensorPart,
    "port_sets": PortSetPart,
}


class Fitted(NamedTuple):
    """A component as fitted: its kind, its edit path in the option, a title of its own, and the element."""

    kind: Kind
    path: str
    title: str
    element: Any


class FittedPart(NamedTuple):
    """A shelf part as fitted, with the station it is edited at."""

    station: Station
    path: str
    part: Part


def shelf_kind(part_class: type[Part]) -> str:
    """The shelf that holds a class of part. Raises StopIteration for none."""
    return next(kind for kind, one in SHELF_KINDS.items() if issubclass(part_class, one))


def fitting(path: str, place: type[Any], part: Part) -> list[Edit]:
    """Edits that fit a shelf part at a path; a place that says more than the part keeps what is its own."""
    plain = part.model_dump(mode="json")
    if place in SHELF_KINDS.values():
        return [(path, plain)]
    return [(f"{path}/{name}", value) for name, value in plain.items()]


def element_at(option: Option, path: str) -> Any:
    """The element at a kind's path; None where nothing is fitted."""
    found: Any = option
    for step in path.split("/"):
        found = None if found is None else getattr(found, step)
    return found


def fitted(option: Option, *stations: Station) -> Iterator[Fitted]:
    """Every component of an option along the path, of all stations or of some."""
    yield from _fitted(option, [one for one in KINDS if not stations or one.station in stations])


def _fitted(option: Option, kinds: Sequence[Kind]) -> Iterator[Fitted]:
    for kind in kinds:
        found = element_at(option, kind.path)
        if kind.several:
            for number, one in enumerate(found or ()):
                place, alone = getattr(one, "id", number), len(found) == 1 and not hasattr(one, "id")
                title = kind.title if alone else f"{kind.title} {number + 1}"
                yield Fitted(kind, f"{kind.path}/{place}", getattr(one, "name", title), one)
        elif found is not None:
            yield Fitted(kind, kind.path, kind.title, found)


def stations_of(option: Option) -> tuple[Station, ...]:
    """The stations of an option's path: the high side where there is one, port injectors where they are fitted."""
    absent: set[Station] = set()
    if option.high_side is None:
        absent.add("high")
    elif option.injectors is None:
        absent.add("injectors")
    return tuple(one for one in STATIONS if one not in absent)


class InLine(NamedTuple):
    """A restriction as fitted in a line."""

    kind: Kind
    title: str
    element: Restriction


def restrictions(option: Option, line: Literal["feed", "return"]) -> tuple[InLine, ...]:
    """What stands in the feed or return beside its hose and filter, in the order of the flow."""
    return remembered(option, f"in the {line}", lambda whole: tuple(_in_line(whole, line)))


def _in_line(option: Option, line: str) -> Iterator[InLine]:
    for one in _fitted(option, RESTRICTING):
        if _stands_in(option, one) == line:
            yield InLine(one.kind, one.title, one.element)


# Kinds that stand in a line beside its hose; an ethanol sensor says itself where.
RESTRICTING = [one for one in KINDS if one.restricts or one.path == "ethanol_sensor"]


def _stands_in(option: Option, one: Fitted) -> str:
    """The line a restriction stands in: that of its kind, but for an ethanol sensor, which says where it sits."""
    if not isinstance(one.element, EthanolSensor):
        return one.kind.restricts
    return "" if in_branch(option) is not None else "return" if one.element.place == "in the return" else "feed"


def in_branch(option: Option) -> Restriction | None:
    """What stands in one branch of the split, the first: an ethanol sensor that says so; None without one."""
    sensor = option.ethanol_sensor
    return sensor if sensor is not None and option.split is not None and sensor.place == "in one branch" else None


def parts_of(option: Option) -> tuple[FittedPart, ...]:
    """Every shelf part of an option along the path, wherever it sits in its component."""
    return remembered(option, "parts of it", lambda whole: tuple(_fitted_parts(whole)))


def _fitted_parts(option: Option) -> Iterator[FittedPart]:
    for one in fitted(option):
        for path, part in _parts_of(one.element):
            yield FittedPart(one.kind.station, one.path + path, part)


def _parts_of(element: Any) -> tuple[tuple[str, Part], ...]:
    """Shelf parts in an element, each with its path from there; those of one that is no part itself are remembered."""
    if isinstance(element, Part):
        return (("", element),)
    return remembered(element, "parts", lambda one: tuple(_parts_in(one, "")))


def _parts_in(element: Any, path: str) -> Iterator[tuple[str, Part]]:
    if isinstance(element, Part):
        yield path, element
    elif isinstance(element, tuple):
        for number, one in enumerate(element):
            yield from _parts_in(one, f"{path}/{getattr(one, 'id', number)}")
    elif hasattr(type(element), "model_fields"):
        for name in type(element).model_fields:
            yield from _parts_in(getattr(element, name), f"{path}/{name}")
