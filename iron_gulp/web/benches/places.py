"""On which page a field of a build stands."""

from urllib.parse import urlencode

from iron_gulp.core.model import Calibration, PumpGroup
from iron_gulp.services.workshop import Bench

# Which page holds the fields under a place of an option, and the figures of a name.
PAGE_OF_PLACE = {
    **dict.fromkeys(("tank", "pickup", "suction", "lift"), "fuel"),
    **dict.fromkeys(("pumps",), "pump"),
    **dict.fromkeys(("feed", "feed_passages", "filter", "split", "feed_cooler", "ethanol_sensor"), "feed"),
    **dict.fromkeys(("high_side", "delivery"), "high"),
    **dict.fromkeys(("auxiliary", "sensors"), "demand"),
    "boost_told": "ceilings",
    "unknown": "chance",
    **dict.fromkeys(("injectors", "carburettor", "rail", "calibration"), "injectors"),
    **dict.fromkeys(("regulator", "return_line", "return_passages", "return_entry", "return_cooler"), "regulator"),
}
PAGE_OF_BUILD = {
    "measured": "demand",
    "fuels": "fuel",
    "fills": "fuel",
    "tolerances": "chance",
    "weights": "compare",
    **dict.fromkeys(("readings", "pulls", "files"), "evidence"),
    "tables": "values",
}
CONSUMPTION = ("bsfc_kg_kwh", "expected_bsfc_kg_kwh", "alcohol", "efficiency_credit_pct", "school")
PAGE_OF_TARGET = {**dict.fromkeys(CONSUMPTION, "demand"), "accel_g": "stage"}
PAGE_OF_CALIBRATION = {"Pumps": "pump", "Fuel": "fuel", "Engine": "demand", "Injectors": "injectors"}
STAGE = PumpGroup.in_groups["Stage"]


STEPS_BELOW = {"options": 3, "targets": 2}  # to a field: by id, and of an option by what holds it


def address_of(bench: Bench, path: str) -> str:
    """The address of a field of the build on the bench, its option and target chosen there; "" where no page shows it."""
    whole, *rest = path.split("/")
    if len(rest) < STEPS_BELOW.get(whole, 1):
        return ""
    name = rest[0]
    where = {"option": bench.option.id, "target": bench.verdict.target.id}
    page_key = PAGE_OF_BUILD.get(whole, "ask")
    if whole == "options":
        if rest[1] not in PAGE_OF_PLACE:
            return ""
        where["option"], page_key = name, page_of(rest[1], path)
    elif whole == "targets":
        where["target"], page_key = name, PAGE_OF_TARGET.get(rest[-1], "ask")
    return f"/builds/{bench.stored.id}/{page_key}?{urlencode(where)}#f-{path.replace('/', '-')}"


def page_of(place: str, path: str) -> str:
    """The page of a field inside an option: circuits and stages have pages of their own."""
    last = path.rsplit("/", 1)[1]
    if "/wiring/" in path:
        return "wire"
    if place == "pumps" and (last in STAGE or last.startswith("on_")):
        return "stage"
    if place == "calibration":
        group = next((title for title, names in Calibration.in_groups.items() if last in names), "")
        return PAGE_OF_CALIBRATION.get(group, "injectors")
    return PAGE_OF_PLACE[place]
