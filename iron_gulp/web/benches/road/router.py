"""Roads, combinations, and opening a road as an option."""

from fastapi import APIRouter, Request, Response

from ...parts.rendering import page, units_of, workshop_of
from ...parts.types import Base, BuildId, Line
from ..changes import Here, repaint
from .roads import grids_view, roads_view

router = APIRouter(prefix="/builds/{build_id}/road")


@router.get("/roads")
def roads(request: Request, build_id: BuildId, option: str | None = None, target: str | None = None) -> Response:
    """Every road from the option, and the one recommended."""
    workshop, units = workshop_of(request), units_of(request)
    bench = workshop.judging.bench(build_id, option, target)
    found, advice = workshop.roads.of(bench)
    view = roads_view(bench, found, advice, workshop.roads.rates(), units)
    return page(request, "road/roads.html", r=view, url=f"/builds/{build_id}", units=units)


@router.get("/grid")
def grid(request: Request, build_id: BuildId, option: str | None = None, target: str | None = None) -> Response:
    """Pumps × injectors × low pumps on the target."""
    workshop, units = workshop_of(request), units_of(request)
    bench = workshop.judging.bench(build_id, option, target)
    return page(request, "road/grid.html", grids=grids_view(workshop.roads.grids(bench), units), units=units)


@router.post("/open")
def open_road(request: Request, build_id: BuildId, here: Here, base: Base, kind: Line) -> Response:
    """A road as an option of its own."""
    return repaint(request, build_id, here, workshop_of(request).roads.open(build_id, base, here.option, kind))
