"""Pieces of the page of chances that take longer: what matters most, and the worst corners."""

from typing import Any

from fastapi import APIRouter, Request, Response

from iron_gulp.services.chances import Odds

from ...parts.rendering import page, place_of, units_of, workshop_of
from ...parts.types import BuildId
from ..showing import piece
from .view import View
from .words import TITLES, bracket_rows, corner_rows, matters_rows

router = APIRouter(prefix="/builds/{build_id}/chance")


@router.get("/dots")
def dots(request: Request, build_id: BuildId, option: str | None = None, target: str | None = None) -> Response:
    """Headroom of every component as dots; with it the path, its loads with their bands."""
    view = piece(request, build_id, "chance", option, target)
    assert isinstance(view, View)
    view.drawn = True
    return page(request, "chance/dots.html", v=view, units=view.units)


@router.get("/matters")
def matters(request: Request, build_id: BuildId, option: str | None = None, target: str | None = None) -> Response:
    """Inputs by what they matter, and what to measure first."""
    bench = workshop_of(request).judging.bench(build_id, option, target)
    component, found = Odds.matters(bench)
    rows, first = matters_rows(found)
    context: dict[str, Any] = {"rows": rows, "first": first, "component": TITLES[component].lower(), **place_of(bench)}
    return page(request, "chance/matters.html", units=units_of(request), **context)


@router.get("/brackets")
def brackets(request: Request, build_id: BuildId, option: str | None = None, target: str | None = None) -> Response:
    """Best and worst case of every target where data are not known."""
    bench = workshop_of(request).judging.bench(build_id, option, target)
    found = Odds.brackets(bench)
    if found is None:
        return Response(status_code=204)
    rows, first = bracket_rows(found)
    return page(request, "chance/brackets.html", rows=rows, first=first, units=units_of(request), **place_of(bench))


@router.get("/corners")
def corners(request: Request, build_id: BuildId, option: str | None = None, target: str | None = None) -> Response:
    """The worst corners, every target in each."""
    bench = workshop_of(request).judging.bench(build_id, option, target)
    names = [one.name for one in bench.build.targets]
    rows = corner_rows(Odds.corners(bench))
    return page(request, "chance/corners.html", rows=rows, names=names, units=units_of(request), **place_of(bench))
