"""The stations of the fuel path and the pages of a build: order, titles, and which loads belong to which station."""

from dataclasses import dataclass

from iron_gulp.core.model import Component


@dataclass(frozen=True)
class Station:
    """A station of the fuel path: page key, title, the loads it answers for."""

    key: str
    title: str
    loads: tuple[Component, ...]


STATIONS: tuple[Station, ...] = (
    Station("fuel", "Tank & fuel", ("suction", "lift")),
    Station("pump", "Pumps", ("pumps", "wiring")),
    Station("feed", "Feed", ("feed",)),
    Station("injectors", "Injectors", ("injectors", "injector idle", "needles", "float")),
    Station("demand", "Engine", ("engine",)),
    Station("regulator", "Regulator & return", ("regulator",)),
)
PHASES = ("ask", "stage", "wire", "draw", "keep")
PAGES = (*(station.key for station in STATIONS), *PHASES)
STATUS_WORDS = {"ok": "ok", "close": "close", "over": "over"}


def station_of(component: Component) -> str:
    """The station that answers for a component."""
    found = next((station.key for station in STATIONS if component in station.loads), None)
    return found or "regulator"
