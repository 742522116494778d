"""The stations of the fuel path, as the model describes them, and the phases of the work beside them."""

from iron_gulp.core.model import STATIONS, station_of

PHASES = ("ask", "ceilings", "chance", "compare", "design", "road", "stage", "wire", "draw", "values", "evidence", "keep")
PAGES = (*STATIONS, *PHASES)
# Whose findings belong to a page that is no station.
FINDINGS_OF = {"stage": "pump", "wire": "pump", "road": "high"}  # the page of ceilings has those of every station
ASK_STATIONS = ("demand", "fuel")

__all__ = ["ASK_STATIONS", "FINDINGS_OF", "PAGES", "PHASES", "STATIONS", "station_of"]
