"""Roads, combinations, and opening a road as an option."""

from typing import Annotated

from fastapi import APIRouter, Form, Query, Request, Response

from iron_gulp.services.jobs import Busy
from iron_gulp.services.roads import LowSide
from iron_gulp.services.workshop import Bench
from iron_gulp.units import BenchUnits

from ...parts.rendering import page, units_of, workshop_of
from ...parts.types import Base, BuildId, Line
from ..changes import Here, repaint
from .roads import LOW_SIDES, blends_view, grids_view, roads_view, whole_view

router = APIRouter(prefix="/builds/{build_id}/road")


@router.get("/roads")
def roads(
    request: Request,
    build_id: BuildId,
    option: str | None = None,
    target: str | None = None,
    seen: Annotated[int, Query(ge=-1, le=99)] = -1,
) -> Response:
    """Every road from the option, and the one recommended; nothing where as many whole ones as found were `seen`."""
    workshop, units = workshop_of(request), units_of(request)
    bench = workshop.judging.bench(build_id, option, target)
    known = workshop.roads.whole(bench)
    if known is not None and known.running and len(known.found) == seen:
        return Response(status_code=204)  # folds that were opened stay open
    return _shown(request, bench, units)


@router.post("/search")
def search(
    request: Request,
    build_id: BuildId,
    option: Line,
    target: Line = "",
    low_side: Annotated[LowSide, Form()] = "as on the car",
) -> Response:
    """Begin to search every road as a whole system, with the low side asked for."""
    workshop = workshop_of(request)
    bench = workshop.judging.bench(build_id, option, target or None)
    problem = ""
    try:
        workshop.search_roads(bench, low_side)
    except Busy as error:
        problem = str(error)
    return _shown(request, bench, units_of(request), problem)


@router.post("/stop")
def stop(request: Request, build_id: BuildId, option: Line, target: Line = "") -> Response:
    """End the search of the roads; what it has found stays."""
    workshop = workshop_of(request)
    bench = workshop.judging.bench(build_id, option, target or None)
    workshop.roads.stop(build_id, bench.option.id)
    return _shown(request, bench, units_of(request))


def _shown(request: Request, bench: Bench, units: BenchUnits, problem: str = "") -> Response:
    workshop = workshop_of(request)
    found, advice = workshop.roads.of(bench)
    view = roads_view(bench, found, advice, workshop.roads.rates(), units)
    where = {"option": bench.option.id, "target": bench.verdict.target.id}
    return page(
        request,
        "road/roads.html",
        r=view,
        url=f"/builds/{bench.stored.id}",
        units=units,
        whole=whole_view(workshop.roads.whole(bench)),
        where=where,
        problem=problem,
        low_sides=LOW_SIDES,
    )


@router.get("/grid")
def grid(
    request: Request,
    build_id: BuildId,
    option: str | None = None,
    target: str | None = None,
    blend: Annotated[float | None, Query(ge=0, le=100)] = None,
) -> Response:
    """Pumps × injectors × low pumps on the target, on its own blend or on another."""
    workshop, units = workshop_of(request), units_of(request)
    bench = workshop.judging.bench(build_id, option, target)
    own = bench.verdict.target.ethanol_pct if blend is None else blend
    view = grids_view(workshop.roads.grids(bench, own), units)
    where = {"option": bench.option.id, "target": bench.verdict.target.id}
    blends = blends_view(bench, own, f"/builds/{build_id}/road/grid", where)
    return page(request, "road/grid.html", grids=view, blends=blends, units=units)


@router.post("/open")
def open_road(request: Request, build_id: BuildId, here: Here, base: Base, kind: Line) -> Response:
    """A road as an option of its own."""
    return repaint(request, build_id, here, workshop_of(request).roads.open(build_id, base, here.option, kind))
