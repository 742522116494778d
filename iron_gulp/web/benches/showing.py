"""Showing a bench: its page whole, as the fragment that a change repaints, and the pieces that come when looked at."""

from importlib import import_module
from typing import Any

from fastapi import HTTPException, Request, Response

from iron_gulp.core.model import stations_of
from iron_gulp.services.workshop import Bench, Outcome

from ..parts.page import Page
from ..parts.rendering import page, units_of, workshop_of
from ..parts.stations import PAGES, STATIONS

NO_SHEET = (
    "ask",
    "ceilings",
    "chance",
    "values",
    "evidence",
    "compare",
    "design",
    "keep",
    "road",
)  # first of all, not on paper, or worked out when looked at
VIEWS: dict[str, type[Page]] = {key: import_module(f".{key}.view", __package__).View for key in PAGES}


def view_of(request: Request, bench: Bench, key: str, outcome: Outcome | None = None) -> Page:
    """The view of a bench's page."""
    workshop = workshop_of(request)
    typed = workshop.typed_units.of(bench.stored.id)
    return VIEWS[key](bench, key, units_of(request), workshop.shelf, outcome, typed)


def bench_page(
    request: Request, bench: Bench, page_key: str, outcome: Outcome | None = None, fragment: bool = False, at: int = 1
) -> Response:
    """A page of a build, whole or as the fragment that a change repaints; its list of revisions at page `at`."""
    key = page_key if page_key in PAGES else "ask"
    view = view_of(request, bench, key, outcome)
    movements = workshop_of(request).movements
    context: dict[str, Any] = {"v": view, "bench": bench, "page_key": key, "units": view.units}
    context["moved"] = movements.unseen(bench.stored.id)
    if key == "keep":
        context["movements"] = movements.of(bench.stored.id)
        context["revisions"] = workshop_of(request).garage.revisions(bench.stored.id, at)
    return page(request, "work.html" if fragment else "build.html", 200 if view.outcome is None else 422, **context)


def show(request: Request, build_id: int, key: str, option: str | None, target: str | None) -> Response:
    """A bench asked for by its address."""
    found = workshop_of(request).judging.bench(build_id, option, target)
    return bench_page(request, found, key, fragment=request.headers.get("hx-target") == "work")


def show_revisions(request: Request, build_id: int, option: str | None, target: str | None, at: int) -> Response:
    """A page of the list of revisions; the whole Keep page where it is not asked for as a fragment."""
    found = workshop_of(request).judging.bench(build_id, option, target)
    if request.headers.get("hx-target") != "revisions":
        return bench_page(request, found, "keep", at=at)
    view, revisions = view_of(request, found, "keep"), workshop_of(request).garage.revisions(build_id, at)
    return page(request, "keep/revisions.html", v=view, revisions=revisions, units=view.units)


def piece(request: Request, build_id: int, key: str, option: str | None, target: str | None) -> Page:
    """The view from which a piece of a page is shown. Raises HTTPException for an unknown page."""
    if key not in VIEWS:
        raise HTTPException(404)
    return view_of(request, workshop_of(request).judging.bench(build_id, option, target), key)


def show_sheets(request: Request, build_id: int, option: str | None, target: str | None) -> Response:
    """Every bench of a build after another, as it goes to paper: the request, the path's stations, then the plans."""
    found = workshop_of(request).judging.bench(build_id, option, target)
    there = stations_of(found.option)
    pages = [key for key in PAGES if key not in NO_SHEET and (key not in STATIONS or key in there)]
    keys = ("ask", *pages)
    titles = {str(key): title for key, title in STATIONS.items()}
    sheets = [(titles.get(key, key.capitalize()), view_of(request, found, key)) for key in keys]
    return page(request, "sheets.html", sheets=sheets, v=sheets[0][1], bench=found, units=sheets[0][1].units)
